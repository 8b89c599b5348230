"""Watched folders: named, changed, forgotten."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from studio.changes.errors import Conflict, Stale
from studio.deliveries.models import Destination
from studio.deliveries.places import path_of as destination_path
from studio.jobs.announce import announce
from studio.projects.models import Project
from studio.roots import allowed_path, overlap
from studio.watched.models import WatchedFile, WatchedFolder

__all__ = ["add_folder", "change_folder", "look_again", "path_of", "remove_folder", "roots"]

_MAX_NAME = 80
_MIN_QUIET, _MAX_QUIET = 0.5, 600.0


def roots() -> list[Path]:
    """Folders below which projects may watch."""
    return [Path(one) for one in settings.WATCHED_ROOTS]


def path_of(place: str) -> Path:
    """Where a watched folder lies. Raises Conflict outside of all roots, or where deliveries are brought to: what is
    delivered would come in again."""
    path = allowed_path(place, roots(), "watches")
    for one in Destination.objects.exclude(kind=Destination.Kind.BUCKET):
        try:
            theirs = destination_path(one.place)
        except Conflict:
            continue  # no longer below a root
        if overlap(path, theirs):
            raise Conflict("{place} is, or lies around, a folder that deliveries are brought to", place=place)
    return path


def _check(project: Project, name: str, place: str, quiet: float, own: int) -> None:
    if not name or len(name) > _MAX_NAME or not name.isprintable():
        raise Conflict("a watched folder has a name of at most {max_name} characters", max_name=_MAX_NAME)
    if not _MIN_QUIET <= quiet <= _MAX_QUIET:
        raise Conflict(
            "a file is taken in when it has stood still for {min_quiet:g} to {max_quiet:g} seconds",
            min_quiet=_MIN_QUIET,
            max_quiet=_MAX_QUIET,
        )
    if project.watched.filter(name=name).exclude(pk=own).exists():
        raise Conflict("another watched folder is called {name}", name=name)
    path = path_of(place)
    if not path.is_dir():
        raise Conflict("there is no folder {path}", path=path)
    for other in project.watched.exclude(pk=own):
        try:
            theirs = allowed_path(other.place, roots(), "watches")
        except Conflict:
            continue  # no longer below a root
        if overlap(path, theirs):
            raise Conflict("{other} watches this folder already, or one around or within it", other=other.name)


def add_folder(project: Project, name: str, place: str, quiet: float, by: Any) -> WatchedFolder:
    """Watch a folder: what lies there, and what comes later, is taken into an intake of its own. Raises Conflict."""
    name, place = name.strip(), place.strip()
    with transaction.atomic():
        Project.objects.select_for_update(no_key=True).get(pk=project.pk)
        _check(project, name, place, quiet, 0)
        made = WatchedFolder.objects.create(project=project, name=name, place=place, quiet=quiet, by=by)
        announce(project.pk, "watched", id=made.pk)
    return made


def change_folder(
    one: WatchedFolder, name: str, place: str, quiet: float, paused: bool, seen: int | None = None
) -> WatchedFolder:
    """Give a watched folder another name or place, or have it pause.

    Files keep their places by name: a folder that was moved goes on with what was taken in. seen: the revision that
    this was meant for. Raises Stale where somebody was faster, Conflict.
    """
    name, place = name.strip(), place.strip()
    with transaction.atomic():
        Project.objects.select_for_update(no_key=True).get(pk=one.project_id)
        one.refresh_from_db()
        if seen is not None and seen != one.revision:
            raise Stale(one, "{one} was changed meanwhile by somebody else", one=one.name)
        if not (paused and (name, place) == (one.name, one.place)):
            _check(one.project, name, place, quiet, one.pk)
        one.name, one.place, one.quiet, one.paused = name, place, quiet, paused
        one.problem, one.revision = "", one.revision + 1
        one.save(update_fields=["name", "place", "quiet", "paused", "problem", "revision"])
        announce(one.project_id, "watched", id=one.pk)
    return one


def look_again(one: WatchedFolder) -> None:
    """Try files that were refused once more."""
    with transaction.atomic():
        one.files.filter(state=WatchedFile.State.REFUSED).update(bytes=None, changed=None, problem="")
        announce(one.project_id, "watched", id=one.pk)


def remove_folder(one: WatchedFolder) -> None:
    """Stop watching a folder. What was taken in from it stays."""
    with transaction.atomic():
        project, pk = one.project_id, one.pk
        one.delete()
        announce(project, "watched", id=pk)
