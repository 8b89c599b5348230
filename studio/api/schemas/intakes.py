"""Schemas of intakes and the files taken in."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema
from typing_extensions import TypedDict


class IntakeOut(TypedDict):
    id: int
    name: str
    state: str
    created: datetime
    files: int
    refused: int


class NewIntake(Schema):
    name: str


class TakenFile(TypedDict):
    path: str
    problem: str
    digest: str | None
    width: int | None
    height: int | None


class IntakeDetail(IntakeOut):
    taken: list[TakenFile]
