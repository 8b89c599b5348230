"""A project's folder of documents, read and written."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from texel.errors import BadDocument
from texel.files.writing import write_bytes
from texel.project.kinds import KINDS, PROJECT, Texts, file_names, key_of, must_be_sound
from texel.schemas import read_json

__all__ = ["document_bytes", "read_folder", "write_folder"]

_LARGEST = 32 * 1024 * 1024


def document_bytes(document: Any) -> bytes:
    """A document as it is written: a line for each value, so that lines can be compared and merged."""
    return (json.dumps(document, indent=2, ensure_ascii=False) + "\n").encode()


def read_folder(root: Path) -> Texts:
    """All documents of a project by key; files that are none of its own are left alone. Raises BadDocument, also for a
    folder that holds no project, and OSError."""
    if not (root / f"{PROJECT}.json").is_file():
        raise BadDocument("{root} holds no project: there is no {name}", root=root, name=f"{PROJECT}.json")
    texts: Texts = {}
    paths = [root / f"{PROJECT}.json", *(path for one in KINDS for path in sorted((root / one).glob("*.json")))]
    for path in paths:
        inside = path.relative_to(root).as_posix()
        if path.stat().st_size > _LARGEST:
            raise BadDocument("{path} is larger than any document of a project", path=inside)
        document = read_json(path, inside)
        if not isinstance(document, dict):
            raise BadDocument("{path} holds no document", path=inside)
        key = key_of(inside, document)
        if key in texts:
            raise BadDocument("{path} describes {key}, and so does another file", path=inside, key=key)
        must_be_sound(key, document)
        texts[key] = document
    return texts


def write_folder(root: Path, texts: Texts) -> list[str]:
    """Write all documents of a project, and take away those that it does not have any more; what did not change is not
    touched. Returns the paths that changed. Raises OSError."""
    wanted = {path: document_bytes(texts[key]) for key, path in file_names(texts).items()}
    changed = []
    for path, data in wanted.items():
        place = root / path
        if not place.is_file() or place.read_bytes() != data:
            place.parent.mkdir(parents=True, exist_ok=True)
            write_bytes(data, place)
            changed.append(path)
    for folder in KINDS:
        for place in sorted((root / folder).glob("*.json")):
            inside = place.relative_to(root).as_posix()
            if inside not in wanted:
                place.unlink()
                changed.append(inside)
    return changed
