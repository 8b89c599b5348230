"""The published schemas of the open documents (see docs/documents.md), and one way to check against them."""

from __future__ import annotations

import json
from functools import lru_cache
from importlib import resources
from typing import Any

import jsonschema

from texel.errors import BadDocument

__all__ = ["check_document", "load_json", "schema"]


@lru_cache
def schema(name: str) -> dict[str, Any]:
    """The JSON schema of "layout", "target", "sets", "recipe" or "manifest"."""
    return json.loads(resources.files("texel").joinpath(f"schema/{name}.schema.json").read_text("utf-8"))


def check_document(document: Any, name: str, where: str) -> None:
    """Raise BadDocument with the place and the reason when ``document`` does not follow the schema ``name``."""
    validator = jsonschema.Draft202012Validator(schema(name))
    error = jsonschema.exceptions.best_match(validator.iter_errors(document))
    if error is not None:
        place = "/".join(str(part) for part in error.absolute_path) or "the top"
        raise BadDocument(f"{where} is not a {name} document: at {place}: {error.message[:200]}")


def load_json(text: str, where: str) -> Any:
    """Parse JSON or raise BadDocument with line and column."""
    try:
        return json.loads(text)
    except ValueError as error:
        raise BadDocument(f"{where} is not JSON: {error}") from error
