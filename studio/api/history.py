"""Who did what and when: of a project, of one object, of the library."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.http import Http404, HttpRequest
from ninja import Path, Router

from studio import history
from studio.api.access import name_of, project_for
from studio.api.schemas.history import FieldDifference, HistoryLineOut, HistoryOut
from studio.projects.models import HistoryLine, Project

router = Router(tags=["history"])
of_library = Router(tags=["history"])
_SHOWN = 6


def _line(row: HistoryLine, names: dict[str, str]) -> HistoryLineOut:
    return {
        "id": row.pk, "at": row.at, "by": name_of(row.by), "what": row.what,
        "label": row.label,
        "about": [
            {"kind": kind, "key": key, "called": names.get(f"{kind}:{key}")}
            for kind, _, key in (one.partition(":") for one in row.about[:_SHOWN])
        ],
        "count": len(row.about),
        "undone": row.what == HistoryLine.What.CHANGE and row.change is not None and row.change.undone,
        "has_more": row.what == HistoryLine.What.CHANGE and row.change is not None,
    }  # fmt: skip


def _page(project: Project | None, wanted: history.Wanted) -> dict[str, object]:
    lines, older = history.history_of(project, wanted)
    names = history.called(project, {one for row in lines for one in row.about[:_SHOWN]})
    return {"lines": [_line(row, names) for row in lines], "people": history.people_in(project), "older": older}


@router.get("/history", response=HistoryOut)
def show_history(
    request: HttpRequest, slug: Path[str], person: str = "", about: str = "", kind: str = "", text: str = "",
    since: datetime | None = None, until: datetime | None = None, before: int | None = None,
) -> Any:  # fmt: skip
    """Lines of the history, the newest first, fifty at a time.

    person: by whom. about: of one object, as "sets:12". kind: of objects: sets, placements (maps), files, waivers,
    rules, casts, adoptions, meshes, grounds, delivery, destination, intakes, members, projects. text: in the line.
    since, until: when. before: lines older than this id.
    """
    wanted = history.Wanted(person, about, kind, text, since, until, before)
    return _page(project_for(request, slug), wanted)


@router.get("/history/{int:pk}", response=list[FieldDifference])
def show_difference(request: HttpRequest, slug: Path[str], pk: Path[int]) -> Any:
    """What a change did, field by field."""
    project = project_for(request, slug)
    row = project.history.select_related("change").filter(pk=pk).first()
    if row is None or row.change is None:
        raise Http404("There is no such change in the history of this project.")
    return history.differences(project, row.change)


@of_library.get("/history", response=HistoryOut)
def show_library_history(
    request: HttpRequest, person: str = "", about: str = "", kind: str = "", text: str = "",
    since: datetime | None = None, until: datetime | None = None, before: int | None = None,
) -> Any:  # fmt: skip
    """Lines of what all projects share. about: "masters:NAME" or "functions:NAME"; kind: masters or functions."""
    return _page(None, history.Wanted(person, about, kind, text, since, until, before))
