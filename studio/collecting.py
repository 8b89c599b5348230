"""What the store no longer needs: unfinished files, uploads without a row, and the oldest of what can be made again."""

from __future__ import annotations

import stat
import time
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from django.conf import settings
from django.core.files.storage import default_storage

from studio.intake.models import SourceFile
from studio.storage import UNFINISHED

__all__ = ["Collected", "collect"]

# Made from sources whenever they are asked for.
_MADE_AGAIN = ("picture", "reduced", "decoded", "error", "mips", "green", "trial", "advice", "built")
# What is younger may belong to work that goes on.
_YOUNG_SECONDS = 24 * 3600
# Rows that are asked for at once.
_ASKED = 1000


class Collected(NamedTuple):
    """Files taken away, and the bytes that they held."""

    files: int = 0
    bytes: int = 0


class _Held(NamedTuple):
    """A file as it was when it was looked at. used: seconds, when it was read or written last."""

    path: Path
    bytes: int
    written: float
    used: float

    @property
    def unfinished(self) -> bool:
        return self.path.name.startswith(UNFINISHED)


def _files(folder: Path) -> Iterator[_Held]:
    """All files below a folder; one that goes meanwhile is passed over."""
    for path in folder.rglob("*") if folder.is_dir() else ():
        try:
            told = path.stat()
        except FileNotFoundError:
            continue
        if stat.S_ISREG(told.st_mode):
            # Reading a file moves its time of access on most systems, once a day at least.
            yield _Held(path, told.st_size, told.st_mtime, max(told.st_atime, told.st_mtime))


def collect(young_seconds: float = _YOUNG_SECONDS) -> Collected:
    """Take away what is not needed, older than ``young_seconds``; of what can be made again the longest unused beyond
    the setting DERIVED_BYTES, whatever its age. Does nothing where the store is no folder of this machine."""
    try:
        root = Path(default_storage.path(""))
    except NotImplementedError:  # what storages elsewhere raise
        return Collected()
    old = time.time() - young_seconds
    gone = [one for one in _files(root) if one.unfinished and one.written < old]
    gone += [one for one in _orphans(root / "source") if one.written < old]
    gone += _beyond(root)
    for one in gone:
        one.path.unlink(missing_ok=True)
    return Collected(len(gone), sum(one.bytes for one in gone))


def _orphans(folder: Path) -> list[_Held]:
    """Stored uploads whose row was never written."""
    stored = {one.path.name: one for one in _files(folder) if not one.unfinished}
    names = list(stored)
    known: set[str] = set()
    for start in range(0, len(names), _ASKED):
        known.update(SourceFile.objects.filter(pk__in=names[start : start + _ASKED]).values_list("pk", flat=True))
    return [one for name, one in stored.items() if name not in known]


def _beyond(root: Path) -> list[_Held]:
    """The longest unused files that can be made again, as many as lie beyond the limit."""
    kept = [one for kind in _MADE_AGAIN for one in _files(root / kind) if not one.unfinished]
    total, gone = sum(one.bytes for one in kept), []
    for one in sorted(kept, key=lambda one: one.used):
        if total <= settings.DERIVED_BYTES:
            break
        gone.append(one)
        total -= one.bytes
    return gone
