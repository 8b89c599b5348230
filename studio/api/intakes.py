"""Intakes: uploads, one file a request, and sorting."""

from __future__ import annotations

from typing import Any

from django.db.models import Count, Q, QuerySet
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Form, Path, Router, Status
from ninja.files import UploadedFile

from studio.api.access import project_for, user_of
from studio.api.schemas.intakes import IntakeDetail, IntakeOut, NewIntake, TakenFile
from studio.intake.models import Intake, IntakeFile
from studio.intake.uploads import drop_intake, must_be_open, take_file, take_zip
from studio.projects.models import Membership
from studio.sorting.asking import ask_for_sample, ask_to_sort

router = Router(tags=["intakes"])


def _intake(request: HttpRequest, slug: Path[str], pk: int, right: str = Membership.Right.LOOK) -> Intake:
    return get_object_or_404(Intake, pk=pk, project=project_for(request, slug, right))


def _taken(entry: IntakeFile) -> TakenFile:
    probe = (entry.source.probe if entry.source else None) or {}
    return {
        "path": entry.path, "problem": entry.problem, "digest": entry.source_id,
        "width": probe.get("width"), "height": probe.get("height"),
    }  # fmt: skip


def _out(intake: Intake) -> IntakeOut:
    counts = intake if hasattr(intake, "file_count") else _counted(Intake.objects.filter(pk=intake.pk)).get()
    return {
        "id": intake.pk, "name": intake.name, "state": intake.state, "created": intake.created,
        "files": getattr(counts, "file_count", 0), "refused": getattr(counts, "refused_count", 0),
    }  # fmt: skip


def _counted(rows: QuerySet[Intake]) -> QuerySet[Intake]:
    return rows.annotate(file_count=Count("files"), refused_count=Count("files", filter=~Q(files__problem="")))


@router.get("", response=list[IntakeOut])
def list_intakes(request: HttpRequest, slug: Path[str]) -> Any:
    return [_out(row) for row in _counted(project_for(request, slug).intakes.all())]


@router.post("", response=IntakeOut)
def open_intake(request: HttpRequest, slug: Path[str], given: NewIntake) -> Any:
    project = project_for(request, slug, Membership.Right.PREPARE)
    name = given.name.strip()[:200] or "intake"
    return _out(Intake.objects.create(project=project, name=name, by=user_of(request)))


@router.post("/sample", response=IntakeOut)
def sample(request: HttpRequest, slug: Path[str]) -> Any:
    """Take in the sample folder, drawn in a worker: something to try the tool on."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    user = user_of(request)
    return _out(ask_for_sample(project, user))


@router.get("/{int:pk}", response=IntakeDetail)
def one_intake(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    intake = _intake(request, slug, pk)
    return {**_out(intake), "taken": [_taken(entry) for entry in intake.files.select_related("source")]}


def _open(request: HttpRequest, slug: Path[str], pk: int) -> Intake:
    intake = _intake(request, slug, pk, Membership.Right.PREPARE)
    must_be_open(intake)
    return intake


@router.post("/{int:pk}/files", response=TakenFile)
def add_file(request: HttpRequest, slug: Path[str], pk: int, file: File[UploadedFile], path: Form[str] = "") -> Any:
    """Take one file; path is its place in the folder it came from."""
    return _taken(take_file(_open(request, slug, pk), path or file.name or "unnamed", file))


@router.post("/{int:pk}/zip", response=list[TakenFile])
def add_zip(request: HttpRequest, slug: Path[str], pk: int, file: File[UploadedFile]) -> Any:
    """Take every file of a zip that can be taken; the others come with the reason, and no digest."""
    taken = take_zip(_open(request, slug, pk), file, file.name or "archive.zip")
    nothing = {"digest": None, "width": None, "height": None}
    return [
        *(_taken(entry) for entry in taken.taken),
        *({"path": path, "problem": problem, **nothing} for path, problem in taken.refused),
    ]


@router.post("/{int:pk}/sort", response=IntakeOut)
def sort(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Close the intake and sort its files into sets, in a worker; once more when that failed."""
    intake = _intake(request, slug, pk, Membership.Right.PREPARE)
    ask_to_sort(intake, user_of(request))
    return _out(intake)


@router.delete("/{int:pk}", response={204: None})
def drop(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Give up an intake that was not sorted yet (a cancelled upload)."""
    intake = _intake(request, slug, pk, Membership.Right.PREPARE)
    drop_intake(intake)
    return Status(204, None)
