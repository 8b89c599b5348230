"""Digests of sources, remembered beside a delivery by size and time of change, so that they are not all read again."""

from __future__ import annotations

import json
import os
import time
from pathlib import Path

from texel.delivery.files_there import OURS, LocalFiles
from texel.files.writing import write_bytes
from texel.library import Library

__all__ = ["recall_digests", "remember_digests"]

_NAME = f"{OURS}/sources.json"


def recall_digests(library: Library, root: Path) -> None:
    """Tell a library the digests of files that did not change since ``remember_digests`` wrote them for ``root``."""
    there = LocalFiles(root)
    try:
        document = json.loads((root / _NAME).read_text("utf-8"))
        written, files = int(document["written_ns"]), dict(document["files"])
        for file in library.files:
            size, changed, digest = files.get(file, (0, 0, ""))
            found = os.stat(library.path(file))
            unchanged = (found.st_size, found.st_mtime_ns) == (size, changed)
            if digest and unchanged and there.is_sure(int(changed), written):
                library.know_digest(file, str(digest))
    except (OSError, ValueError, KeyError, TypeError):
        return  # none, or one that cannot be read: everything is read instead


def remember_digests(library: Library, root: Path) -> None:
    """Write down the digests that a library knows by now. Raises OSError."""
    files = {}
    for file in library.files:
        if library.has_digest(file):
            found = os.stat(library.path(file))
            files[file] = (found.st_size, found.st_mtime_ns, library.digest(file))
    document = {"written_ns": time.time_ns(), "files": files}
    write_bytes(json.dumps(document, ensure_ascii=False).encode(), root / _NAME)
