"""The kinds of documents that a project consists of, what each is called, and in which file it stands."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import PurePosixPath
from typing import Any

from texel import digest
from texel.errors import BadDocument
from texel.naming.compose import safe_name
from texel.schemas import check_document

__all__ = [
    "KINDS",
    "PROJECT",
    "RULES",
    "Texts",
    "file_names",
    "folder_of",
    "key_of",
    "must_be_sound",
    "name_in",
    "text_digest",
]

# Documents by key: the folder and the name of what they describe, as "sets/deck".
Texts = dict[str, dict[str, Any]]
PROJECT = "project"
RULES = ("target", "layout", "names", "formats", "licences", "mirror", "models")
# The schema of each folder's documents, in the order in which they need each other.
KINDS: Mapping[str, str] = {
    **{f"rules/{kind}": kind for kind in RULES},
    "masters": "project-master", "sets": "project-set", "casts": "project-cast", "models": "project-model",
    "ground": "project-ground", "destinations": "destination",
}  # fmt: skip
_NAMED_BY_FILE = {f"rules/{kind}" for kind in ("names", "formats", "licences", "models")}
# Whole numbers below are exact in 64 bits (IEEE 754).
_EXACT = 2.0**53
# Letters of the digest that tells two names apart which would be one file.
_APART = 6


def name_in(folder: str, document: Mapping[str, Any], file: str) -> str:
    """What a document describes is called. file: its name without ending, which says so where the document does not."""
    if folder in _NAMED_BY_FILE:
        return file
    named = document.get("ground", {}) if folder == "ground" else document
    return str(named.get("name") or file)


def key_of(path: str, document: Mapping[str, Any]) -> str:
    """The key of a document from where it stands. Raises BadDocument for a place where none belongs.

    >>> key_of("sets/deck.json", {"name": "Deck"}), key_of("rules/names/house.json", {})
    ('sets/Deck', 'rules/names/house')
    """
    file = PurePosixPath(path)
    if path == f"{PROJECT}.json":
        return PROJECT
    folder = file.parent.as_posix()
    if folder not in KINDS or file.suffix != ".json":
        raise BadDocument("{path} is no place for a document of a project", path=path)
    return f"{folder}/{name_in(folder, document, file.stem)}"


def folder_of(key: str) -> str:
    """The folder of a key: names may hold slashes, folders are known.

    >>> folder_of("rules/target/phone"), folder_of("sets/hull/left"), folder_of("project")
    ('rules/target', 'sets', '')
    """
    return next((one for one in KINDS if key.startswith(f"{one}/")), "")


def must_be_sound(key: str, document: Any) -> None:
    """Raises BadDocument where a document does not follow its schema, or stands under another name."""
    folder = folder_of(key)
    if not folder and key != PROJECT:
        raise BadDocument("{key} is no part of a project", key=key)
    check_document(document, KINDS.get(folder, PROJECT), key)
    name = key.removeprefix(f"{folder}/")
    if folder and name_in(folder, document, name) != name:
        raise BadDocument("{key} describes {name}", key=key, name=name_in(folder, document, name))


def text_digest(document: Mapping[str, Any]) -> str:
    """Names what a document says, without what the studio only tells beside it. 2 and 2.0 say the same: JSON knows one
    kind of number (RFC 8259, 6), and many tools write the shorter one.

    >>> text_digest({"name": "deck", "told": {}}) == text_digest({"name": "deck"})
    True
    >>> text_digest({"metres": 2.0}) == text_digest({"metres": 2})
    True
    """
    return digest.of_document(_shortest({key: value for key, value in document.items() if key != "told"}))


def _shortest(value: Any) -> Any:
    if isinstance(value, float) and value.is_integer() and abs(value) < _EXACT:
        return int(value)
    if isinstance(value, Mapping):
        return {key: _shortest(one) for key, one in value.items()}
    return [_shortest(one) for one in value] if isinstance(value, list | tuple) else value


def file_names(keys: Iterable[str]) -> dict[str, str]:
    """The file of each key, below the project's folder. Names that would be one file where capitals are not told apart
    have a part of their digest behind them.

    >>> file_names(["sets/deck", "sets/Deck", "project"])["project"]
    'project.json'
    >>> len({path.lower() for path in file_names(["sets/deck", "sets/Deck"]).values()})
    2
    """
    wanted = {}
    for key in keys:
        folder = folder_of(key)
        wanted[key] = f"{folder}/{safe_name(key.removeprefix(f'{folder}/'))}" if folder else key
    counts: dict[str, int] = {}
    for path in wanted.values():
        counts[path.lower()] = counts.get(path.lower(), 0) + 1
    return {
        key: f"{path}.json" if counts[path.lower()] == 1 else f"{path}~{digest.of_bytes(key.encode())[:_APART]}.json"
        for key, path in wanted.items()
    }
