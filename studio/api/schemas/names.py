"""Schemas of file names and the rules for them."""

from __future__ import annotations

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import Names


class VerdictOut(TypedDict):
    """parts: what was recognised, kind to text. right: the path that it should have; None where nothing tells it."""

    path: str
    fine: bool
    parts: dict[str, str]
    problems: list[str]
    right: str | None


class FileVerdictOut(VerdictOut):
    """came_as: what the file was called when it came."""

    file: int
    came_as: str
    sets: list[str]


class NamesOut(Schema):
    """shape: the order of parts in words."""

    shape: str
    files: list[FileVerdictOut]


class Trial(Schema):
    """names: one a line of the tester. rules: a document that is not kept yet; None for the project's own."""

    names: list[str]
    rules: Names | None = None


class TrialOut(Schema):
    shape: str
    names: list[VerdictOut]


class Learn(Schema):
    """names: None for those of the project's files."""

    names: list[str] | None = None


class LearntOut(Schema):
    """share: of the names, 0 to 1, that follow the rules; others: some that do not."""

    rules: Names
    share: float
    others: list[str]


class NewPath(Schema):
    """seen: the path that the file was seen to have; None for whatever it has."""

    file: int
    path: str
    seen: str | None = None


class Renames(Schema):
    changes: list[NewPath]


class RenameOut(Schema):
    file: int
    old: str
    new: str
    problem: str | None


class RenamedOut(Schema):
    files: int
