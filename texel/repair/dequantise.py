"""Steps out of a height map: where it lies in plateaus, the smoothest surface that rounds to the same steps."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.filters import blurred_rows, reach_of
from texel.image import Pixels, full_scale, to_unit
from texel.strips import filled, rows_around, strips
from texel.threads import each

__all__ = ["ROUNDS", "dequantise", "plateaus", "step_size"]

Field = NDArray[np.float32]
# From wide, which carries slopes across plateaus, to narrow, which heals where the band's edge was touched. Tried on
# noise of several roughnesses: more rounds and wider starts gain less than a percent.
ROUNDS = 60
_WIDEST, _NARROWEST = 4.0, 1.0
# A little less than half a step, so that rounding, of 16 bits too, finds every step again.
_BAND = 0.5 - 1 / 64
# Texels of one value in a row that make a plateau; the side of a window, and the share of it that plateaus must fill:
# on noise of several roughnesses, smoothing less flat places took more from the surface than it gave back.
_RUN, _WINDOW, _MOST = 5, 15, 0.6
_FEW = 1 << 20
# Rows of a strip for each that is read beside it: a quarter of them, so that few are copied.
_AROUND = 128
# Texels of a map whose bands are kept.
_SMALL = 1 << 23


def step_size(height: Pixels) -> float:
    """The step that a map shows: the middle one of the differences between neighbouring values that occur; 0 for a
    plain field. Looked for among a million texels of a larger one. height: floats, or integers, of which full scale
    is 1.

    >>> step_size(np.float32([[0, 0.25, 0.5, 1.0]]))
    0.25
    """
    rows = height[:: max(1, height.size // _FEW)]
    values = np.unique(rows if np.ptp(rows) else height)
    if values.size < 2:
        return 0.0
    return float(np.median(np.diff(values.astype(np.float64)))) / full_scale(height.dtype)


def plateaus(height: Pixels, wrap: bool = True) -> NDArray[np.bool_]:
    """Where a field lies in plateaus, shape (h, w): where most texels are part of five in a row of one value."""
    around = 2 * _RUN

    def flat_rows(rows: slice) -> NDArray[np.uint8]:
        border = cv2.BORDER_WRAP if wrap else cv2.BORDER_REPLICATE
        padded = cv2.copyMakeBorder(rows_around(height, rows, around, wrap), 0, 0, _RUN, _RUN, border)
        flat = np.zeros(padded.shape, np.uint8)
        for size in ((1, _RUN), (_RUN, 1)):
            kernel = np.ones(size, np.uint8)
            same = cv2.compare(cv2.dilate(padded, kernel), cv2.erode(padded, kernel), cv2.CMP_EQ)
            flat = np.maximum(flat, np.asarray(cv2.dilate(same, kernel), np.uint8))
        return flat[around:-around, _RUN:-_RUN]

    flat = filled(height.shape, np.dtype(np.uint8), flat_rows, around)
    half = _WINDOW // 2

    def most(rows: slice) -> NDArray[np.bool_]:
        share = cv2.blur(rows_around(flat, rows, half, False), (_WINDOW, _WINDOW), borderType=cv2.BORDER_REPLICATE)[
            half:-half
        ]
        return np.asarray(share > 255 * _MOST)

    return filled(height.shape, np.dtype(bool), most, half)


def dequantise(height: Pixels, step: float | None = None, wrap: bool = True, rounds: int = ROUNDS) -> Field:
    """A field, shape (h, w), smooth where ``height`` lies in plateaus and as it was elsewhere, that rounds to the same
    steps everywhere: it differs by less than half a step.

    height: as step_size takes it. step: in full scale 1; None takes the one that the map shows. Smoothing and clipping
    back into the band alternate, ``rounds`` times. Plateaus that were flat from the start get rounded edges too;
    nothing tells them apart.
    """
    step = step_size(height) if step is None else step
    where = plateaus(height, wrap) if step > 0 else np.zeros(height.shape, bool)
    smooth = filled(height.shape, np.dtype(np.float32), lambda rows: to_unit(height[rows]))
    if not where.any():
        return smooth
    half = np.float32(step * _BAND)
    parts = strips(len(height), height.shape[1], _AROUND)

    def ends(rows: slice) -> tuple[Field, Field]:
        own, band = to_unit(height[rows]), where[rows] * half
        return own - band, own + band

    # Of a small map they are kept, of a large one made again each time.
    kept = dict(zip([rows.start for rows in parts], each(ends, parts), strict=True)) if height.size <= _SMALL else {}

    def smoothed(part: _Part) -> None:
        blurred = blurred_rows((part.above, smooth[part.rows], part.below), part.sigma, wrap)
        low, high = kept.get(part.rows.start) or ends(part.rows)
        cv2.max(blurred, low, dst=blurred)
        cv2.min(blurred, high, dst=smooth[part.rows])

    for index in range(rounds):
        sigma = _WIDEST * (_NARROWEST / _WIDEST) ** (index / max(rounds - 1, 1))
        reach = reach_of(sigma)
        # The rows beside every strip as they are now: all strips are done in place at once.
        each(smoothed, [_Part(rows, *_beside(smooth, rows, reach, wrap), sigma) for rows in parts])
    return smooth


class _Part(NamedTuple):
    """Rows to smooth, and copies of those above and below them."""

    rows: slice
    above: Field
    below: Field
    sigma: float


def _beside(field: Field, rows: slice, reach: int, wrap: bool) -> tuple[Field, Field]:
    at = np.concatenate([np.arange(rows.start - reach, rows.start), np.arange(rows.stop, rows.stop + reach)])
    values = field[at % len(field) if wrap else np.clip(at, 0, len(field) - 1)]
    return values[:reach], values[reach:]
