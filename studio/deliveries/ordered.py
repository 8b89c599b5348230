"""What is ordered beside sets: casts, as documents that say all of them, so that they can be built later."""

from __future__ import annotations

from collections.abc import Mapping

from typing_extensions import TypedDict

__all__ = ["NO_CASTS", "OrderedCast", "OrderedCasts"]


class OrderedCast(TypedDict):
    """As texel.materials.delivered.cast_order reads it."""

    name: str
    master: Mapping[str, object]
    changes: dict[str, object]
    slots: dict[str, dict[str, str]]


class OrderedCasts(TypedDict):
    """sets: ids of those that fill slots. carry: names of casts that stay as they were delivered."""

    casts: list[OrderedCast]
    sets: list[int]
    carry: list[str]


NO_CASTS: OrderedCasts = {"casts": [], "sets": [], "carry": []}
