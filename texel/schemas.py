"""The published schemas of the open documents (see docs/documents.md), and one way to check against them."""

from __future__ import annotations

import json
import math
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import Any

import jsonschema

from texel.errors import BadDocument

__all__ = ["check_document", "load_json", "packaged_documents", "read_json", "schema"]


# Whole numbers beyond 64 bits are neither sizes nor numbers of rows.
_MOST_DIGITS, _LARGEST = 20, 2**63 - 1


@lru_cache
def schema(name: str) -> dict[str, Any]:
    """The JSON schema of "layout", "target", "sets", "recipe" or "manifest"."""
    made: dict[str, Any] = json.loads(
        resources.files("texel").joinpath(f"schema/{name}.schema.json").read_text("utf-8")
    )
    return made


def check_document(document: Any, name: str, where: str) -> None:
    """Raise BadDocument with the place and the reason when ``document`` does not follow the schema ``name``."""
    validator = jsonschema.Draft202012Validator(schema(name))
    error = jsonschema.exceptions.best_match(validator.iter_errors(document))
    if error is not None:
        place = "/".join(str(part) for part in error.absolute_path) or "the top"
        # The part itself, which may be long, is named by its place.
        told = repr(error.instance)
        message = error.message.replace(told, "this") if len(told) > 80 else error.message
        raise BadDocument(f"{where} is not a {name} document: at {place}: {message[:200]}")


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
        raise BadDocument(f"{where} is not UTF-8 text: byte {error.start} makes no sense") from error


def load_json(text: str, where: str) -> Any:
    """Parse JSON or raise BadDocument with line and column.

    Numbers that are none (NaN, infinity, or too large for a float) are refused, which plain JSON knows nothing of, and
    so is what is nested deeper than any document.
    """

    def number(word: str) -> float:
        found = float(word)
        if not math.isfinite(found):
            raise ValueError(f"{word[:40]} is no number that can be worked with")
        return found

    def whole(word: str) -> int:
        # Longer ones take a time that grows with the square of their length, and fit no number of ours.
        if len(word) > _MOST_DIGITS or abs(int(word)) > _LARGEST:
            raise ValueError(f"{word[:40]} is no number that can be worked with")
        return int(word)

    try:
        return json.loads(text, parse_float=number, parse_int=whole, parse_constant=number)
    except RecursionError:
        raise BadDocument(f"{where} is nested deeper than any document") from None
    except ValueError as error:
        raise BadDocument(f"{where} is not JSON: {error}") from error
