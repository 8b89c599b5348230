"""What the store no longer needs: unfinished files, uploads without a row, and the oldest of what can be made again."""

from __future__ import annotations

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


class Collected(NamedTuple):
    """Files taken away, and the bytes that they held."""

    files: int = 0
    bytes: int = 0


def _files(folder: Path) -> Iterator[Path]:
    return (path for path in folder.rglob("*") if path.is_file()) if folder.is_dir() else iter(())


def collect(young_seconds: float = _YOUNG_SECONDS) -> Collected:
    """Take away what is not needed, older than ``young_seconds``; of what can be made again the longest unused beyond
    the setting DERIVED_BYTES, whatever its age. Does nothing where the store is no folder of this machine."""
    try:
        root = Path(default_storage.path(""))
    except NotImplementedError:  # what storages elsewhere raise
        return Collected()
    old = time.time() - young_seconds
    gone = [path for path in _files(root) if path.name.startswith(UNFINISHED) and path.stat().st_mtime < old]
    gone += _orphans(root / "source", old)
    gone += _beyond(root)
    found = Collected()
    for path in gone:
        try:
            size = path.stat().st_size
            path.unlink()
        except FileNotFoundError:
            continue
        found = Collected(found.files + 1, found.bytes + size)
    return found


def _orphans(folder: Path, old: float) -> list[Path]:
    """Stored uploads whose row was never written."""
    stored = {path.name: path for path in _files(folder) if not path.name.startswith(UNFINISHED)}
    names = list(stored)
    known: set[str] = set()
    for start in range(0, len(names), 1000):
        known.update(SourceFile.objects.filter(pk__in=names[start : start + 1000]).values_list("pk", flat=True))
    return [path for name, path in stored.items() if name not in known and path.stat().st_mtime < old]


def _beyond(root: Path) -> list[Path]:
    """The longest unused files that can be made again, as many as lie beyond the limit."""
    kept = []
    for kind in _MADE_AGAIN:
        for path in _files(root / kind):
            told = path.stat()
            # Reading a file moves its time of access on most systems, once a day at least.
            kept.append((max(told.st_atime, told.st_mtime), told.st_size, path))
    total, gone = sum(size for _, size, _ in kept), []
    for _, size, path in sorted(kept, key=lambda one: one[0]):
        if total <= settings.DERIVED_BYTES:
            break
        gone.append(path)
        total -= size
    return gone
