"""Schemas of the studio's masters and their sheets."""

from __future__ import annotations

from datetime import datetime
from typing import Literal, NotRequired

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import Function, Master, ParameterValue
from texel.materials.ready import PLAINEST


class Begin(Schema):
    """title: of the new master; its name is made of it. ready: the ready-made master that it begins as."""

    title: str
    ready: str = PLAINEST


class ReadyMaster(TypedDict):
    """A ready-made master that a new one may begin as."""

    name: str
    title: str
    help: str
    cost: CostOut


class ChangeOut(TypedDict):
    """What differs between two versions. breaks: removes (casts lose something), changes (defaults or the picture) or
    keeps. before, after: as people read them, None where there is none."""

    what: str
    name: str
    breaks: Literal["removes", "changes", "keeps"]
    message: str
    before: str | None
    after: str | None


class VersionRow(TypedDict):
    number: str
    note: str
    by: str | None
    created: datetime
    deprecated: bool
    changes: list[ChangeOut]


class MasterRow(TypedDict):
    """newest: the number of the newest version, None while there is only a draft."""

    name: str
    title: str
    newest: str | None
    draft: bool
    casts: int
    projects: int


class UserOut(TypedDict):
    """A project that uses a master. title: None for one that the asking person has no part in."""

    title: str | None
    number: str
    casts: int


class MasterOut(MasterRow):
    """document: the draft, or the newest version's. keepers: who may change it; may_write: whether the asking person
    may."""

    revision: int
    keepers: list[str]
    document: Master
    versions: list[VersionRow]
    may_write: bool
    users: list[UserOut]


class SlotOut(TypedDict):
    name: str
    title: str
    role: str | None
    layout: str | None
    takes: str
    colour_space: str
    default: str
    coordinates: str
    is_normal: bool
    help: str
    wrap: str
    filter: str


class ParameterOut(TypedDict):
    """default: components; low, high: hard limits, soft ones where a slider ends."""

    name: str
    kind: str
    title: str
    default: list[float]
    group: str
    help: str
    low: float | None
    high: float | None
    soft_low: float | None
    soft_high: float | None
    step: float | None
    unit: str
    options: list[str]


class LinkOut(Schema):
    """One step of a chain: others are the expressions of its arguments but the first."""

    step: str
    letters: str | None = None
    others: list[str] = []


class ChainOut(Schema):
    start: str
    steps: list[LinkOut]


class OriginOut(TypedDict):
    """Where a row of a layered master is written: the layer, and the row or input in it."""

    layer: str
    row: str
    is_input: bool


class RowOut(TypedDict):
    """origin: None where the master has no layers, or where the row follows from its layers."""

    name: str
    label: str
    is_input: bool
    text: str
    chain: ChainOut
    reads: list[str]
    size: int
    meaning: str
    origin: OriginOut | None


class RemarkOut(TypedDict):
    check: str
    severity: Literal["error", "warning", "note"]
    message: str
    row: str
    start: int
    end: int
    about: str
    remedy: str | None


class CostOut(TypedDict):
    reads: int
    samplers: int
    arithmetic: int
    variants: int


class Uniform(TypedDict):
    name: str
    type: str
    parameter: NotRequired[str | None]
    slot: NotRequired[str | None]
    default: NotRequired[list[float] | None]


class ShaderOut(TypedDict):
    """GLSL ES 3.00: FtSurface ft_surface(FtPlace at), and (vec2 uv0, vec2 uv1, vec4 vertex) as on a flat square; v runs
    down. samplers: uniform by slot."""

    code: str
    uniforms: list[Uniform]
    samplers: dict[str, str]


class CalledFunction(TypedDict):
    """A function that a sheet carries. number: the version of the library that it is a copy of, "" for none. operation:
    what a step of it takes."""

    name: str
    title: str
    number: str
    operation: OperationOut
    document: Function


class SheetOut(TypedDict):
    """functions: those that the sheet carries."""

    functions: list[CalledFunction]
    name: str
    title: str
    help: str
    slots: list[SlotOut]
    parameters: list[ParameterOut]
    rows: list[RowOut]
    layered: bool
    moves: bool
    opacity_mode: str
    cut_off: float
    remarks: list[RemarkOut]
    cost: CostOut
    shader: ShaderOut | None


class Problem(Schema):
    message: str
    row: str
    start: int
    end: int


class ReadOut(Schema):
    """problem: what keeps the document from being read, with its place; then there is no sheet."""

    problem: Problem | None
    sheet: SheetOut | None


class ChainIn(Schema):
    """functions: documents of those that the sheet carries."""

    start: str
    steps: list[LinkOut]
    functions: list[Function] = []


class TextOut(Schema):
    text: str


class InputOut(Schema):
    name: str
    label: str
    size: int
    meaning: str
    low: float
    high: float
    neutral: list[float]
    on_demand: bool


class OperationOut(Schema):
    """begins_with: what a new step has for each argument but the first, "" for a map. maps: which arguments are slots.
    example: an expression with it."""

    name: str
    label: str
    group: str
    arguments: list[str]
    variadic: bool
    help: str
    example: str
    begins_with: list[str]
    maps: list[int]


class StartOut(Schema):
    """A name that tells where the surface is. size: components."""

    name: str
    label: str
    size: int
    help: str


class SheetCatalogue(Schema):
    inputs: list[InputOut]
    operations: list[OperationOut]
    starts: list[StartOut]


class SymptomOut(Schema):
    key: str
    symptom: str
    cause: str
    remedy: str


class ReadCastOut(Schema):
    """changes: values as documents hold them. files: by slot, as the document names them."""

    name: str
    changes: dict[str, ParameterValue] = {}
    files: dict[str, str] = {}


class ImportedOut(Schema):
    """document: of a master, under a name that is free. casts: the materials that it stands for. lost: what a sheet
    cannot say. pictures: those that lie inside it."""

    document: Master
    casts: list[ReadCastOut]
    lost: list[str]
    pictures: list[str]


class Publish(Schema):
    note: str = ""


class Deprecate(Schema):
    deprecated: bool
