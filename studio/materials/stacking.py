"""Layered masters made of casts as they are."""

from __future__ import annotations

import copy
from typing import Any

from django.utils.text import slugify

from studio.changes.errors import Conflict
from studio.materials.casts import resolved
from studio.materials.library import create_master
from studio.materials.models import Cast, Master
from texel.materials import document_value, stacked_sheets

__all__ = ["stack_casts"]

# Short names for the layers of a stack, the lowest first; titles tell what they are.
_LAYERS = ("ground", "second", "third", "fourth", "fifth")


def stack_casts(title: str, rows: list[Cast], by: Any) -> Master:
    """A draft of a layered master whose layers are casts as they are: their masters' sheets, their values as defaults.

    Raises Conflict for fewer than two or more than five, BadDocument when one has layers of its own.
    """
    if not 2 <= len(rows) <= 5:
        raise Conflict("two to five casts make a stack")
    sheets = []
    for number, cast in enumerate(rows):
        told = resolved(cast)
        document = copy.deepcopy(told.sheet.document)
        for parameter in document.get("parameters", []):
            parameter["default"] = document_value(told.sheet, parameter["name"], told.values[parameter["name"]])
        sheets.append((_LAYERS[number], cast.name, document))
    name = slugify(title)[:64] or "stack"
    return create_master(stacked_sheets(name, title, sheets), by)
