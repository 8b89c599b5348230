"""Sets: their list, one set, renaming, splitting, merging, what a target makes of it."""

from __future__ import annotations

from typing import Any, Literal
from urllib.parse import quote

from django.db.models import F
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Status

from studio.api.access import project_for, user_of
from studio.api.answers import finding_out, map_out, role_list, set_out
from studio.api.caching import png
from studio.api.schemas.jobs import Queued, queued
from studio.api.schemas.maps import Copied
from studio.api.schemas.sets import (
    LicenceIn,
    Merge,
    Metres,
    NewName,
    NewNames,
    SetDetail,
    SetList,
    Split,
    StepsIn,
    TargetsIn,
    TriedOutput,
)
from studio.api.schemas.shared import FindingOfSet, SetOut
from studio.api.seen import IfMatch, newest_of, seen
from studio.changes.engine import last_redo, last_undo
from studio.deliveries import asked
from studio.deliveries.facts import OutputOut
from studio.projects.models import Membership
from studio.sets import editing
from studio.sets.judging import ask_to_judge
from studio.sets.many import ask_to_change_many
from studio.sets.models import TextureSet
from studio.sets.rows import SetRow, first_of, set_rows, sets_with
from studio.sets.table import TableRow, as_csv, table_of
from studio.team.reviews import steps_now
from texel.tiles import tiled

router = Router(tags=["sets"])


def _set(request: HttpRequest, slug: Path[str], pk: int, right: str = Membership.Right.LOOK) -> TextureSet:
    made: TextureSet = get_object_or_404(project_for(request, slug, right).sets, pk=pk)
    return made


def _row(one: TextureSet) -> SetRow:
    return set_rows(TextureSet.objects.filter(pk=one.pk))[0]


@newest_of(TextureSet)
def _newest(request: HttpRequest, row: TextureSet) -> SetOut:
    return set_out(_row(row))


@router.get("", response=SetList)
def list_sets(
    request: HttpRequest, slug: Path[str], first: int | None = None, words: str = "",
    severity: Literal["error", "warning"] | None = None,
) -> Any:  # fmt: skip
    """Everything that the list of sets shows, in a handful of queries however many sets there are.

    first: so many of them alone, by name, for a first look, and no undecided files. words: only sets that have all of
    these in their name. severity: only sets with a finding of it.
    """
    project = project_for(request, slug)
    fitting = sets_with(project, words, severity)
    rows = set_rows(fitting if first is None else first_of(fitting, first))
    undecided = (
        project.placements.filter(set__isnull=True).select_related("file__source").prefetch_related("file__old_names")
    )
    count = len(rows) if first is None else fitting.count()
    return {
        "roles": role_list(),
        "count": count,
        "sets": [set_out(one) for one in rows],
        "tiled": [
            {"name": one.name, "tiles": [{"number": number, "set": name} for number, name in one.tiles.items()]}
            for one in tiled(row.set.name for row in rows)
        ],
        "undecided": [
            {
                "map": map_out(p, False),
                "suffix": p.suffix,
                "readable": bool(p.file.source and p.file.source.probe),
                "candidates": p.candidates,
            }
            for p in (undecided if first is None else ())
        ],
        "undo": last_undo(project, user_of(request)),
        "redo": last_redo(project, user_of(request)),
    }


@router.get("/findings", response=list[FindingOfSet])
def all_findings(request: HttpRequest, slug: Path[str]) -> Any:
    """What was found about all sets and is not waived, by the names of sets, in a handful of queries."""
    rows = set_rows(project_for(request, slug).sets.order_by("name"))
    return [
        {**finding_out(finding, row.in_force), "marks": None, "set": row.set.name}
        for row in rows for finding in row.open_findings()
    ]  # fmt: skip


