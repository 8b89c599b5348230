"""Schemas of ground: patches, their layers, what is painted, and how strongly tiles are seen to repeat."""

from __future__ import annotations

from typing import Literal

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import GroundShape, GroundStroke, GroundTerm
from studio.api.schemas.models import WearsIn

Repeat = Literal["plain", "two_scales", "hexagons"]


class LayerWornOut(TypedDict):
    """name: None where what was worn is gone. state: changes with what it looks like."""

    kind: Literal["cast", "set"]
    id: int
    name: str | None
    state: str


class GroundLayerOut(TypedDict):
    """key: the layer's own for ever; rules by an edge and strokes name it. strokes: how many were painted on it."""

    key: str
    name: str
    worn: LayerWornOut | None
    tile: float
    turn: float
    repeat: Repeat
    edge: float
    rule: list[GroundTerm]
    strokes: int


class GroundRow(TypedDict):
    """layers: how many; empty: of them that wear nothing. picture: changes with the picture from above."""

    id: int
    name: str
    metres: float
    side: int
    layers: int
    empty: int
    picture: str


class GroundOut(TypedDict):
    """land, laid: change with the heights, and with where layers lie. layers: the lowest first. strokes: how many were
    painted."""

    id: int
    name: str
    revision: int
    metres: float
    side: int
    far: int
    each: int
    bits: int
    shape: GroundShape
    layers: list[GroundLayerOut]
    strokes: int
    land: str
    laid: str
    picture: str


class GroundLayerIn(Schema):
    """key: of a layer that is there; empty for a new one."""

    key: str = ""
    name: str
    wears: WearsIn | None = None
    tile: float
    turn: float = 0
    repeat: Repeat = "plain"
    edge: float = 0
    rule: list[GroundTerm] = []


class GroundIn(Schema):
    """A new patch. What is left out is as new patches have it."""

    name: str = "Ground"
    metres: float | None = None
    side: int | None = None
    shape: GroundShape | None = None
    layers: list[GroundLayerIn] | None = None


class GroundChange(Schema):
    """What is given is changed. label: what the change is called in the history."""

    name: str | None = None
    metres: float | None = None
    side: int | None = None
    far: int | None = None
    each: int | None = None
    bits: int | None = None
    shape: GroundShape | None = None
    layers: list[GroundLayerIn] | None = None
    label: str = ""


class StrokeIn(Schema):
    """stroke: its layer is a key."""

    stroke: GroundStroke


class GroundRemedyOut(TypedDict):
    tile: float
    turn: float
    repeat: Repeat
    strength: float


class RepetitionOut(TypedDict):
    """Of one layer. strength: 0 to 1, None where too little of it is seen; from ``limit`` on the tile counts as seen.
    vanishes: metres of the smallest tile from which on it is not seen, where that was asked for. density: texels a
    metre; needed: those that give one a pixel."""

    layer: str
    strength: float | None
    is_seen: bool
    limit: float
    vanishes: float | None
    density: float
    needed: float
    sharp_from: float
    remedies: list[GroundRemedyOut]
