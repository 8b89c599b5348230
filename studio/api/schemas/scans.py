"""Schemas of scan libraries, their surfaces, and what was taken in from them."""

from __future__ import annotations

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.schemas.watched import SetName


class LibraryOut(TypedDict):
    """account: whose key the person asking has entered, None for none."""

    name: str
    account: str | None


class KeyIn(Schema):
    """key: of an account with the library; kept encrypted, never given out."""

    key: str


class FitOut(TypedDict):
    """How well a resolution fits what the camera sees (texel.density.Fit)."""

    pixels: int
    density: float
    per_pixel: float
    sharp_from: float
    memory: int
    wasted: float
    is_enough: bool


class ListedOut(TypedDict):
    """metres: that the width of its maps covers. problem: what the project's rules have against its licence, "" for
    nothing; refused: whether it may not be taken in. taken: the id of the scan that it was taken in as, None for none.
    """

    id: str
    title: str
    tags: list[str]
    metres: float
    revision: int
    licence: str
    credit: str
    problem: str
    refused: bool
    fits: list[FitOut]
    taken: int | None


class ListingOut(TypedDict):
    """standard: texels a metre that the project's target wants, None where it says nothing. next: number of the next
    page."""

    title: str
    account: str
    surfaces: list[ListedOut]
    standard: float | None
    next: int | None


class NewScan(Schema):
    library: str
    surface: str
    pixels: int


class NewerIn(Schema):
    """pixels: another resolution; None for the one that is there."""

    pixels: int | None = None


class ScanOut(TypedDict):
    """newest: revision that the library had when it was looked at last. state: of the job that fetched it last."""

    id: int
    library: str
    surface: str
    title: str
    pixels: int
    revision: int
    newest: int
    update_available: bool
    state: str
    job: int | None
    message: str
    intake: int | None
    sets: list[SetName]
