"""Files that appear whole or not at all, whatever happens to the process, the disk, or another writer."""

from __future__ import annotations

import errno
import os
import stat
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

from django.core.files.storage import FileSystemStorage

__all__ = ["UNFINISHED", "Held", "StoreAway", "WholeFiles"]

# What systems say whose folders know no links.
_NO_LINKS = (errno.EPERM, errno.ENOTSUP, errno.EMLINK, errno.ENOSYS)
# What files begin with that are not whole yet.
UNFINISHED = ".unfinished-"


class StoreAway(OSError):
    """What keeps the files does not answer, or refuses."""


class Held(NamedTuple):
    """A stored file as it was when it was looked at. used: seconds, when it was read or written last."""

    name: str
    bytes: int
    written: float
    used: float


class WholeFiles(FileSystemStorage):
    """Names say what a file holds, so one that is there already stays: another writer made the same.

    A file is written beside its place, brought to the disk, and then linked there in one step.
    """

    shared = False

    def here(self, name: str) -> Path:
        """Where a file lies on this machine. Raises FileNotFoundError."""
        place = Path(self.path(name))
        if not place.is_file():
            raise FileNotFoundError(name)
        return place.absolute()

    def held(self, kind: str) -> Iterator[Held]:
        """All files of a kind, also such as are not whole yet; one that goes meanwhile is passed over."""
        root = Path(self.path(""))
        for path in (root / kind).rglob("*") if (root / kind).is_dir() else ():
            try:
                told = path.stat()
            except FileNotFoundError:
                continue
            if stat.S_ISREG(told.st_mode):
                # Reading a file moves its time of access on most systems, once a day at least.
                yield Held(
                    path.relative_to(root).as_posix(), told.st_size, told.st_mtime, max(told.st_atime, told.st_mtime)
                )

    def sweep(self, young_seconds: float) -> None:
        """Nothing of it lies elsewhere as well."""

    def forget(self, name: str) -> None:
        """Nor is there a second copy that could be let go."""

    def get_available_name(self, name: str, max_length: int | None = None) -> str:
        return name

    def _save(self, name: str, content: Any) -> str:
        place = Path(self.path(name))
        place.parent.mkdir(parents=True, exist_ok=True)
        handle, beside = tempfile.mkstemp(prefix=UNFINISHED, dir=place.parent)
        try:
            with os.fdopen(handle, "wb") as stream:
                for piece in content.chunks():
                    stream.write(piece)
                stream.flush()
                os.fsync(stream.fileno())
            os.chmod(beside, 0o644)
            try:
                os.link(beside, place)
            except FileExistsError:
                return name
            except OSError as error:
                if error.errno not in _NO_LINKS:
                    raise
                # As whole as a link, but over what another writer may have put there meanwhile, which is the same.
                os.replace(beside, place)
            _to_disk(place.parent)
            return name
        finally:
            Path(beside).unlink(missing_ok=True)


def _to_disk(folder: Path) -> None:
    """What a folder lists survives a loss of power."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
