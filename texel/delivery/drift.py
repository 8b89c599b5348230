"""Drift: what others did to delivered files since we wrote them, seen before anything is written again."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Any

from texel import digest
from texel.delivery.ledger import OURS, Ledger

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
    root: Path, ledger: Ledger, wanted: Mapping[str, str] | None = None, thorough: bool = False
) -> list[Drift]:
    """What differs between a folder and what we wrote there, in order of paths.

    wanted: path to digest of all that is going to lie there; None to look only. A file that already is as wanted is no
    drift. Of others' files only those are told that lie in folders where we wrote, or in the way.
    """
    told: dict[str, Drift] = {}
    for path, known in ledger.files.items():
        if ledger.is_untouched(root, path, thorough):
            continue
        there = _look(root / path)
        if there is not None and wanted is not None and wanted.get(path) == there[0]:
            continue
        if there is None and not os.path.lexists(root / path):
            told[path] = Drift(path, Kind.MISSING, None, None, False)
        elif there is None or there[0] != known.digest:
            asks = wanted is not None and (there is None or ledger.kept.get(path) != there[0])
            told[path] = _drift(path, Kind.CHANGED, there, asks)
    for path in wanted or ():
        if path in ledger.files:
            continue
        if not os.path.lexists(root / path):
            if ledger.kept.get(path) == "":
                told[path] = Drift(path, Kind.MISSING, None, None, False)
            continue
        there = _look(root / path)
        if there is None or there[0] != (wanted or {})[path]:
            kept = there is not None and ledger.kept.get(path) == there[0]
            told[path] = _drift(path, Kind.IN_THE_WAY, there, not kept)
    for path in _strangers(root, ledger):
        if path not in told and path not in (wanted or {}):
            told[path] = _drift(path, Kind.ADDED, _look(root / path), False)
    return [told[path] for path in sorted(told)]


def _drift(path: str, kind: Kind, there: tuple[str, int] | None, asks: bool) -> Drift:
    return Drift(path, kind, there[0] if there else None, there[1] if there else None, asks)


def _look(path: Path) -> tuple[str, int] | None:
    """Digest and size; None for what is not there or is no file of its own."""
    if path.is_symlink() or not path.is_file():
        return None
    return digest.of_file(path), path.stat().st_size


def _strangers(root: Path, ledger: Ledger) -> Iterable[str]:
    """Files of others in the folders where we wrote, the top one left out: a project's own files lie there."""
    for folder in sorted({path.rsplit("/", 1)[0] for path in ledger.files if "/" in path}):
        try:
            with os.scandir(root / folder) as entries:
                names = sorted(one.name for one in entries if one.is_file(follow_symlinks=False))
        except OSError:
            continue
        for name in names:
            path = f"{folder}/{name}"
            if path not in ledger.files and not name.startswith(".") and folder.split("/")[0] != OURS:
                yield path
