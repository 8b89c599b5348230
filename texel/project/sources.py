"""The files that a project's text names by digest, found in folders of sources."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Iterable, Mapping
from pathlib import Path

from texel import digest
from texel.delivery.files_there import LocalFiles
from texel.errors import BadDocument
from texel.files.writing import write_bytes
from texel.library import list_files

__all__ = ["Sources", "found"]

_TOLD = 10


class Sources:
    """Folders of sources, whose digests are remembered in a file by size and time of change."""

    def __init__(self, roots: Iterable[Path], memory: Path | None = None):
        self._roots, self._memory = [root.resolve() for root in roots], memory
        self._known = self._remembered()
        self._digests: dict[str, str] = {}

    def _remembered(self) -> dict[str, tuple[int, int, str]]:
        if self._memory is None:
            return {}
        there = LocalFiles(self._memory.parent)
        try:
            document = json.loads(self._memory.read_text("utf-8"))
            written = int(document["written_ns"])
            return {
                path: (int(size), int(changed), str(name))
                for path, (size, changed, name) in document["files"].items() if there.is_sure(int(changed), written)
            }  # fmt: skip
        except (OSError, ValueError, KeyError, TypeError):
            return {}  # none, or one that cannot be read: everything is read instead

    def remember(self) -> None:
        """Write down the digests that are known by now. Raises OSError."""
        if self._memory is None:
            return
        files = {}
        for path, name in self._digests.items():
            found = os.stat(path)
            files[path] = (found.st_size, found.st_mtime_ns, name)
        self._memory.parent.mkdir(parents=True, exist_ok=True)
        write_bytes(json.dumps({"written_ns": time.time_ns(), "files": files}).encode(), self._memory)

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
