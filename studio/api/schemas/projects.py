"""Schemas of projects, targets, members, undo."""

from __future__ import annotations

from datetime import datetime
from typing import NotRequired

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import Channels


class PrintOut(TypedDict):
    """What the address of a map's picture needs."""

    id: int
    digest: str
    source: str
    role: str


class ChangeLine(TypedDict):
    """A change that somebody made. by: None where the account is gone."""

    label: str
    by: str | None
    at: datetime


class Waiting(TypedDict):
    """What waits in a project: sets with errors, sets with warnings alone, sets not checked yet, undecided files."""

    errors: int
    warnings: int
    unchecked: int
    undecided: int


class ProjectOut(TypedDict):
    """prints: the base colours of its first sets, to know the project by. people: names of its members. keep_days: how
    long the files of past deliveries are kept, None for as long as there is room. approval: whether only approved sets
    are delivered."""

    slug: str
    name: str
    target: str
    right: str
    revision: int
    keep_days: int | None
    approval: bool
    sets: int
    prints: list[PrintOut]
    people: list[str]
    waiting: Waiting
    last_change: ChangeLine | None


class NewProject(Schema):
    """target: that it delivers to. rules_from: another project whose own rules and target are copied. sample: whether
    the sample folder is taken in at once."""

    name: str
    target: str | None = None
    rules_from: str | None = None
    sample: bool = False


class CheckCount(TypedDict):
    """How many sets a check found something in. severity: the worst of them."""

    check: str
    title: str
    severity: str
    sets: int


class Overview(TypedDict):
    """What waits in a project. changed: ids of sets that differ from what was last delivered of them; undelivered: ids
    of those that never were."""

    waiting: Waiting
    sets: int
    checks: list[CheckCount]
    changed: list[int]
    undelivered: list[int]
    changes: list[ChangeLine]


class ProjectChange(Schema):
    target: str


class Keeping(Schema):
    """days: how long the files of past deliveries are kept; None for as long as there is room."""

    days: int | None


class TargetOutput(TypedDict):
    """bits: of plain containers; format: of dds and ktx2."""

    output: str
    container: str
    bits: NotRequired[int | None]
    format: NotRequired[str | None]
    colour_space: str
    channels: Channels


class TargetOut(TypedDict):
    name: str
    title: str
    green: str
    own: bool
    outputs: list[TargetOutput]


class Step(Schema):
    """What was undone or redone; None when there was nothing. said: what could not be brought back, and why."""

    label: str | None
    said: list[str] = []
