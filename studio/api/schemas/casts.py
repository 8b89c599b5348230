"""Schemas of a project's materials: masters in use, casts, exports, imports, updates."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from pydantic import ConfigDict
from typing_extensions import TypedDict

from studio.api.documents import Master, ParameterValue
from studio.api.schemas.masters import ChangeOut, CostOut, ParameterOut, ReadCastOut, SheetOut, SlotOut
from texel.materials.exchange import BLACK


class AdoptionOut(TypedDict):
    """newest: the newest version that is not deprecated. update_available: it is newer than the adopted one, and not
    pinned. over_budget: what of the sheet's cost is more than the project's rules allow."""

    master: str
    title: str
    number: str
    newest: str | None
    update_available: bool
    pinned: bool
    deprecated: bool
    casts: int
    revision: int
    cost: CostOut
    over_budget: list[str]
    used_variants: int


class AdoptionNow(TypedDict):
    """What a project uses of a master now, for whoever saw an older state."""

    master: str
    number: str
    pinned: bool
    revision: int


class CastRow(TypedDict):
    id: int
    name: str
    master: str
    parent: int | None
    changes: int
    worst: Literal["error", "warning"] | None


class Materials(Schema):
    masters: list[AdoptionOut]
    casts: list[CastRow]


class SlotBindingOut(TypedDict):
    """own: this cast fills the slot, not an ancestor. version: of the set, changes with its maps."""

    slot: str
    set: int
    set_name: str
    role: str | None
    own: bool
    version: int


class BindingRemarkOut(TypedDict):
    check: str
    severity: Literal["error", "warning", "note"]
    slot: str
    message: str


class CastOut(CastRow):
    """values: of every parameter, as components; changed: what this cast itself changes. memory: bytes of graphics
    memory that its maps would take in the project's cheapest formats, all levels."""

    revision: int
    sheet: SheetOut
    number: str
    values: dict[str, list[float]]
    changed: list[str]
    inherited: list[str]
    fills: list[SlotBindingOut]
    remarks: list[BindingRemarkOut]
    memory: int
    by: str | None
    created: datetime


class NewCast(Schema):
    name: str
    master: str | None = None
    parent: int | None = None


class FillIn(Schema):
    """set: of the project. role: of its map that is taken, where it is not the slot's own."""

    model_config = ConfigDict(extra="forbid")

    set: int
    role: str | None = None


class CastChange(Schema):
    """A value of None puts back what is inherited. casts: others that are changed alike. seen: revisions
    by cast, of those that were seen."""

    changes: dict[str, ParameterValue | None] = {}
    slots: dict[str, FillIn | None] = {}
    name: str | None = None
    casts: list[int] = []
    seen: dict[int, int] = {}


class FromSet(Schema):
    """layer: fill the slots of this layer alone."""

    set: int
    layer: str = ""


class ExportIn(Schema):
    """side: texels of baked maps; vertex: the vertex colour in them, four numbers 0 to 1.

    bits, green, layouts: of the format "maps"."""

    casts: list[int]
    format: str
    side: int = 1024
    bits: Literal[8, 16] = 8
    green: Literal["up", "down"] = "up"
    layouts: list[str] = []
    vertex: list[float] = list(BLACK)


class TakeIn(Schema):
    """document: of a master that the library has not yet. casts: with the names of the files that fill their slots."""

    document: Master
    casts: list[ReadCastOut]
    note: str = ""


class UnfilledOut(Schema):
    """A slot whose file no set of the project holds."""

    cast: str
    slot: str
    file: str


class NamedCast(Schema):
    id: int
    name: str


class TakenInOut(Schema):
    """casts: in the order given, under names that were free."""

    master: str
    casts: list[NamedCast]
    unfilled: list[UnfilledOut]


class ComparedCast(Schema):
    """values: of every parameter, as components; changed: what this cast itself changes; fills: sets by slot."""

    id: int
    name: str
    changed: list[str]
    values: dict[str, list[float]]
    fills: dict[str, str]


class Comparison(Schema):
    title: str
    parameters: list[ParameterOut]
    slots: list[SlotOut]
    casts: list[ComparedCast]


class StackIn(Schema):
    """casts: the lowest layer first."""

    title: str
    casts: list[int]


class StackOut(Schema):
    master: str


class AdoptIn(Schema):
    """renames: new names of parameters and slots by old ones, "" to drop one."""

    number: str
    renames: dict[str, str] = {}


class Pin(Schema):
    pinned: bool


class FillAfter(TypedDict):
    """version: of the set, changes with its maps."""

    slot: str
    set: int
    role: str | None
    version: int


class ImpactRow(TypedDict):
    """lost: what the version does not take any more, with the reason. values: of every parameter of the version, as
    components; fills: what fills its slots, both with what is inherited."""

    cast: int
    name: str
    kept: int
    lost: dict[str, str]
    values: dict[str, list[float]]
    fills: list[FillAfter]


class Impact(TypedDict):
    """changes: what differs from the version in use. casts: what it would do to each."""

    number: str
    before: str | None
    changes: list[ChangeOut]
    casts: list[ImpactRow]
