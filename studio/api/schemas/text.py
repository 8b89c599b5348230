"""Schemas of a project as text."""

from __future__ import annotations

from ninja import Schema
from pydantic import JsonValue
from typing_extensions import TypedDict

from studio.api.documents import ProjectPart


class TextPart(TypedDict):
    """path: of its file below the project's folder. digest: of what it says, for ``exported`` of the next import."""

    key: str
    path: str
    digest: str
    document: ProjectPart


class TextDifference(TypedDict):
    path: str
    before: JsonValue
    after: JsonValue


class TextCompared(TypedDict):
    """state: changed here, changed in the studio, changed on both sides. here, studio: whether it is there.
    differences: from the studio's to the text's."""

    key: str
    path: str
    state: str
    here: bool
    studio: bool
    differences: list[TextDifference]


class TextBrought(TypedDict):
    """applied: what the studio took over. conflicts: what both sides changed; then nothing was applied. parts: all that
    the project consists of now."""

    applied: list[str]
    conflicts: list[TextCompared]
    parts: list[TextPart]


class GivenText(Schema):
    """What the uploaded file holds, as JSON. documents: by the path of their file. exported: digests by key from when
    both sides were the same last. take: "here" or "studio" by key, for what both sides changed."""

    documents: dict[str, ProjectPart]
    exported: dict[str, str] = {}
    take: dict[str, str] = {}
