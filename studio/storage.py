"""Files that appear whole or not at all, whatever happens to the process, the disk, or another writer."""

from __future__ import annotations

import errno
import os
import tempfile
from pathlib import Path
from typing import Any

from django.core.files.storage import FileSystemStorage

__all__ = ["UNFINISHED", "WholeFiles"]

# What systems say whose folders know no links.
_NO_LINKS = (errno.EPERM, errno.ENOTSUP, errno.EMLINK, errno.ENOSYS)
# What files begin with that are not whole yet.
UNFINISHED = ".unfinished-"


class WholeFiles(FileSystemStorage):
    """Names say what a file holds, so one that is there already stays: another writer made the same.

    A file is written beside its place, brought to the disk, and then linked there in one step.
    """

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
