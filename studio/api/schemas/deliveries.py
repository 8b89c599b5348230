"""Schemas of deliveries and their plans."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import Manifest


class Order(Schema):
    """sets, casts, models, grounds: ids; None for all of the project. keep_others: what else the project has of them
    stays as it was delivered last. destinations: ids of those that it is brought to once it is whole;
    only where something is delivered."""

    target: str
    sets: list[int] | None = None
    casts: list[int] | None = []
    models: list[int] | None = []
    grounds: list[int] | None = []
    keep_others: bool = False
    destinations: list[int] = []


class OrderAll(Schema):
    """sets: ids; None for all sets of the project."""

    sets: list[int] | None = None


class MirrorCounts(TypedDict):
    """How much the engine would read otherwise than was meant."""

    title: str
    errors: int
    warnings: int


class DeliveryOut(TypedDict):
    """gone: when its files were taken away, as the project's setting says; None while they are kept."""

    number: int
    target: str
    title: str
    created: datetime
    by: str | None
    sets: int
    state: str
    job: int | None
    message: str
    counts: dict[str, int]
    problems: list[str]
    folder: str | None
    gone: datetime | None
    mirror: MirrorCounts | None


class DeliveryDetail(DeliveryOut):
    manifest: Manifest | None
