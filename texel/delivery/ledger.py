"""What we wrote into a place that others use too, so that we know it again and never touch the rest.

The ledger lies there, in ``.fair-texel/ledger.json``: for each file its digest, and its size and time of change when we
wrote it. A file with both unchanged is taken for untouched without being read, as version-control systems do; one that
was written within two seconds of the ledger is read all the same, since some file systems keep time no finer.
"""

from __future__ import annotations

import json
import time
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from texel.delivery.files_there import OURS, FilesThere
from texel.delivery.manifest import MANIFEST
from texel.errors import BadDocument
from texel.schemas import check_document, load_json

__all__ = ["LEDGER", "Known", "Ledger", "ledger_bytes", "read_ledger"]

LEDGER = f"{OURS}/ledger.json"


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

    def is_untouched(self, there: FilesThere, path: str, thorough: bool = False) -> bool:
        """Whether a file that we wrote is there as we left it. thorough: read it, whatever its time of change says."""
        known = self.files.get(path)
        found = there.size_and_mark(path) if known else None
        if known is None or found is None or found[0] != known.bytes:
            return False
        if not thorough and found[1] == known.changed_ns and there.is_sure(known.changed_ns, self.written_ns):
            return True
        return there.digest(path) == known.digest


def read_ledger(there: FilesThere) -> Ledger:
    """The ledger of a place; where there is none to be read, what the manifest there says; else an empty one."""
    try:
        document = _document(there.read(LEDGER), "ledger")
    except BadDocument:
        return _by_manifest(there)
    files = {path: Known(one["digest"], one["bytes"], one["changed_ns"]) for path, one in document["files"].items()}
    return Ledger(files, document["kept"], document["written_ns"])


def _document(data: bytes | None, kind: str) -> Any:
    """Raises BadDocument."""
    if data is None:
        raise BadDocument("there is no {kind}", kind=kind)
    try:
        document = load_json(data.decode(), f"the {kind}")
    except UnicodeDecodeError as error:
        raise BadDocument("the {kind} is no text", kind=kind) from error
    check_document(document, kind, f"the {kind}")
    return document


def _by_manifest(there: FilesThere) -> Ledger:
    try:
        document = _document(there.read(MANIFEST), "manifest")
    except BadDocument:
        return Ledger()  # none, or somebody else's
    files = {entry["path"]: Known(entry["digest"], entry["bytes"]) for entry in document["files"]}
    size, _ = there.size_and_mark(MANIFEST) or (0, 0)
    return Ledger(files | {MANIFEST: Known(there.digest(MANIFEST) or "", size)})


def ledger_bytes(files: Mapping[str, Known], kept: Mapping[str, str]) -> bytes:
    document: dict[str, Any] = {
        "format": "fair-texel/ledger",
        "version": 1,
        "written_ns": time.time_ns(),
        "files": {path: vars(one) for path, one in sorted(files.items())},
        "kept": dict(sorted(kept.items())),
    }
    return (json.dumps(document, indent=1, ensure_ascii=False) + "\n").encode()
