"""What we wrote into a folder that others use too, so that we know it again and never touch the rest.

The ledger lies in the folder, in ``.fair-texel/ledger.json``: for each file its digest, and its size and time of change
when we wrote it. A file with both unchanged is taken for untouched without being read, as version-control systems do;
one that was written within two seconds of the ledger is read all the same, since some file systems keep time no finer.
"""

from __future__ import annotations

import json
import os
import time
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from texel import digest
from texel.delivery.manifest import MANIFEST
from texel.errors import BadDocument
from texel.files.writing import write_bytes
from texel.schemas import check_document, read_json

__all__ = ["OURS", "Known", "Ledger", "read_ledger", "write_ledger"]

# Our own folder in a destination. Hidden, so that engines which take in whatever lies there pass it over.
OURS = ".fair-texel"
_FINE_NS = 2_000_000_000


@dataclass(frozen=True)
class Known:
    """A file as we left it. digest: BLAKE3; changed_ns: its time of change, nanoseconds; 0 where it was not noted."""

    digest: str
    bytes: int
    changed_ns: int = 0


@dataclass(frozen=True)
class Ledger:
    """files: by path, what we wrote. kept: by path, digest of a file of others that somebody chose to keep in the place
    of ours. written_ns: when the ledger was."""

    files: Mapping[str, Known] = field(default_factory=dict)
    kept: Mapping[str, str] = field(default_factory=dict)
    written_ns: int = 0

    def is_untouched(self, root: Path, path: str, thorough: bool = False) -> bool:
        """Whether a file that we wrote is there as we left it. thorough: read it, whatever its time of change says."""
        known = self.files.get(path)
        if known is None:
            return False
        try:
            there = os.stat(root / path, follow_symlinks=False)
        except OSError:
            return False
        if there.st_size != known.bytes or not os.path.isfile(root / path):
            return False
        settled = known.changed_ns and known.changed_ns + _FINE_NS < self.written_ns
        if settled and there.st_mtime_ns == known.changed_ns and not thorough:
            return True
        return digest.of_file(root / path) == known.digest


def read_ledger(root: Path) -> Ledger:
    """The ledger of a folder; where there is none to be read, what the manifest there says; else an empty one."""
    try:
        document = read_json(root / OURS / "ledger.json", "the ledger")
        check_document(document, "ledger", "the ledger")
    except (BadDocument, OSError):
        return _by_manifest(root)
    files = {path: Known(one["digest"], one["bytes"], one["changed_ns"]) for path, one in document["files"].items()}
    return Ledger(files, document["kept"], document["written_ns"])


def _by_manifest(root: Path) -> Ledger:
    path = root / MANIFEST
    try:
        document = read_json(path, MANIFEST)
        check_document(document, "manifest", MANIFEST)
        own = Known(digest.of_file(path), path.stat().st_size)
    except (BadDocument, OSError):
        return Ledger()  # none, or somebody else's
    return Ledger(
        {entry["path"]: Known(entry["digest"], entry["bytes"]) for entry in document["files"]} | {MANIFEST: own}
    )


def write_ledger(path: Path, files: Mapping[str, Known], kept: Mapping[str, str]) -> None:
    """Write a ledger to ``path``. Raises OSError."""
    document: dict[str, Any] = {
        "format": "fair-texel/ledger",
        "version": 1,
        "written_ns": time.time_ns(),
        "files": {path: vars(one) for path, one in sorted(files.items())},
        "kept": dict(sorted(kept.items())),
    }
    write_bytes((json.dumps(document, indent=1, ensure_ascii=False) + "\n").encode(), path)
