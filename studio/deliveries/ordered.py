"""What is ordered beside sets: casts and models, as documents that say all, so that they can be built later."""

from __future__ import annotations

from collections.abc import Mapping

from typing_extensions import TypedDict

__all__ = ["NO_CASTS", "OrderedCast", "OrderedCasts", "OrderedModel", "OrderedSlot"]


class OrderedCast(TypedDict):
    """As texel.materials.delivered.cast_order reads it."""

    name: str
    master: Mapping[str, object]
    changes: dict[str, object]
    slots: dict[str, dict[str, str]]


class OrderedSlot(TypedDict):
    """title: of its material in the file. wears: None for nothing."""

    key: str
    title: str
    parts: list[str]
    wears: OrderedCast | None


class OrderedModel(TypedDict):
    """As texel.meshes.delivered.model_order reads it. files: what the library calls each of its files, by name."""

    name: str
    main: str
    files: dict[str, str]
    splits: list[dict[str, str]]
    slots: list[OrderedSlot]


class OrderedCasts(TypedDict):
    """sets: ids of those that fill slots. carry, carry_models: names of casts and models that stay as they were
    delivered. mesh_files: digests of the models' files, by what the library calls them."""

    casts: list[OrderedCast]
    models: list[OrderedModel]
    sets: list[int]
    carry: list[str]
    carry_models: list[str]
    mesh_files: dict[str, str]


NO_CASTS: OrderedCasts = {
    "casts": [], "models": [], "sets": [], "carry": [], "carry_models": [], "mesh_files": {},
}  # fmt: skip
