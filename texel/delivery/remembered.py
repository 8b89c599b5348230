"""Digests of sources, remembered beside a delivery by size and time of change, so that they are not all read again."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Mapping
from pathlib import Path

from texel.delivery.files_there import OURS, LocalFiles
from texel.files.writing import write_bytes
from texel.library import Library

__all__ = ["Remembered", "read_remembered", "recall_digests", "remember_digests", "write_remembered"]

_NAME = f"{OURS}/sources.json"
# Size in bytes, time of change in nanoseconds, and BLAKE3 of files, by name.
Remembered = dict[str, tuple[int, int, str]]


def read_remembered(path: Path) -> Remembered:
    """What ``write_remembered`` wrote, without what changed too shortly before to be sure of. None, or one that cannot
    be read: everything is read instead."""
    there = LocalFiles(path.parent)
    try:
        document = json.loads(path.read_text("utf-8"))
        written = int(document["written_ns"])
        files = {
            name: (int(size), int(changed), str(told)) for name, (size, changed, told) in document["files"].items()
        }
        return {name: told for name, told in files.items() if there.is_sure(told[1], written)}
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return {}


def write_remembered(path: Path, digests: Mapping[str, tuple[Path, str]]) -> None:
    """Write down the digests of files by name, with their sizes and times of change. Raises OSError."""
    files = {}
    for name, (place, told) in digests.items():
        found = os.stat(place)
        files[name] = (found.st_size, found.st_mtime_ns, told)
    path.parent.mkdir(parents=True, exist_ok=True)
    write_bytes(json.dumps({"written_ns": time.time_ns(), "files": files}, ensure_ascii=False).encode(), path)


def recall_digests(library: Library, root: Path) -> None:
    """Tell a library the digests of files that did not change since ``remember_digests`` wrote them for ``root``."""
    known = read_remembered(root / _NAME)
    for file in library.files:
        size, changed, told = known.get(file, (0, 0, ""))
        try:
            found = os.stat(library.path(file)) if told else None
        except OSError:
            return  # whoever reads it says so
        if found is not None and (found.st_size, found.st_mtime_ns) == (size, changed):
            library.know_digest(file, told)


def remember_digests(library: Library, root: Path) -> None:
    """Write down the digests that a library knows by now. Raises OSError."""
    known = [file for file in library.files if library.has_digest(file)]
    write_remembered(root / _NAME, {file: (library.path(file), library.digest(file)) for file in known})
