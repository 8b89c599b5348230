"""Which files of a folder have stopped changing: a painting program writes its exports in pieces, over seconds."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from texel.library import list_files

__all__ = ["Settling", "Stamp", "stamps_of"]


class Stamp(NamedTuple):
    """What tells that a file was written again. bytes: its size; changed: nanoseconds, as its file system says."""

    bytes: int
    changed: int


def stamps_of(root: Path) -> dict[str, Stamp]:
    """The files below a folder by their relative path, hidden ones and links left out.

    A file that goes away meanwhile, or that may not be looked at, is left out as well. Raises OSError where the folder
    cannot be listed.
    """
    root.stat()
    stamps = {}
    for name, path in list_files(root).items():
        try:
            told = path.stat()
        except OSError:
            continue
        stamps[name] = Stamp(told.st_size, told.st_mtime_ns)
    return stamps


class Settling:
    """Remembers since when each file has stood still.

    Times of files are compared for being the same only, and waiting is measured by the caller's own clock, so that
    neither a clock that jumps nor a file server with another time matters.

    >>> settling = Settling(quiet=2.0)
    >>> half, whole = Stamp(100, 1), Stamp(250, 2)
    >>> settling.look({"hull_col.png": half}, now=0.0)
    {}
    >>> settling.look({"hull_col.png": whole}, now=1.5)  # written on
    {}
    >>> settling.look({"hull_col.png": whole}, now=3.5)
    {'hull_col.png': Stamp(bytes=250, changed=2)}
    """

    def __init__(self, quiet: float):
        """quiet: seconds that a file must stand still."""
        self.quiet = quiet
        self._since: dict[str, tuple[Stamp, float]] = {}

    def look(self, files: Mapping[str, Stamp], now: float) -> dict[str, Stamp]:
        """The files that have stood still for long enough. now: seconds of a clock that only goes on.

        An empty file has only been opened; it never counts.
        """
        known = self._since
        self._since = {
            path: known[path] if path in known and known[path][0] == stamp else (stamp, now)
            for path, stamp in files.items()
        }
        return {
            path: stamp for path, (stamp, since) in self._since.items() if stamp.bytes and now - since >= self.quiet
        }
