"""Schemas of house rules and their versions."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema
from pydantic import JsonValue
from typing_extensions import TypedDict

from studio.api.documents import RuleBody
from studio.rules.models import CopiedFrom


class RuleOut(TypedDict):
    """number: of the newest version, 0 for a ready-made one. origin: where a copy came from."""

    name: str
    title: str
    number: int
    own: bool
    origin: CopiedFrom | None
    document: RuleBody


class VersionOut(Schema):
    number: int
    created: datetime
    by: str | None
    origin: CopiedFrom | None
    withdrawn: bool


class DifferenceOut(Schema):
    path: str
    before: JsonValue = None
    after: JsonValue = None


class CopyFrom(Schema):
    """project: slug of the project to copy from; number: which version, the newest when left out."""

    project: str
    number: int | None = None
