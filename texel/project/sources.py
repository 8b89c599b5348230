"""The files that a project's text names by digest, found in folders of sources."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from pathlib import Path

from texel import digest
from texel.delivery.remembered import read_remembered, write_remembered
from texel.errors import BadDocument
from texel.library import list_files

__all__ = ["Sources", "found"]

_TOLD = 10


class Sources:
    """Folders of sources, whose digests are remembered in a file by size and time of change."""

    def __init__(self, roots: Iterable[Path], memory: Path | None = None):
        self._roots, self._memory = [root.resolve() for root in roots], memory
        self._known = read_remembered(memory) if memory is not None else {}
        self._digests: dict[str, str] = {}

    def remember(self) -> None:
        """Write down the digests that are known by now. Raises OSError."""
        if self._memory is not None:
            write_remembered(self._memory, {path: (Path(path), told) for path, told in self._digests.items()})

    def digest(self, path: Path) -> str:
        """Raises OSError."""
        name = str(path)
        if name not in self._digests:
            now, known = os.stat(path), self._known.get(name)
            same = known is not None and known[:2] == (now.st_size, now.st_mtime_ns)
            self._digests[name] = known[2] if known is not None and same else digest.of_file(path)
        return self._digests[name]

    def at(self, path: str, content: str) -> Path | None:
        """The file of a path, where its content is the right one; None otherwise."""
        for root in self._roots:
            place = (root / path).resolve()
            if place.is_relative_to(root) and place.is_file() and self.digest(place) == content:
                return place
        return None

    def by_content(self) -> dict[str, Path]:
        """All files by digest. Raises OSError."""
        return {self.digest(path): path for root in self._roots for path in list_files(root).values()}


def found(sources: Sources, files: Mapping[str, str], paths: Mapping[str, str]) -> dict[str, Path]:
    """The file of each key: where its path says, or wherever its content lies. files: digests; paths: where each was
    taken in from. Raises BadDocument with all that are missing, OSError."""
    there = {key: sources.at(paths[key], content) for key, content in files.items()}
    if None in there.values():
        elsewhere = sources.by_content()
        there = {key: place or elsewhere.get(files[key]) for key, place in there.items()}
    missing = sorted(paths[key] for key, place in there.items() if place is None)
    if missing:
        raise BadDocument(
            "the sources lack {count} files, or hold them with other contents: {listed}{more}",
            count=len(missing),
            listed=", ".join(missing[:_TOLD]),
            more=", ..." if len(missing) > _TOLD else "",
        )
    return {key: place for key, place in there.items() if place is not None}
