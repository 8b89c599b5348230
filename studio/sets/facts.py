"""What is told of trials, misreadings and mip chains of a map, as the page and scripts get it."""

from __future__ import annotations

from typing_extensions import TypedDict

from texel.document_types import ErrorFigures

__all__ = ["ChainsOut", "FormatOut", "LevelOut", "MapTrial", "MisreadOut", "TrialsOut"]


class FormatOut(TypedDict):
    key: str
    label: str


class MapTrial(TypedDict):
    """memory: bytes with mips. size: of the file, packed. within: whether the project's limits are kept."""

    format: str
    label: str
    bits_per_texel: float
    memory: int
    size: int | None
    error: ErrorFigures
    within: bool


class TrialsOut(TypedDict):
    """sort: what the map is as far as formats go. limit: the project's, in the measure of ``kind``. allowed: the
    project's formats for it; formats: all that can be tried."""

    sort: str
    kind: str
    limit: float
    quality: str
    plain_bytes: int
    allowed: list[str]
    formats: list[FormatOut]
    trials: list[MapTrial]


class MisreadOut(TypedDict):
    """mean: of the values before and after. error: as measured against the right reading."""

    misreading: str
    symptom: str
    cause: str
    remedy: str
    mean: dict[str, float]
    error: ErrorFigures


class LevelOut(TypedDict):
    level: int
    width: int
    height: int
    right: float
    naive: float


class ChainsOut(TypedDict):
    """measure: what right and naive are measures of, in words; normals: whether a normal map was taken into account."""

    measure: str
    normals: bool
    levels: list[LevelOut]
