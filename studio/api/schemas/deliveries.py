"""Schemas of deliveries and their plans."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import Manifest


class Order(Schema):
    """sets: ids; None for all sets of the project."""

    target: str
    sets: list[int] | None = None


class DeliveryOut(TypedDict):
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


class DeliveryDetail(DeliveryOut):
    manifest: Manifest | None