@router.get("/table", response=list[TableRow])
def table(request: HttpRequest, slug: Path[str], format: Literal["json", "csv"] = "json") -> Any:
    """The list of sets for other programs, as JSON or CSV."""
    project = project_for(request, slug)
    states = dict(steps_now(project.sets.all()).values_list("set", "state"))
    rows = table_of(project, states)
    if format == "json":
        return rows
    answer = HttpResponse(as_csv(rows), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{project.slug}-sets.csv"'
    return answer


@router.get("/{int:pk}", response=SetDetail)
def one_set(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    row = _row(_set(request, slug, pk))
    return {**set_out(row), "findings": [finding_out(one, row.in_force) for one in row.findings]}


@router.post("/{int:pk}/try-output")
def try_output(request: HttpRequest, slug: Path[str], pk: int, given: TriedOutput) -> HttpResponse:
    """A PNG of what a target that is not kept would make of the set. Nothing is changed."""
    made = asked.draw_tried.ask(
        user_of(request).pk, set=_set(request, slug, pk).pk, target=given.target, output=given.output,
        side=max(16, min(given.side, 1024)), channel=given.channel,
    )  # fmt: skip
    return HttpResponse(made.data, content_type="image/png", headers={"Cache-Control": "no-store"})


@router.put("/{int:pk}/metres", response=SetOut)
def put_metres(request: HttpRequest, slug: Path[str], pk: int, given: Metres, if_match: IfMatch = None) -> Any:
    """Say how much surface the width of the set's texture covers; None for unknown."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    editing.set_metres(project, pk, given.metres, user_of(request), seen(if_match))
    return set_out(_row(_set(request, slug, pk)))


@router.put("/licence", response={200: list[SetOut], 202: Queued})
def put_licence(request: HttpRequest, slug: Path[str], given: LicenceIn, later: bool = False) -> Any:
    """Say under which licence sets came, as one change. later: as a job, with progress."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    if later:
        return queued(ask_to_change_many(project, "licence", given.model_dump(mode="json"), user_of(request)))
    editing.set_licence(project, given.sets, given.licence, given.credit, user_of(request), given.seen)
    return [set_out(one) for one in set_rows(project.sets.filter(pk__in=given.sets))]


@router.put("/targets", response={200: list[SetOut], 202: Queued})
def put_targets(request: HttpRequest, slug: Path[str], given: TargetsIn, later: bool = False) -> Any:
    """Say which targets sets are delivered for, as one change; none for the project's own. later: as a job."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    if later:
        return queued(ask_to_change_many(project, "targets", given.model_dump(mode="json"), user_of(request)))
    editing.set_targets(project, given.sets, given.targets, user_of(request), given.seen)
    return [set_out(one) for one in set_rows(project.sets.filter(pk__in=given.sets))]


@router.put("/names", response={200: list[SetOut], 202: Queued})
def rename_many(request: HttpRequest, slug: Path[str], given: NewNames, later: bool = False) -> Any:
    """Give several sets new names, as one change. later: as a job, with progress."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    if later:
        return queued(ask_to_change_many(project, "names", given.model_dump(mode="json"), user_of(request)))
    editing.rename_many(project, given.names, user_of(request), given.seen)
    return [set_out(one) for one in set_rows(project.sets.filter(pk__in=given.names))]


@router.post("/steps", response={200: Copied, 202: Queued})
def add_steps(request: HttpRequest, slug: Path[str], given: StepsIn, later: bool = False) -> Any:
    """Put steps behind those of a role's maps in several sets, as one change. later: as a job, with progress."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    if later:
        return queued(ask_to_change_many(project, "steps", given.model_dump(mode="json"), user_of(request)))
    return {"maps": editing.add_steps(project, given.sets, given.role, given.recipe, user_of(request), given.seen)}


@router.patch("/{int:pk}", response=SetOut)
def rename(request: HttpRequest, slug: Path[str], pk: int, given: NewName, if_match: IfMatch = None) -> Any:
    project = project_for(request, slug, Membership.Right.PREPARE)
    editing.rename(project, pk, given.name, user_of(request), seen(if_match))
    return set_out(_row(_set(request, slug, pk)))


@router.post("/{int:pk}/judge", response={204: None})
def judge(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Judge a set again, for instance after its job failed."""
    one = _set(request, slug, pk, Membership.Right.PREPARE)
    TextureSet.objects.filter(pk=one.pk).update(revision=F("revision") + 1)
    ask_to_judge(one.project, [one.pk], user_of(request))
    return Status(204, None)


@router.post("/merge", response=SetOut)
def merge(request: HttpRequest, slug: Path[str], given: Merge) -> Any:
    project = project_for(request, slug, Membership.Right.PREPARE)
    editing.merge(project, given.into, given.sets, user_of(request), given.seen)
    return set_out(_row(_set(request, slug, given.into)))


@router.post("/{int:pk}/split", response=SetOut)
def split(request: HttpRequest, slug: Path[str], pk: int, given: Split, if_match: IfMatch = None) -> Any:
    project = project_for(request, slug, Membership.Right.PREPARE)
    made = editing.split(project, pk, given.maps, given.name, user_of(request), seen(if_match))
    return set_out(_row(_set(request, slug, made)))


@router.get("/{int:pk}/outputs", response=list[OutputOut])
def outputs(request: HttpRequest, slug: Path[str], pk: int, target: str, untouched: bool = False) -> Any:
    """What a target makes of the set: its files, and where each channel comes from. Raises 422 when it cannot.

    untouched: of the set as it was before any step.
    """
    one = _set(request, slug, pk)
    return asked.outputs_of.ask(user_of(request).pk, set=one.pk, target=target, untouched=untouched).said


@router.get("/{int:pk}/packed")
def packed(
    request: HttpRequest,
    slug: Path[str],
    pk: int,
    target: str,
    path: str,
    channel: str = "",
    side: int = 512,
    untouched: bool = False,
) -> HttpResponse:
    """The picture of one output (by its path), or of one of its channels, from the pixels that would be delivered.

    untouched: of the set as it was before any step.
    """
    made = asked.draw_packed.ask(
        user_of(request).pk, set=_set(request, slug, pk).pk, target=target, path=path,
        side=max(16, min(side, 4096)), channel=channel, untouched=untouched,
    )  # fmt: skip
    return png(request, made.data, made.said["plan"])


@router.get("/{int:pk}/file")
def one_file(request: HttpRequest, slug: Path[str], pk: int, target: str, path: str) -> HttpResponse:
    """One output as it would be delivered, for somebody who needs just this file now."""
    one = _set(request, slug, pk)
    data = asked.build_one.ask(user_of(request).pk, set=one.pk, target=target, path=path).data
    name = quote(path.rsplit("/", 1)[-1])
    disposition = {"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
    return HttpResponse(data, content_type="application/octet-stream", headers=disposition)
