"""Schemas of maps: their place, recipe, trials, misreadings and mips."""

from __future__ import annotations

from ninja import Schema

from studio.api.documents import Step


class Place(Schema):
    """set None makes the map undecided."""

    set: int | None = None
    new_set: str | None = None
    role: str = ""


class RecipeIn(Schema):
    recipe: list[Step]
    label: str = ""


class AlphaRole(Schema):
    role: str


class ShareIn(Schema):
    set: int


class LayerIn(Schema):
    layer: str


class DerivedMap(Schema):
    role: str
    recipe: list[Step]


class CopyTo(Schema):
    sets: list[int]


class Copied(Schema):
    maps: int


class ChannelCounts(Schema):
    """counts: texels in each of 256 steps from 0 to 1; black, white: shares that are clipped at either end."""

    counts: list[int]
    black: float
    white: float


class TrialsIn(Schema):
    formats: list[str]
    quality: str = "normal"
