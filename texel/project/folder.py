"""A project's folder of documents, read."""

from __future__ import annotations

from pathlib import Path

from texel.errors import BadDocument
from texel.project.kinds import KINDS, PROJECT, Texts, key_of, must_be_sound
from texel.schemas import read_json

__all__ = ["read_folder"]

_LARGEST = 32 * 1024 * 1024


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
