"""Schemas of the habit of a project's folders."""

from __future__ import annotations

from typing import Literal

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.schemas.shared import MapOut
from texel.document_types import MessageDocument

_Where = Literal["end", "start", "folder"]


class HabitLineOut(TypedDict):
    """suffix: its letters, "" for a bare name; written: as most files write it. meaning: in words. certain: whether
    nobody needs to confirm it. examples: up to three maps that have it."""

    suffix: str
    where: str
    folder: str
    written: str
    role: str
    channels: dict[str, str]
    meaning: str
    files: int
    confidence: float
    why: str
    said: list[MessageDocument]
    taught: bool
    decided: bool
    certain: bool
    examples: list[MapOut]


class HabitOut(Schema):
    """lines: what every suffix was taken for. taught: how many lines people taught."""

    lines: list[HabitLineOut]
    taught: int


class TaughtLine(Schema):
    """role: a role, "pack" with channels, or "none" for files that are no maps."""

    suffix: str
    role: str
    where: _Where = "end"
    folder: str = ""
    channels: dict[str, str] = {}


class LineKey(Schema):
    suffix: str
    where: _Where = "end"
    folder: str = ""


class Teach(Schema):
    """teach: lines to add or replace. forget: lines to take out, so that their files are judged again."""

    teach: list[TaughtLine] = []
    forget: list[LineKey] = []


class CopyHabit(Schema):
    project: str
