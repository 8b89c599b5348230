"""Schemas of waivers."""

from __future__ import annotations

from datetime import date, datetime

from ninja import Schema
from typing_extensions import TypedDict


class WaiverIn(Schema):
    """until: the last day on which it holds; None for no end."""

    finding: int
    reason: str
    until: date | None = None


class WaiverRow(TypedDict):
    id: int
    set: str
    check: str
    role: str
    reason: str
    until: date | None
    by: str | None
    created: datetime
    revoked: bool
