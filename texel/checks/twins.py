"""Maps that are one picture: found within a project by a small signature of each."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.checks.finding import Finding, Severity
from texel.image import Texels, to_unit
from texel.roles import Role, facts

__all__ = ["Signed", "Twin", "signature_of", "twin_finding", "twins_across"]

_SIDE = 48
# Three steps of 8 bits, as for twins within a set; and a small part of what the picture itself varies by, so that two
# fine grains, which both become an even grey here, are not taken for one.
_TWIN, _OF_SPREAD = 3 / 255, 0.25
_LEAST_SPREAD = 3 / 255


class Signed(NamedTuple):
    """A map in use with its signature."""

    set: str
    role: Role
    file: str
    signature: bytes


class Twin(NamedTuple):
    """measure: mean difference, 0 to 1, between the two or, with ``inverted``, one and the other turned over."""

    first: Signed
    second: Signed
    measure: float
    inverted: bool


def signature_of(texels: Texels) -> bytes | None:
    """48 x 48 means of the map's channels but alpha, 8 bits each; None for a map too plain to be recognised."""
    count = len(texels.channels.removesuffix("a")) or 1
    # A power of two first: means over whole texels are many times faster than over parts of them.
    whole = 1 << max(0, (min(texels.width, texels.height) // (4 * _SIDE)).bit_length() - 1)
    near = cv2.resize(
        texels.pixels, (texels.width // whole, texels.height // whole), interpolation=cv2.INTER_AREA
    ).reshape(texels.height // whole, texels.width // whole, -1)
    grey = to_unit(near)[:, :, :count].mean(axis=2)
    grey = cv2.resize(grey, (_SIDE, _SIDE), interpolation=cv2.INTER_AREA)
    if float(grey.std()) < _LEAST_SPREAD:
        return None
    return np.round(np.clip(grey, 0, 1) * 255).astype(np.uint8).tobytes()


def _fields(signed: list[Signed]) -> NDArray[np.float32]:
    joined = b"".join(one.signature for one in signed)
    return np.frombuffer(joined, np.uint8).reshape(len(signed), _SIDE * _SIDE).astype(np.float32) * np.float32(1 / 255)


def twins_across(some: Iterable[Signed], others: Iterable[Signed]) -> list[Twin]:
    """Pairs of one of ``some`` and one of ``others`` that are one picture; never two maps of one set."""
    first, second = list(some), list(others)
    if not first or not second:
        return []
    theirs = _fields(second)
    found = []
    for one, field in zip(first, _fields(first), strict=True):
        limit = min(_TWIN, _OF_SPREAD * float(field.std()))
        alike, opposed = np.abs(theirs - field).mean(axis=1), np.abs(1 - theirs - field).mean(axis=1)
        for at in np.flatnonzero(np.minimum(alike, opposed) <= limit):
            if second[at].set != one.set:
                inverted = bool(opposed[at] < alike[at])
                found.append(Twin(one, second[at], float(min(alike[at], opposed[at])), inverted))
    return found


def twin_finding(twin: Twin) -> Finding:
    """twin_across_project: mean difference to a map of another set, or to its inverse; threshold: 0.012.

    A note: sets may share a map on purpose; otherwise one of the two was put into the wrong set.
    """
    word = "The inverse of" if twin.inverted else "The same picture as"
    message = f"{word} {facts(twin.second.role).label.lower()} of {twin.second.set}: shared on purpose, or misplaced?"
    return Finding(
        "twin_across_project", Severity.NOTE, twin.first.set, message, twin.first.role, twin.first.file,
        measure=twin.measure, threshold=_TWIN,
    )  # fmt: skip
