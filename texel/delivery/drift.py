"""Drift: what others did to delivered files since we wrote them, seen before anything is written again."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from texel.delivery.files_there import FilesThere
from texel.delivery.ledger import Ledger

__all__ = ["Choice", "Drift", "Kind", "drift_of"]


class Kind(StrEnum):
    """changed: a file of ours with other bytes. missing: one that is gone. added: a file of others among ours.
    in_the_way: a file of others where the next delivery wants to write."""

    CHANGED = "changed"
    MISSING = "missing"
    ADDED = "added"
    IN_THE_WAY = "in_the_way"


class Choice(StrEnum):
    """overwrite: ours is written over it. keep: theirs stays, now and later, until it changes again."""

    OVERWRITE = "overwrite"
    KEEP = "keep"


@dataclass(frozen=True)
class Drift:
    """digest, bytes: of what lies there now, None for what is missing. asks: whether the delivery would touch it, so
    that somebody has to choose."""

    path: str
    kind: Kind
    digest: str | None
    bytes: int | None
    asks: bool

    def document(self) -> dict[str, Any]:
        return {
            "path": self.path, "kind": self.kind.value, "digest": self.digest, "bytes": self.bytes, "asks": self.asks,
        }  # fmt: skip


def drift_of(
    there: FilesThere, ledger: Ledger, wanted: Mapping[str, str] | None = None, thorough: bool = False
) -> list[Drift]:
    """What differs between a place and what we wrote there, in order of paths.

    wanted: path to digest of all that is going to lie there; None to look only. A file that already is as wanted is no
    drift. Of others' files only those are told that lie in folders where we wrote, or in the way.
    """
    told: dict[str, Drift] = {}
    for path, known in ledger.files.items():
        if ledger.is_untouched(there, path, thorough):
            continue
        found = there.digest(path)
        if found is not None and wanted is not None and wanted.get(path) == found:
            continue
        if not there.exists(path):
            told[path] = Drift(path, Kind.MISSING, None, None, False)
        elif found != known.digest:
            asks = wanted is not None and (found is None or ledger.kept.get(path) != found)
            told[path] = _drift(there, path, Kind.CHANGED, found, asks)
    for path in set(wanted or ()) - set(ledger.files):
        if not there.exists(path):
            if ledger.kept.get(path) == "":
                told[path] = Drift(path, Kind.MISSING, None, None, False)
            continue
        found = there.digest(path)
        if found is None or found != (wanted or {})[path]:
            kept = found is not None and ledger.kept.get(path) == found
            told[path] = _drift(there, path, Kind.IN_THE_WAY, found, not kept)
    for path in _strangers(there, ledger):
        if path not in told and path not in (wanted or {}):
            told[path] = _drift(there, path, Kind.ADDED, there.digest(path), False)
    return [told[path] for path in sorted(told)]


def _drift(there: FilesThere, path: str, kind: Kind, found: str | None, asks: bool) -> Drift:
    return Drift(path, kind, found, (there.size_and_mark(path) or (None, 0))[0], asks)


def _strangers(there: FilesThere, ledger: Ledger) -> Iterable[str]:
    """Files of others in the folders where we wrote, the top one left out: a project's own files lie there."""
    for folder in sorted({path.rsplit("/", 1)[0] for path in ledger.files if "/" in path}):
        for name in there.names_in(folder):
            path = f"{folder}/{name}"
            if path not in ledger.files and not name.startswith("."):
                yield path
