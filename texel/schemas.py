"""The published schemas of the open documents (see docs/documents.md), and one way to check against them."""

from __future__ import annotations

import json
import math
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import Any

import jsonschema
import jsonschema_rs
from referencing import Registry, Resource
from referencing.jsonschema import DRAFT202012

from texel.errors import BadDocument

__all__ = ["check_document", "document_types", "load_json", "packaged_documents", "read_json", "schema"]


# Whole numbers beyond 64 bits are neither sizes nor numbers of rows.
_MAX_DIGITS, _LARGEST = 20, 2**63 - 1


@lru_cache
def schema(name: str) -> dict[str, Any]:
    """The JSON schema of a kind of document: "layout", "target", "recipe" ... as in texel/schema."""
    made: dict[str, Any] = json.loads(
        resources.files("texel").joinpath(f"schema/{name}.schema.json").read_text("utf-8")
    )
    return made


def _named(address: str) -> Resource[Any]:
    """Schemas name parts of each other by file: "layout.schema.json#/properties/channels"."""
    return DRAFT202012.create_resource(schema(address.removesuffix(".schema.json")))


# Its stubs do not know of the words that its constructor takes.
_TOGETHER: Registry[Any] = Registry(retrieve=_named)  # type: ignore[call-arg]


@lru_cache
def _quick(name: str) -> jsonschema_rs.Draft202012Validator:
    """A compiled validator: some hundred times faster, and with messages that are harder to read."""

    def named(address: str) -> dict[str, Any]:
        return schema(address.rsplit("/", 1)[-1].removesuffix(".schema.json"))

    return jsonschema_rs.Draft202012Validator(schema(name), retriever=named)


def _is_sound(document: Any, name: str) -> bool:
    try:
        return _quick(name).is_valid(document)
    except ValueError:  # what is in no JSON: names that are no text, numbers beyond 64 bits
        return False


def check_document(document: Any, name: str, where: str) -> None:
    """Raise BadDocument with the place and the reason when ``document`` does not follow the schema ``name``."""
    if _is_sound(document, name):
        return
    validator = jsonschema.Draft202012Validator(schema(name), registry=_TOGETHER)
    error = jsonschema.exceptions.best_match(validator.iter_errors(document))
    if error is not None:
        place = "/".join(_spoken(document, list(error.absolute_path))) or "the top"
        # The part itself, which may be long, is named by its place.
        told = repr(error.instance)
        message = error.message.replace(told, "this") if len(told) > 80 else error.message
        raise BadDocument(
            "{where} is not a {name} document: at {place}: {message}",
            where=where,
            name=name,
            place=place,
            message=message[:200],
        )


def _spoken(document: Any, path: list[str | int]) -> list[str]:
    """A place in a document; entries of lists that name themselves go by that name."""
    sentences = []
    for part in path:
        document = document[part]
        names = [document.get(key) for key in ("output", "part", "name")] if isinstance(document, dict) else []
        name = next((one for one in names if isinstance(one, str)), None) if isinstance(part, int) else None
        sentences.append(str(part) if name is None else name[:40])
    return sentences


def document_types() -> dict[str, dict[str, Any]]:
    """Every titled part of every schema by its title, as schemas that name each other "#/$defs/TITLE".

    What only says which keys go together is left out: it is checked, but no type says it. The types of the API, of the
    page, and texel/document_types.py are made of these.

    >>> document_types()["ManifestUse"]["required"]
    ['slot', 'path']
    """
    types: dict[str, dict[str, Any]] = {}
    for entry in sorted(one.name for one in resources.files("texel").joinpath("schema").iterdir()):
        _lift(schema(entry.removesuffix(".schema.json")), entry, types)
    return dict(sorted(types.items()))


def _lift(part: Any, home: str, found: dict[str, dict[str, Any]]) -> Any:
    """A part of the schema in the file ``home`` with its titled parts lifted out, and its references followed."""
    if isinstance(part, list):
        return [_lift(one, home, found) for one in part]
    if not isinstance(part, dict):
        return part
    if "$ref" in part:
        file, _, place = part["$ref"].partition("#")
        whole = schema((file or home).removesuffix(".schema.json"))
        for key in filter(None, place.split("/")):
            whole = whole[key]
        return _lift(whole, file or home, found)
    title = part.get("title") if isinstance(part.get("title"), str) else None
    if title is None or title not in found:
        if title is not None:
            # One that stands within itself is named there.
            found[title] = {}
        made = {
            key: _lift(value, home, found)
            for key, value in part.items()
            if not key.startswith("$")
            and not (key in ("anyOf", "oneOf") and all(set(one) == {"required"} for one in value))
        }
        if title is None:
            return made
        found[title] = made
    return {"$ref": f"#/$defs/{title}"}


def packaged_documents(package: str, folder: str) -> dict[str, Any]:
    """The JSON documents that come with a package, by file name without its ending, in the order of their names."""
    entries = sorted(resources.files(package).joinpath(folder).iterdir(), key=lambda entry: entry.name)
    documents = [entry for entry in entries if entry.name.endswith(".json")]
    return {one.name.removesuffix(".json"): load_json(one.read_text("utf-8"), one.name) for one in documents}


def read_json(path: Path, where: str | None = None) -> Any:
    """The JSON in a file, UTF-8 with or without a mark. Raises BadDocument, OSError."""
    where = where or path.name
    try:
        return load_json(path.read_bytes().decode("utf-8-sig"), where)
    except UnicodeDecodeError as error:
        raise BadDocument(
            "{where} is not UTF-8 text: byte {start} makes no sense", where=where, start=error.start
        ) from error


def load_json(text: str, where: str) -> Any:
    """Parse JSON or raise BadDocument with line and column.

    Numbers that are none (NaN, infinity, or too large for a float) are refused, which plain JSON knows nothing of, and
    so is what is nested deeper than any document.
    """

    def number(word: str) -> float:
        parsed = float(word)
        if not math.isfinite(parsed):
            raise ValueError(f"{word[:40]} is no number that can be worked with")
        return parsed

    def whole(word: str) -> int:
        # Longer ones take a time that grows with the square of their length, and fit no number of ours.
        if len(word) > _MAX_DIGITS or abs(int(word)) > _LARGEST:
            raise ValueError(f"{word[:40]} is no number that can be worked with")
        return int(word)

    try:
        return json.loads(text, parse_float=number, parse_int=whole, parse_constant=number)
    except RecursionError:
        raise BadDocument("{where} is nested deeper than any document", where=where) from None
    except ValueError as error:
        raise BadDocument("{where} is not JSON: {error}", where=where, error=error) from error
