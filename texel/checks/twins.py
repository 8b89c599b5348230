"""Maps that are one picture: found within a project by a small signature of each."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.checks.finding import Finding, Severity
from texel.image import Texels, to_unit
from texel.messages import message_of
from texel.roles import Role

__all__ = ["TONE_APART", "Signed", "Twin", "signature_of", "tone_of", "twin_finding", "twins_across"]

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
    made: bytes | None = np.round(np.clip(grey, 0, 1) * 255).astype(np.uint8).tobytes()
    return made


def tone_of(signature: bytes) -> float:
    """Mean of a signature, 0 to 255: twins differ in it by no more than their threshold, so it finds them quickly.

    >>> tone_of(bytes([0, 255]))
    127.5
    """
    return float(np.frombuffer(signature, np.uint8).mean())


# Twins differ by at most three steps of 8 bits on average, so their means do too.
TONE_APART = _TWIN * 255
# Side of the blocks whose means are compared before the values themselves: means of two pictures differ by no more than
# the pictures do, but for rounding, so 256 numbers rule out nearly all pairs of one tone.
_BLOCK = 3
_ROUNDED = 1.0
# Signatures, and pairs of them, that are compared at once: some tens of megabytes.
_ROWS, _PAIRS = 64, 4096


class _Index:
    """Signatures in order of their tone, with the means of their blocks."""

    def __init__(self, signed: list[Signed]):
        values = _rows(signed)
        tones = values.mean(axis=1, dtype=np.float32)
        order = np.argsort(tones, kind="stable")
        self.signed = [signed[at] for at in order]
        self._tones, self._values = tones[order], values[order]
        self._means = _means(self._values)
        self._matcher = cv2.BFMatcher(cv2.NORM_L1)

    def near(self, wanted: NDArray[np.uint8], limits: NDArray[np.float64]) -> Iterator[tuple[int, Signed, float]]:
        """Those within ``limits`` steps of 8 bits, on average, of the values of each row of ``wanted``, (n, 2304): the
        row's number, the one found, and their difference."""
        tones = wanted.mean(axis=1, dtype=np.float32)
        order = np.argsort(tones, kind="stable")
        means = _means(wanted)
        for start in range(0, len(order), _ROWS):
            rows = order[start : start + _ROWS]
            reach = limits[rows].max() + 0.01
            low, high = np.searchsorted(self._tones, (tones[rows[0]] - reach, tones[rows[-1]] + reach))
            if low == high:
                continue
            within = float((reach + _ROUNDED) * means.shape[1])
            pairs = self._matcher.radiusMatch(means[rows], self._means[low:high], within)
            mine = np.array([rows[one.queryIdx] for matches in pairs for one in matches], np.intp)
            nearest = np.array([low + one.trainIdx for matches in pairs for one in matches], np.intp)
            for at in range(0, len(mine), _PAIRS):
                some, others = mine[at : at + _PAIRS], nearest[at : at + _PAIRS]
                differences = cv2.absdiff(self._values[others], wanted[some]).mean(axis=1)
                for one in np.flatnonzero(differences <= limits[some]):
                    yield int(some[one]), self.signed[others[one]], float(differences[one])


def _rows(signed: list[Signed]) -> NDArray[np.uint8]:
    return np.frombuffer(b"".join(one.signature for one in signed), np.uint8).reshape(len(signed), -1)


def _means(values: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Rounded means over blocks, a row for each signature."""
    blocks = values.reshape(len(values), _SIDE // _BLOCK, _BLOCK, _SIDE // _BLOCK, _BLOCK)
    made: NDArray[np.uint8] = (
        np.rint(blocks.mean(axis=(2, 4), dtype=np.float32)).astype(np.uint8).reshape(len(values), -1)
    )
    return made


def twins_across(some: Iterable[Signed], others: Iterable[Signed]) -> list[Twin]:
    """Pairs of one of ``some`` and one of ``others`` that are one picture; never two maps of one set, nor two sets that
    share one file.

    Only maps of one tone, or of opposite tones, are compared: the time grows with how many are alike, not with all
    pairs.
    """
    first, second = list(some), list(others)
    if not first or not second:
        return []
    index = _Index(second)
    fields = _rows(first)
    limits = 255 * np.minimum(_TWIN, _OF_SPREAD * fields.std(axis=1, dtype=np.float64) / 255)
    twins: dict[tuple[int, Signed], Twin] = {}
    for wanted, inverted in ((fields, False), (255 - fields, True)):
        for at, other, difference in index.near(wanted, limits):
            one = first[at]
            if other.set == one.set or other.file == one.file:
                continue
            if (at, other) not in twins or difference / 255 < twins[at, other].measure:
                twins[at, other] = Twin(one, other, difference / 255, inverted)
    return [twins[key] for key in sorted(twins, key=lambda key: key[0])]


def twin_finding(twin: Twin) -> Finding:
    """twin_across_project: mean difference to a map of another set, or to its inverse; threshold: 0.012.

    A note: sets may share a map on purpose; otherwise one of the two was put into the wrong set.
    """
    key = "twin_of_other_set_inverse" if twin.inverted else "twin_of_other_set"
    message = message_of(key, role=twin.second.role, set=twin.second.set)
    return Finding(
        "twin_across_project", Severity.NOTE, twin.first.set, message, twin.first.role, twin.first.file,
        measure=twin.measure, threshold=_TWIN,
    )  # fmt: skip
