"""Schemas of what the page must know of the job."""

from __future__ import annotations

from ninja import Schema

from studio.api.documents import GroundTerm
from studio.api.schemas.shared import RoleOut
from studio.api.schemas.steps import DerivationOut, StepKind


class CheckOut(Schema):
    check: str
    title: str


class CompressedFormat(Schema):
    """family: the title of those that need the same of a graphics card. channels: letters. bits: of a channel.
    sorts: what it can hold, of the catalogue's sorts."""

    key: str
    label: str
    family: str
    channels: str
    bits_per_texel: float
    bits: int
    sorts: list[str]


class ContainerOut(Schema):
    """bits: of a channel that it holds. blocks: whether it holds formats of graphics cards instead."""

    name: str
    bits: list[int]
    blocks: bool


class MapSort(Schema):
    sort: str
    title: str


class Ready(Schema):
    name: str
    title: str


class WrittenAs(Schema):
    """key: the format's name in orders. help: what becomes of a sheet in it."""

    key: str
    title: str
    help: str


class GroundKinds(Schema):
    """What ground may have. terms: what a rule by each measure begins with. sides, far_sides: texels of weights, and of
    the maps for far away. layers, terms_of_a_rule: how many at most."""

    terms: list[GroundTerm]
    sides: list[int]
    far_sides: list[int]
    layers: int
    terms_of_a_rule: int


class AtlasKinds(Schema):
    """What an atlas may have. paddings: texels of room around each cell. largest: texels a side, a power of two."""

    paddings: list[int]
    largest: int


class Catalogue(Schema):
    """sorts: what a delivered picture can be, as far as its format goes. usual_formats: what an output of so many
    channels begins with. name_parts: what a file name is made of.
    targets, layouts: the ready-made ones."""

    steps: list[StepKind]
    derivations: list[DerivationOut]
    checks: list[CheckOut]
    formats: list[CompressedFormat]
    roles: list[RoleOut]
    sorts: list[MapSort]
    usual_formats: dict[int, str]
    containers: list[ContainerOut]
    targets: list[Ready]
    layouts: list[Ready]
    written_as: list[WrittenAs]
    name_parts: list[str]
    ground: GroundKinds
    atlas: AtlasKinds
