"""Schemas of maps, findings and sets, as several answers hold them."""

from __future__ import annotations

from datetime import date

from ninja import Schema
from pydantic import JsonValue
from typing_extensions import TypedDict

from studio.api.documents import Region, Remedy
from texel.document_types import MessageDocument


class StepOut(TypedDict):
    step: str
    label: str
    off: bool
    options: dict[str, JsonValue]


class MapOut(TypedDict):
    """digest names the map as its recipe leaves it: a picture's address with it may be kept for ever.

    width, height, channels, bits: behind the recipe; source_width, source_height: of the file. layer: which of
    ``layers``, the pictures of a file that holds several.
    """

    id: int
    revision: int
    set: int | None
    role: str
    file: str
    channel: str | None
    layer: str | None
    layers: list[str]
    confidence: float
    why: str
    said: list[MessageDocument]
    by_hand: bool
    in_use: bool
    came_as: str
    old_names: list[str]
    digest: str
    source: str
    width: int
    height: int
    channels: str
    bits: int
    source_width: int
    source_height: int
    recipe: list[StepOut]
    worst: str | None


class CandidateOut(Schema):
    """channel: of a packed file, "" for a whole one."""

    role: str
    channel: str = ""
    set: str
    confidence: float
    why: str
    said: list[MessageDocument] = []


class UndecidedOut(TypedDict):
    """suffix: what its name ends in, shared with other files that can be decided together; "" for none."""

    map: MapOut
    suffix: str
    readable: bool
    candidates: list[CandidateOut]


class PlaceOut(TypedDict):
    x: int
    y: int
    width: int
    height: int
    channel: str | None


class WaiverOut(TypedDict):
    id: int
    reason: str
    until: date | None
    by: str | None


class FindingOut(TypedDict):
    id: int
    map: int | None
    check: str
    title: str
    severity: str
    role: str | None
    file: str | None
    measure: float | None
    threshold: float | None
    message: str
    said: MessageDocument | None
    remedy: Remedy | None
    place: PlaceOut | None
    waiver: WaiverOut | None
    marks: str | None


class FindingOfSet(FindingOut):
    """A finding in a list over all sets. set: its name. marks: None; the set itself has them."""

    set: str


class SetOut(TypedDict):
    """judged: whether the findings speak of the set as it is. headline: the message of the worst finding that counts;
    checks: those with errors or warnings that count; waived: how many findings do not. metres: of surface that the
    width of its texture covers. regions: named parts of its maps. licence: SPDX identifier or LicenseRef-..., "" while
    nobody said; credit: who is to be named."""

    id: int
    name: str
    revision: int
    judged: bool
    maps: list[MapOut]
    errors: int
    warnings: int
    missing: list[str]
    waived: int
    metres: float | None
    targets: list[str]
    regions: list[Region]
    licence: str
    credit: str
    headline: str | None
    checks: list[str]


class RoleOut(TypedDict):
    key: str
    label: str
    colour: bool
    scalar: bool
