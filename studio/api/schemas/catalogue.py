"""Schemas of what the page must know of the job."""

from __future__ import annotations

from ninja import Schema

from studio.api.schemas.steps import DerivationOut, StepKind


class CheckOut(Schema):
    check: str
    title: str


class FormatOut(Schema):
    """family: what hardware must support; "plain" for what every card reads. channels: letters. bits: of a channel."""

    key: str
    label: str
    family: str
    channels: str
    bits_per_texel: float
    bits: int


class ContainerOut(Schema):
    """bits: of a channel that it holds. blocks: whether it holds formats of graphics cards instead."""

    name: str
    bits: list[int]
    blocks: bool


class LayoutName(Schema):
    name: str
    title: str


class WrittenAs(Schema):
    """key: the format's name in orders. help: what becomes of a sheet in it."""

    key: str
    title: str
    help: str


class Catalogue(Schema):
    """sorts: what a delivered picture can be, as far as its format goes. name_parts: what a file name is made of."""

    steps: list[StepKind]
    derivations: list[DerivationOut]
    checks: list[CheckOut]
    formats: list[FormatOut]
    sorts: list[str]
    containers: list[ContainerOut]
    layouts: list[LayoutName]
    written_as: list[WrittenAs]
    name_parts: list[str]
