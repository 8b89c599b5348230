"""Schemas of sets and what targets make of them."""

from __future__ import annotations

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import Step, Target
from studio.api.schemas.shared import FindingOut, RoleOut, SetOut, UndecidedOut


class SetList(TypedDict):
    """undo, redo: labels of the asking person's own changes that would be taken back or made again."""

    roles: list[RoleOut]
    sets: list[SetOut]
    undecided: list[UndecidedOut]
    undo: str | None
    redo: str | None


class SetDetail(SetOut):
    findings: list[FindingOut]


class NewName(Schema):
    name: str


class NewNames(Schema):
    """names: by set. seen: revisions by set, of those that were seen."""

    names: dict[int, str]
    seen: dict[int, int] = {}


class StepsIn(Schema):
    """recipe: steps that are put behind those of the maps in use of ``role``. seen: as in NewNames."""

    sets: list[int]
    role: str
    recipe: list[Step]
    seen: dict[int, int] = {}


class TriedOutput(Schema):
    """target: a document that need not be kept. output: which of its outputs. side: longest side of the picture."""

    target: Target
    output: str
    side: int = 256
    channel: str = ""


class Metres(Schema):
    metres: float | None


class LicenceIn(Schema):
    """licence: SPDX identifier or LicenseRef-..., "" for unknown. seen: revisions by set, of those that were seen."""

    sets: list[int]
    licence: str
    credit: str = ""
    seen: dict[int, int] = {}


class TargetsIn(Schema):
    """targets: names; none for the project's own. seen: revisions by set, of those that were seen."""

    sets: list[int]
    targets: list[str]
    seen: dict[int, int] = {}


class Merge(Schema):
    """seen: revisions by set, of those that were seen."""

    into: int
    sets: list[int]
    seen: dict[int, int] = {}


class Split(Schema):
    name: str
    maps: list[int]
