"""Schemas of the history."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema
from typing_extensions import TypedDict


class AboutOut(TypedDict):
    """An object that a line is about. called: what it is called now, None where it is gone."""

    kind: str
    key: str
    called: str | None


class HistoryLineOut(TypedDict):
    """what: change, undo, redo, or event. about: the first few objects; count: how many there are. undone: whether the
    change was taken back since. has_more: whether what was before and after can be asked for."""

    id: int
    at: datetime
    by: str | None
    what: str
    label: str
    about: list[AboutOut]
    count: int
    undone: bool
    has_more: bool


class HistoryOut(Schema):
    """people: everybody whose lines there are. older: whether there are lines before the last of these."""

    lines: list[HistoryLineOut]
    people: list[str]
    older: bool


class FieldDifference(Schema):
    """A field of an object before and after. field: in words; empty where the object itself came or went. map: the id
    of the map whose steps changed, for pictures of both (GET /maps/{pk}/preview)."""

    kind: str
    key: str
    called: str
    field: str
    before: object
    after: object
    map: int | None
