"""What is ordered beside sets: casts, models and ground, as documents that say all, so that they can be built later."""

from __future__ import annotations

from collections.abc import Mapping

from typing_extensions import TypedDict

from texel.document_types import GroundDocument, RegionDocument, VertexStrokeDocument

__all__ = ["NO_CASTS", "OrderedCast", "OrderedCasts", "OrderedGround", "OrderedModel", "OrderedSlot"]


class OrderedCast(TypedDict):
    """As texel.materials.delivered.cast_order reads it."""

    name: str
    master: Mapping[str, object]
    changes: dict[str, object]
    slots: dict[str, dict[str, str]]


class OrderedSlot(TypedDict):
    """title: of its material in the file. wears: None for nothing. region: the part of it that is used, or None."""

    key: str
    title: str
    parts: list[str]
    wears: OrderedCast | None
    region: RegionDocument | None


class OrderedModel(TypedDict):
    """As texel.meshes.delivered.model_order reads it. files: what the library calls each of its files, by name. metres:
    of one unit of its file. strokes: that paint its vertex colours."""

    name: str
    main: str
    files: dict[str, str]
    splits: list[dict[str, str]]
    slots: list[OrderedSlot]
    metres: float
    strokes: list[VertexStrokeDocument]


class OrderedGround(TypedDict):
    """As texel.ground.delivered.ground_order reads it. height: what the library calls its height map, "" for none."""

    ground: GroundDocument
    height: str
    layers: list[OrderedCast]


class OrderedCasts(TypedDict):
    """sets: ids of those that fill slots. carry, carry_models, carry_grounds: names of what stays as it was delivered.
    mesh_files: digests of the models' files and of height maps, by what the library calls them."""

    casts: list[OrderedCast]
    models: list[OrderedModel]
    grounds: list[OrderedGround]
    sets: list[int]
    carry: list[str]
    carry_models: list[str]
    carry_grounds: list[str]
    mesh_files: dict[str, str]


NO_CASTS: OrderedCasts = {
    "casts": [], "models": [], "grounds": [], "sets": [], "carry": [], "carry_models": [], "carry_grounds": [],
    "mesh_files": {},
}  # fmt: skip
