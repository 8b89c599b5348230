"""Watched folders: what a painting program exports is taken in when it has stopped changing."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Status

from studio.api.access import project_for, user_of
from studio.api.schemas.watched import NewWatched, WatchableOut, WatchedChange, WatchedFileOut, WatchedOut
from studio.api.seen import IfMatch, newest_of, seen
from studio.changes.errors import Conflict
from studio.projects.models import Membership
from studio.watched.folders import add_folder, change_folder, look_again, path_of, remove_folder, roots
from studio.watched.models import WatchedFile, WatchedFolder

router = Router(tags=["watched folders"])
_RULES = Membership.Right.RULES
_SHOWN = 100


def _file(one: WatchedFile) -> WatchedFileOut:
    return {"path": one.path, "state": one.state, "problem": one.problem}  # type: ignore[typeddict-item]


def _out(one: WatchedFolder) -> WatchedOut:
    files = list(one.files.all())
    waiting = [file for file in files if file.state != WatchedFile.State.TAKEN]
    try:
        path, problem = str(path_of(one.place)), one.problem
    except Conflict as conflict:
        path, problem = one.place, str(conflict)
    return {
        "id": one.pk, "revision": one.revision, "name": one.name, "place": one.place, "path": path,
        "quiet": one.quiet, "paused": one.paused, "problem": problem, "intake": one.intake_id,
        "taken": len(files) - len(waiting), "files": [_file(file) for file in waiting[:_SHOWN]],
    }  # fmt: skip


def _folder(request: HttpRequest, slug: str, pk: int, right: str = _RULES) -> WatchedFolder:
    return get_object_or_404(project_for(request, slug, right).watched.select_related("project"), pk=pk)


@newest_of(WatchedFolder)
def _newest(request: HttpRequest, row: Any) -> WatchedOut:
    return _out(row)


@router.get("", response=list[WatchedOut])
def list_watched(request: HttpRequest, slug: Path[str]) -> Any:
    return [_out(one) for one in project_for(request, slug).watched.prefetch_related("files")]


@router.get("/allowed", response=WatchableOut)
def watchable(request: HttpRequest, slug: Path[str]) -> Any:
    """The folders below which this server watches."""
    project_for(request, slug)
    return {"folders": [str(root) for root in roots()]}


@router.post("", response=WatchedOut)
def add(request: HttpRequest, slug: Path[str], given: NewWatched) -> Any:
    """Watch a folder: what lies there, and what comes later, is taken in."""
    project = project_for(request, slug, _RULES)
    return _out(add_folder(project, given.name, given.place, given.quiet, user_of(request)))


@router.patch("/{int:pk}", response=WatchedOut)
def change(request: HttpRequest, slug: Path[str], pk: int, given: WatchedChange, if_match: IfMatch = None) -> Any:
    """Another name or place, or a pause."""
    one = _folder(request, slug, pk)
    return _out(change_folder(one, given.name, given.place, given.quiet, given.paused, seen(if_match)))


@router.post("/{int:pk}/again", response=WatchedOut)
def again(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Try files that were refused once more."""
    one = _folder(request, slug, pk, Membership.Right.PREPARE)
    look_again(one)
    return _out(one)


@router.delete("/{int:pk}", response={204: None})
def remove(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Stop watching a folder. What was taken in from it stays."""
    remove_folder(_folder(request, slug, pk))
    return Status(204, None)
