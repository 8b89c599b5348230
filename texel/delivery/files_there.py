"""The files of a destination, wherever they lie: what a folder of this machine can do, and others can do as well."""

from __future__ import annotations

import errno
import fcntl
import os
import shutil
import time
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path
from typing import Protocol

from texel import digest
from texel.errors import DeliveryRefused, PlaceBusy
from texel.files.writing import write_bytes

__all__ = ["OURS", "FilesThere", "LocalFiles"]

# Our own folder in a destination. Hidden, so that engines which take in whatever lies there pass it over.
OURS = ".fair-texel"
_LOCK = f"{OURS}/lock"
_POLL_SECONDS = 0.1
# Some file systems keep the time of a change no finer.
_FINE_NS = 2_000_000_000


class FilesThere(Protocol):
    """Paths are relative, with "/". Faults of the place come as OSError.

    name: of the place, for messages. moves_whole: whether a file that moves is never at both places.
    """

    name: str
    moves_whole: bool

    def held(self, wait: float) -> AbstractContextManager[None]:
        """A context in which nobody else delivers there. Raises PlaceBusy after ``wait`` seconds."""

    def exists(self, path: str) -> bool: ...

    def size_and_mark(self, path: str) -> tuple[int, int] | None:
        """Bytes, and a number that changes with the file; None where there is no file."""

    def is_sure(self, mark: int, written_ns: int) -> bool:
        """Whether a file whose mark is unchanged is unchanged. written_ns: when the mark was written down."""

    def digest(self, path: str) -> str | None:
        """BLAKE3 of a file; None where there is none."""

    def names_in(self, folder: str) -> list[str]:
        """Names of the files directly in a folder; none where there is no such folder."""

    def leads_out(self, path: str) -> bool:
        """Whether a path would be written elsewhere, through a link."""

    def read(self, path: str) -> bytes | None: ...

    def write(self, path: str, data: bytes) -> None:
        """All of it or nothing, and lasting."""

    def take(self, source: Path, path: str) -> None:
        """A copy of a file of this machine, lasting."""

    def move(self, path: str, to: str) -> None:
        """Over what lies there."""

    def delete(self, path: str) -> None:
        """A file, if it is there."""

    def clear(self, folder: str) -> None:
        """A folder with all that is in it."""

    def prune(self, folder: str) -> None:
        """Folders that hold nothing, upwards."""


class LocalFiles:
    """A folder of this machine."""

    moves_whole = True

    def __init__(self, root: Path):
        self.root = root
        self.name = root.name

    @contextmanager
    def held(self, wait: float) -> Iterator[None]:
        if self.root.exists() and not self.root.is_dir():
            raise DeliveryRefused("{what} is a file, not a folder", what=self.name)
        (self.root / OURS).mkdir(parents=True, exist_ok=True)
        handle = os.open(self.root / _LOCK, os.O_RDWR | os.O_CREAT, 0o644)
        try:
            self._lock(handle, wait)
            for half_written in (self.root / OURS).glob(".*.part"):
                half_written.unlink(missing_ok=True)
            yield
        finally:
            os.close(handle)

    def _lock(self, handle: int, wait: float) -> None:
        until = time.monotonic() + wait
        while True:
            try:
                return fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                if time.monotonic() >= until:
                    raise PlaceBusy(
                        "another delivery is being written to {what}; wait for it", what=self.name
                    ) from None
            time.sleep(_POLL_SECONDS)

    def exists(self, path: str) -> bool:
        return os.path.lexists(self.root / path)

    def size_and_mark(self, path: str) -> tuple[int, int] | None:
        place = self.root / path
        if place.is_symlink() or not place.is_file():
            return None
        there = place.stat()
        return there.st_size, there.st_mtime_ns

    def is_sure(self, mark: int, written_ns: int) -> bool:
        return bool(mark) and mark + _FINE_NS < written_ns

    def digest(self, path: str) -> str | None:
        return digest.of_file(self.root / path) if self.size_and_mark(path) is not None else None

    def names_in(self, folder: str) -> list[str]:
        try:
            with os.scandir(self.root / folder) as entries:
                return sorted(one.name for one in entries if one.is_file(follow_symlinks=False))
        except OSError:
            return []

    def leads_out(self, path: str) -> bool:
        return not (self.root / path).parent.resolve().is_relative_to(self.root.resolve())

    def read(self, path: str) -> bytes | None:
        place = self.root / path
        return place.read_bytes() if place.is_file() else None

    def write(self, path: str, data: bytes) -> None:
        self._parent_of(path)
        write_bytes(data, self.root / path)
        _sync((self.root / path).parent)

    def take(self, source: Path, path: str) -> None:
        place = self._parent_of(path)
        if source != place:
            shutil.copyfile(source, place)
        os.chmod(place, 0o644)
        _sync(place)

    def move(self, path: str, to: str) -> None:
        os.replace(self.root / path, self._parent_of(to))

    def _parent_of(self, path: str) -> Path:
        """Make the folder of a file, within the place. A place that went away, like a share that is no longer mounted,
        is not made again. Raises FileNotFoundError."""
        if not (self.root / OURS).is_dir():
            raise FileNotFoundError(errno.ENOENT, os.strerror(errno.ENOENT), str(self.root))
        place = self.root / path
        place.parent.mkdir(parents=True, exist_ok=True)
        return place

    def delete(self, path: str) -> None:
        (self.root / path).unlink(missing_ok=True)

    def clear(self, folder: str) -> None:
        shutil.rmtree(self.root / folder, ignore_errors=True)

    def prune(self, folder: str) -> None:
        place = self.root / folder
        while place != self.root and place.is_dir() and not any(place.iterdir()):
            place.rmdir()
            place = place.parent


def _sync(path: Path) -> None:
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
