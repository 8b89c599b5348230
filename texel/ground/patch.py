"""A patch of ground as a document says it (schema ground): shape, layers, rules, strokes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, cast

from texel.document_types import GroundDocument, GroundLayer, GroundShape, GroundStroke, GroundTerm
from texel.errors import BadDocument
from texel.schemas import check_document, schema

__all__ = [
    "FAR_SIDES", "MAX_LAYERS", "MAX_TERMS", "NEW_TERMS", "SIDES", "Layer", "Patch", "Shape", "Stroke", "Term",
    "parse_patch", "parse_stroke",
]  # fmt: skip

_PARTS = schema("ground")["$defs"]
# What a patch may have: texels a side of weights and of the maps for far away, layers, terms of a rule.
SIDES: tuple[int, ...] = tuple(_PARTS["side"]["enum"])
FAR_SIDES: tuple[int, ...] = tuple(schema("ground")["properties"]["far"]["enum"])
MAX_LAYERS: int = schema("ground")["properties"]["layers"]["maxItems"]
MAX_TERMS: int = _PARTS["layer"]["properties"]["rule"]["maxItems"]
# What people begin a rule with; degrees, metres, shares, metres; common practice.
NEW_TERMS: tuple[GroundTerm, ...] = (
    {"measure": "slope", "to": 30, "fade": 8}, {"measure": "altitude", "to": 1, "fade": 0.5},
    {"measure": "noise", "from": 0.5, "fade": 0.15, "size": 4, "seed": 1},
    {"measure": "water", "from": 0.4, "fade": 0.1}, {"measure": "edge", "to": 1, "fade": 0.5},
)  # fmt: skip


@dataclass(frozen=True)
class Shape:
    """kind: "made" or "map". low, high: metres of the lowest and highest place, of a map those of its 0 and 1. The rest
    is for what is made: feature in metres; rough and creeks from 0 to 1."""

    kind: str
    low: float
    high: float
    map: str = ""
    seed: int = 1
    feature: float = 32.0
    rough: float = 0.5
    creeks: float = 0.0


@dataclass(frozen=True)
class Term:
    """Where a layer lies by one measure: all of it between low and high, fading over ``fade`` around each.

    measure: "slope" in degrees; "altitude" in metres; "noise" from 0 to 1, its spots ``size`` metres across; "water",
    how much runs by, from 0 to 1; "edge", metres from the border of the layer ``of``, below 0 inside it.
    """

    measure: str
    low: float | None
    high: float | None
    fade: float
    size: float = 4.0
    seed: int = 1
    of: str = ""


@dataclass(frozen=True)
class Layer:
    """tile: metres that one tile covers; turn: degrees, counterclockwise; repeat: "plain", "two_scales" or "hexagons";
    edge: how much the layer's own relief shapes its border, from 0 to 1. rule: no term means everywhere."""

    name: str
    tile: float
    turn: float = 0.0
    repeat: str = "plain"
    edge: float = 0.0
    rule: tuple[Term, ...] = ()
    wears: str = ""


@dataclass(frozen=True)
class Stroke:
    """points: (x, y, pressure), metres from the north-west corner and 0 to 1. strength: -1 to 1. falloff: the share of
    the radius over which it fades. mirror: "", "x", "y" or "both"."""

    layer: str
    points: tuple[tuple[float, float, float], ...]
    radius: float
    strength: float
    falloff: float = 0.5
    mirror: str = ""
    wrap: bool = False


@dataclass(frozen=True)
class Patch:
    """metres, side: of the square, in metres and in texels. each, bits: of weight maps; far: texels a side of the maps
    for the far distance. layers: the lowest first, which
    lies wherever no other does."""

    name: str
    metres: float
    side: int
    shape: Shape
    layers: tuple[Layer, ...]
    strokes: tuple[Stroke, ...] = ()
    each: int = 4
    bits: int = 8
    far: int = 1024

    @property
    def texel(self) -> float:
        """Metres of one texel."""
        return self.metres / self.side

    @property
    def weight_files(self) -> int:
        """How many files the weights of all layers take."""
        return -(-len(self.layers) // self.each)

    def weight_place(self, at: int) -> tuple[int, str]:
        """The file, from 1, and the channel of a layer's weights."""
        return at // self.each + 1, "rgba"[at % self.each]


def _shape(given: GroundShape, where: str) -> Shape:
    if given["high"] < given["low"]:
        raise BadDocument("{where}: the highest place is lower than the lowest", where=where)
    if given["kind"] == "map" and not given.get("map"):
        raise BadDocument("{where}: a shape by a map names the map", where=where)
    return Shape(
        given["kind"], float(given["low"]), float(given["high"]), given.get("map", ""), given.get("seed", 1),
        float(given.get("feature", 32.0)), float(given.get("rough", 0.5)), float(given.get("creeks", 0.0)),
    )  # fmt: skip


def _term(given: GroundTerm, below: Sequence[str], where: str) -> Term:
    low, high = given.get("from"), given.get("to")
    if low is not None and high is not None and high < low:
        raise BadDocument(
            "{where}: {measure} goes from {low:g} down to {high:g}",
            where=where,
            measure=given["measure"],
            low=low,
            high=high,
        )
    of = given.get("of", "")
    if given["measure"] == "edge" and of not in below:
        raise BadDocument(
            "{where}: there is no layer {of!r} below, whose edge the rule could follow", where=where, of=of
        )
    return Term(
        given["measure"], low, high, float(given.get("fade", 0.0)), float(given.get("size", 4.0)),
        given.get("seed", 1), of,
    )  # fmt: skip


def _layer(given: GroundLayer, below: Sequence[str], where: str) -> Layer:
    told = f"{where}: layer {given['name']}"
    rule = tuple(_term(one, below, told) for one in given.get("rule", []))
    return Layer(
        given["name"], float(given["tile"]), float(given.get("turn", 0)), given.get("repeat", "plain"),
        float(given.get("edge", 0)), rule, given.get("wears", ""),
    )  # fmt: skip


def parse_stroke(given: GroundStroke) -> Stroke:
    """A stroke of a document that was checked."""
    points = tuple((float(x), float(y), min(max(float(p), 0.0), 1.0)) for x, y, p in given["points"])
    return Stroke(
        given["layer"], points, float(given["radius"]), float(given["strength"]), float(given.get("falloff", 0.5)),
        given.get("mirror", ""), given.get("wrap", False),
    )  # fmt: skip


def parse_patch(document: Mapping[str, Any], where: str = "the ground") -> Patch:
    """A document (schema ground) as a patch. Strokes on layers that are not there are left out. Raises BadDocument.

    >>> flat = {"kind": "made", "low": 0, "high": 1}
    >>> parse_patch({"format": "fair-texel/ground", "version": 1, "name": "Flat", "metres": 64, "side": 128,
    ...              "shape": flat, "layers": [{"name": "mud", "tile": 2}]}).texel
    0.5
    """
    check_document(document, "ground", where)
    given = cast(GroundDocument, document)
    names = [one["name"] for one in given["layers"]]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise BadDocument("{where}: two layers are called {twice}", where=where, twice=twice)
    layers = tuple(_layer(one, names[:at], where) for at, one in enumerate(given["layers"]))
    strokes = tuple(parse_stroke(one) for one in given.get("strokes", []) if one["layer"] in names)
    weights = given.get("weights")
    return Patch(
        given["name"], float(given["metres"]), given["side"], _shape(given["shape"], where), layers, strokes,
        weights["each"] if weights else 4, weights["bits"] if weights else 8, given.get("far", 1024),
    )  # fmt: skip
