"""Schemas of models: their slots, what these wear, what is wrong, and which files they are made of."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import VertexStroke
from studio.api.schemas.casts import SlotBindingOut
from studio.api.schemas.masters import SheetOut


class WearsIn(Schema):
    """A cast or a set of the project, by id."""

    kind: Literal["cast", "set"]
    id: int


class SlotWearsIn(WearsIn):
    """region: name of the part of its maps that the slot uses; null for all of them."""

    region: str | None = None


class WornOut(TypedDict):
    """name: None where what was worn is gone. region: name of the part of its maps that is used, None for all."""

    kind: Literal["cast", "set"]
    id: int
    name: str | None
    region: str | None


class ModelFindingOut(TypedDict):
    """slot: its index, None for the whole model."""

    check: str
    severity: Literal["error", "warning", "note"]
    slot: int | None
    message: str
    measure: float | None
    threshold: float | None


class ModelRow(TypedDict):
    """empty: slots in use that wear nothing. size: metres along x, y, z. picture: changes with the picture."""

    id: int
    name: str
    file: str
    state: Literal["measuring", "ready", "unreadable"]
    problem: str
    triangles: int
    slots: int
    empty: int
    errors: int
    warnings: int
    size: list[float]
    picture: str


class ModelTexture(TypedDict):
    use: str
    file: str
    is_inside: bool


class ModelSlotOut(TypedDict):
    """title: what it is called when it is delivered. area: square metres. density: texels a metre on what it wears, and
    density_of_one on a map of one texel. split_from: key of the slot that it was split from. shared_with: indices of
    slots that wear the same. regions: names of parts of the worn maps. gap: texels between UV islands on 2048."""

    index: int
    key: str
    name: str
    title: str
    parts: list[str]
    triangles: int
    area: float
    density: float | None
    density_of_one: float | None
    overlap: float | None
    islands: int
    gap: int | None
    uv_sets: int
    has_tangents: bool
    has_colours: bool
    textures: list[ModelTexture]
    alpha: str
    worn: WornOut | None
    regions: list[str]
    shared_with: list[int]
    split_from: str | None


class ModelPartOut(TypedDict):
    """levels: triangles by level of detail, the finest first. slots: indices."""

    name: str
    levels: list[int]
    slots: list[int]


class ModelVersionOut(TypedDict):
    number: int
    at: datetime
    by: str | None
    files: list[str]
    is_current: bool


class ModelOut(ModelRow):
    """metres: of one unit of the file. wanted_density: texels a metre that the house asks for. strokes: how many were
    painted on its vertex colours, and painted: how many on each of them. shape: changes with the places and UVs of its
    points."""

    revision: int
    kind: str
    metres: float
    points: int
    remarks: list[str]
    parts: list[ModelPartOut]
    slots_out: list[ModelSlotOut]
    findings: list[ModelFindingOut]
    versions: list[ModelVersionOut]
    wanted_density: float | None
    shape: str
    strokes: int
    painted: dict[str, int]


class VertexStrokeIn(Schema):
    stroke: VertexStroke


class PaintedOut(TypedDict):
    """spacing: how far points of the mesh lie apart under the stroke in units of the file, and wanted: how near its
    border wants them; both None where the mesh is fine enough."""

    model: ModelOut
    spacing: float | None
    wanted: float | None


class ModelChange(Schema):
    """wears: what slots wear, by key; null takes off. titles: what slots are called when delivered, by key."""

    name: str | None = None
    metres: float | None = None
    wears: dict[str, SlotWearsIn | None] | None = None
    titles: dict[str, str] | None = None


class SplitIn(Schema):
    slot: str
    part: str


class ProposalOut(TypedDict):
    """share: how likely, 0 to 1; is_sure: likely enough to be taken without a look. why: what names it."""

    kind: Literal["cast", "set"]
    id: int
    name: str
    share: float
    is_sure: bool
    why: Literal["texture", "slot", "part", "file"]
    word: str


class SlotProposals(TypedDict):
    key: str
    proposals: list[ProposalOut]


class WornSheet(TypedDict):
    """What draws a cast, or a set without one."""

    sheet: SheetOut
    values: dict[str, list[float]]
    fills: list[SlotBindingOut]
