"""Look into watched folders, round by round: what has stopped changing is queued to be taken in."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import PurePosixPath

from django.conf import settings
from django.db import transaction

from studio.changes.errors import Conflict
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.watched.folders import path_of
from studio.watched.models import WatchedFile, WatchedFolder
from texel.files import READABLE
from texel.settling import Settling, Stamp, stamps_of

__all__ = ["Watcher"]

_State = WatchedFile.State
# Files that one job takes in; the others come with the next.
_MAX_FILES = 500


class Watcher:
    """Remembers between rounds how long files have stood still."""

    def __init__(self) -> None:
        self._settling: dict[int, Settling] = {}

    def look(self, now: float) -> list[str]:
        """Look into every folder once. now: seconds of a clock that only goes on. Gives the paths of those that can be
        looked into."""
        folders = list(WatchedFolder.objects.filter(paused=False).select_related("project"))
        self._settling = {one.pk: self._settling.get(one.pk) or Settling(one.quiet) for one in folders}
        return [path for one in folders if (path := self._look_into(one, now)) is not None]

    def _look_into(self, one: WatchedFolder, now: float) -> str | None:
        try:
            path = path_of(one.place)
            stamps = {name: stamp for name, stamp in stamps_of(path).items() if _is_read(name)}
        except Conflict as conflict:
            _cannot(one, str(conflict))
            return None
        except OSError as error:
            _cannot(one, f"{one.place} cannot be looked into ({error.strerror})")
            return None
        if len(stamps) > settings.MAX_ZIP_FILES:
            _cannot(one, f"it holds {len(stamps)} textures; at most {settings.MAX_ZIP_FILES} are watched")
            return None
        _cannot(one, "")
        rows = {row.path: row for row in one.files.all()}
        wanted = {name: stamp for name, stamp in stamps.items() if _is_new(rows.get(name), stamp)}
        settling = self._settling[one.pk]
        settling.quiet = one.quiet
        settled = settling.look(wanted, now)
        is_busy = Job.objects.filter(project=one.project, kind="watched", payload__folder=one.pk).exclude(
            state__in=Job.ENDED
        )
        with transaction.atomic():
            changed = _mark(one, rows, stamps, wanted)
            if settled and not is_busy.exists():
                _take(one, settled)
                changed = True
            if changed:
                announce(one.project_id, "watched", id=one.pk)
        return os.fspath(path)


def _is_read(name: str) -> bool:
    return PurePosixPath(name).suffix.lower() in READABLE


def _is_new(row: WatchedFile | None, stamp: Stamp) -> bool:
    if row is None or (row.bytes, row.changed) != stamp:
        return True
    # Its intake was discarded.
    return row.state != _State.REFUSED and row.file_id is None


def _cannot(one: WatchedFolder, problem: str) -> None:
    """Say why a folder cannot be looked into; "" that it can."""
    if one.problem != problem[:400]:
        with transaction.atomic():
            WatchedFolder.objects.filter(pk=one.pk).update(problem=problem[:400])
            announce(one.project_id, "watched", id=one.pk)


def _mark(
    one: WatchedFolder, rows: Mapping[str, WatchedFile], stamps: Mapping[str, Stamp], wanted: Mapping[str, Stamp]
) -> bool:
    """Write down which files are being written, and which are there or away. Whether anything changed."""
    fresh = [WatchedFile(folder=one, path=name) for name in wanted if name not in rows]
    WatchedFile.objects.bulk_create(fresh, ignore_conflicts=True)
    changed = []
    for name, row in rows.items():
        was = row.state
        if name not in stamps:
            row.state = _State.MISSING
        elif name in wanted:
            row.state = _State.ARRIVING if was == _State.ARRIVING else _State.CHANGING
        elif was in (_State.MISSING, _State.CHANGING):
            row.state = _State.REFUSED if row.problem else _State.TAKEN
        if row.state != was:
            changed.append(row)
    WatchedFile.objects.bulk_update(changed, ["state"])
    return bool(fresh or changed)


def _take(one: WatchedFolder, settled: Mapping[str, Stamp]) -> None:
    some = dict(sorted(settled.items())[:_MAX_FILES])
    one.files.filter(path__in=some).update(state=_State.ARRIVING)
    title = f"Take in from {one.name}: {next(iter(some)) if len(some) == 1 else f'{len(some)} files'}"
    enqueue(one.project, "watched", title, None, folder=one.pk, files=[[name, *stamp] for name, stamp in some.items()])
