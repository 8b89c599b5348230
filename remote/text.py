"""A project as text in a folder, kept in step with the studio; see ``texel project``.

The folder holds a small JSON document for each thing of the project, and exported.json: what each said when folder and
studio were the same last, so that it can be told who changed what. All of it belongs into version control.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any
from urllib.parse import quote

from remote.client import Studio, StudioRefuses

__all__ = ["Folder", "export", "import_", "status"]

EXPORTED = "exported.json"
_PROJECT = "project.json"
_FOLDERS = (
    *(f"rules/{kind}" for kind in ("target", "layout", "names", "formats", "licences", "mirror", "models")),
    "masters", "sets", "casts", "models", "ground", "destinations",
)  # fmt: skip


class Folder:
    """A project's folder."""

    def __init__(self, root: Path):
        self.root = root

    def paths(self) -> list[Path]:
        """Its documents, but for exported.json."""
        own = [self.root / _PROJECT] if (self.root / _PROJECT).is_file() else []
        return [*own, *(path for one in _FOLDERS for path in sorted((self.root / one).glob("*.json")))]

    def documents(self) -> dict[str, Any]:
        """All documents by path. Raises StudioRefuses for one that is no JSON."""
        found = {}
        for path in self.paths():
            inside = path.relative_to(self.root).as_posix()
            try:
                found[inside] = json.loads(path.read_text("utf-8-sig"))
            except ValueError as error:
                raise StudioRefuses(f"{inside} is not JSON: {error}") from None
            if not isinstance(found[inside], dict):
                raise StudioRefuses(f"{inside} holds no document")
        return found

    def exported(self) -> dict[str, str]:
        """Digests by key from when both sides were the same last; none for a folder that never was."""
        path = self.root / EXPORTED
        if not path.is_file():
            return {}
        try:
            return {str(key): str(value) for key, value in json.loads(path.read_text("utf-8"))["parts"].items()}
        except (ValueError, KeyError, TypeError, AttributeError):
            raise StudioRefuses(f"{EXPORTED} cannot be read; take it from version control, or export anew") from None

    def write(self, parts: Iterable[Mapping[str, Any]]) -> list[str]:
        """Make the folder what the studio has; the paths that changed."""
        wanted = {part["path"]: _bytes(part["document"]) for part in parts}
        digests = {part["key"]: part["digest"] for part in parts}
        known = {"format": "fair-texel/exported", "version": 1, "parts": dict(sorted(digests.items()))}
        changed = []
        for path in self.paths():
            inside = path.relative_to(self.root).as_posix()
            if inside not in wanted:
                path.unlink()
                changed.append(inside)
        for inside, data in [*wanted.items(), (EXPORTED, _bytes(known))]:
            place = self.root / inside
            if not place.resolve().is_relative_to(self.root.resolve()):
                raise StudioRefuses(f"the studio names a file outside of the folder: {inside}")
            if place.is_file() and place.read_bytes() == data:
                continue
            place.parent.mkdir(parents=True, exist_ok=True)
            beside = place.with_name(f".{place.name}.part")
            beside.write_bytes(data)
            os.replace(beside, place)
            changed += [inside] if inside != EXPORTED else []
        return sorted(changed)


def _bytes(document: Any) -> bytes:
    return (json.dumps(document, indent=2, ensure_ascii=False) + "\n").encode()


def _at(project: str) -> str:
    return f"/projects/{quote(project, safe='')}/text"


def status(studio: Studio, project: str, root: Path) -> list[dict[str, Any]]:
    """What differs between folder and studio, and on which side it changed."""
    folder = Folder(root)
    given = {"documents": folder.documents(), "exported": folder.exported()}
    return list(studio.send(f"{_at(project)}/compare", _bytes(given)))


def export(studio: Studio, project: str, root: Path, replace: bool = False) -> list[str]:
    """Bring the folder to what the studio has; the paths that changed. replace: also what was changed in the folder
    since. Raises StudioRefuses where that would be lost."""
    folder = Folder(root)
    if root.is_dir() and not replace and folder.paths():
        lost = [one["path"] for one in status(studio, project, root) if one["state"] != "changed in the studio"]
        if lost:
            raise StudioRefuses(
                f"changed here and not imported: {', '.join(lost[:5])}{' ...' if len(lost) > 5 else ''}; import them "
                "first, or --replace"
            )
    root.mkdir(parents=True, exist_ok=True)
    return folder.write(studio.call("GET", _at(project)))


def import_(
    studio: Studio, project: str, root: Path, take: Mapping[str, str], sources: Iterable[Path] = ()
) -> dict[str, Any]:
    """Bring both sides together: the studio takes over what changed in the folder, and the folder becomes what the
    studio then has. With conflicts nothing changes on either side.

    take: "here" or "studio" by key, for what both sides changed. sources: folders with files that the project does not
    have yet; those that the text names are uploaded first. Returns applied, conflicts, and written, the paths that
    changed here. Raises StudioRefuses.
    """
    folder = Folder(root)
    documents = folder.documents()
    _upload_missing(studio, project, documents, list(sources))
    given = {"documents": documents, "exported": folder.exported(), "take": dict(take)}
    told = dict(studio.send(_at(project), _bytes(given)))
    parts = told.pop("parts")
    return {**told, "written": [] if told["conflicts"] else folder.write(parts)}


def _files(documents: Mapping[str, Any]) -> set[tuple[str, str]]:
    """Path and digest of every file that sets name."""
    sets = [one for path, one in documents.items() if path.startswith("sets/")]
    maps = [entry for one in sets for entry in one.get("maps", ()) if isinstance(entry, dict)]
    return {(str(entry.get("file")), str(entry.get("digest"))) for entry in maps}


def _upload_missing(studio: Studio, project: str, documents: Mapping[str, Any], sources: list[Path]) -> None:
    if not sources:
        return
    there = {part["path"]: part["document"] for part in studio.call("GET", _at(project))}
    wanted = [path for path, _ in sorted(_files(documents) - _files(there))]
    found = {path: place for path in wanted for root in sources if (place := root / path).is_file()}
    if found:
        studio.take_in_files(project, found, "Import from text")
        studio.wait_for_jobs(project)
