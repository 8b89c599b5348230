"""Schemas of sets and what targets make of them."""

from __future__ import annotations

from typing import Literal

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import Step, Target
from studio.api.schemas.shared import FindingOut, RoleOut, SetOut, UndecidedOut
from texel.recipes.tileable import Tileable


class TileOut(TypedDict):
    """number: 1001 + u + 10 v. set: its name."""

    number: int
    set: str


class TiledSurface(TypedDict):
    """Sets that lie beside each other in a mesh's coordinates, and fill a slot together."""

    name: str
    tiles: list[TileOut]


class SetList(TypedDict):
    """undo, redo: labels of the asking person's own changes that would be taken back or made again. tiled: surfaces in
    tiles among the sets. count: of all that were asked for, where only the first were."""

    roles: list[RoleOut]
    count: int
    sets: list[SetOut]
    tiled: list[TiledSurface]
    undecided: list[UndecidedOut]
    undo: str | None
    redo: str | None


class SetDetail(SetOut):
    findings: list[FindingOut]


class NewName(Schema):
    name: str


class NewNames(Schema):
    """names: by set. seen: revisions by set, of those that were seen."""

    names: dict[int, str]
    seen: dict[int, int] = {}


class StepsIn(Schema):
    """recipe: steps that are put behind those of the maps in use of ``role``. seen: as in NewNames."""

    sets: list[int]
    role: str
    recipe: list[Step]
    seen: dict[int, int] = {}


class TileableIn(Schema):
    """guide: the map that decides where borders are cut. corners: x and y of each, shares of the sides, clockwise from
    the upper left. light: how much of the slow change of light is taken out; reach: over which share of the width.
    borders: patch, fade or leave. width: share of the side along each border that may change. axes: both, x or y."""

    guide: int
    corners: list[float] = list(Tileable.corners)
    light: float = Tileable.light
    reach: float = Tileable.reach
    by_channel: bool = Tileable.by_channel
    borders: Literal["patch", "fade", "leave"] = "patch"
    width: float = Tileable.width
    axes: Literal["both", "x", "y"] = "both"


class TriedOutput(Schema):
    """target: a document that need not be kept. output: which of its outputs. side: longest side of the picture."""

    target: Target
    output: str
    side: int = 256
    channel: str = ""


class Metres(Schema):
    metres: float | None


class LicenceIn(Schema):
    """licence: SPDX identifier or LicenseRef-..., "" for unknown. seen: revisions by set, of those that were seen."""

    sets: list[int]
    licence: str
    credit: str = ""
    seen: dict[int, int] = {}


class TargetsIn(Schema):
    """targets: names; none for the project's own. seen: revisions by set, of those that were seen."""

    sets: list[int]
    targets: list[str]
    seen: dict[int, int] = {}


class Merge(Schema):
    """seen: revisions by set, of those that were seen."""

    into: int
    sets: list[int]
    seen: dict[int, int] = {}


class Split(Schema):
    name: str
    maps: list[int]
