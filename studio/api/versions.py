"""Versions of files: exported again, uploaded anew; before and after, and the way back."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Path, Router, Status
from ninja.files import UploadedFile

from studio.api.access import name_of, project_for, user_of
from studio.api.schemas.watched import FileVersionOut
from studio.intake.models import FileVersion
from studio.intake.versions import bring_back, replace_by_upload
from studio.projects.models import Membership, Project
from studio.sets import asked
from studio.sets.models import Placement

router = Router(tags=["versions"])
_MAX_SIDE = 4096
_SHOWN = 200


def _rows(project: Project) -> Any:
    rows = FileVersion.objects.filter(file__intake__project=project)
    return rows.select_related("file__intake__project", "before", "after", "by")


def _out(rows: Iterable[FileVersion]) -> list[FileVersionOut]:
    versions = list(rows)
    places: dict[int, Placement] = {}
    for place in Placement.objects.filter(file__in=[one.file_id for one in versions]).select_related("set"):
        known = places.get(place.file_id)
        if known is None or (known.set_id is None and place.set_id is not None):
            places[place.file_id] = place
    told: list[FileVersionOut] = []
    for one in versions:
        of = places.get(one.file_id)
        told.append(
            {
                "id": one.pk, "at": one.at, "by": name_of(one.by), "origin": one.origin,
                "file": one.file.path, "before": one.before_id, "after": one.after_id,
                "is_current": one.file.source_id == one.after_id, "map": of.pk if of else None,
                "set": of.set_id if of else None, "set_name": of.set.name if of and of.set else "",
                "role": of.role if of else "",
            }
        )  # fmt: skip
    return told


@router.get("", response=list[FileVersionOut])
def list_versions(request: HttpRequest, slug: Path[str], set: int | None = None, intake: int | None = None) -> Any:
    """The newest first. set, intake: only of files that are used in a set, or that came with an intake."""
    rows = _rows(project_for(request, slug))
    if set is not None:
        rows = rows.filter(file__placements__set=set).distinct()
    if intake is not None:
        rows = rows.filter(file__intake=intake)
    return _out(rows[:_SHOWN])


@router.post("/of-map/{int:pk}", response=FileVersionOut)
def upload_version(request: HttpRequest, slug: Path[str], pk: int, file: File[UploadedFile]) -> Any:
    """Give the file of a map another content. Its name, its places and steps stay. Can be undone."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    placement = get_object_or_404(project.placements, pk=pk)
    return _out([replace_by_upload(project, placement.file_id, file, user_of(request))])[0]


@router.post("/{int:pk}/bring-back", response={204: None})
def former(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Give a file the content again that it had before this version. Can be undone."""
    bring_back(get_object_or_404(_rows(project_for(request, slug, Membership.Right.PREPARE)), pk=pk), user_of(request))
    return Status(204, None)


@router.get("/{int:pk}/picture")
def picture(
    request: HttpRequest, slug: Path[str], pk: int, of: Literal["before", "after"], map: int, side: int = 512,
    channel: str = "",
) -> HttpResponse:  # fmt: skip
    """A PNG of a map with its steps, as it was before this version, or as it is with it."""
    project = project_for(request, slug)
    version = get_object_or_404(_rows(project), pk=pk)
    get_object_or_404(project.placements, pk=map, file=version.file)
    made = asked.draw_version.ask(
        user_of(request).pk, version=version.pk, of=of, map=map, side=max(16, min(side, _MAX_SIDE)), channel=channel
    )
    # The map's steps may change under the same address.
    return HttpResponse(made.data, content_type="image/png", headers={"Cache-Control": "no-store"})
