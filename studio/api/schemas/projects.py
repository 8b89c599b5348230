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


class ProjectOut(TypedDict):
    """prints: the base colours of its first sets, to know the project by."""

    slug: str
    name: str
    target: str
    right: str
    revision: int
    sets: int
    prints: list[PrintOut]


class NewProject(Schema):
    name: str


class ProjectChange(Schema):
    target: str


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


class MemberOut(TypedDict):
    name: str
    right: str
    revision: int


class LogLine(Schema):
    """event: in words. name: of the person, or what somebody who was refused called themselves."""

    event: str
    name: str
    about: str
    address: str
    at: datetime


class Right(Schema):
    right: str


class Step(Schema):
    """What was undone or redone; None when there was nothing. said: what could not be brought back, and why."""

    label: str | None
    said: list[str] = []
