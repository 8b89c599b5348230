"""Steps out of a height map: where it lies in plateaus, the smoothest surface that rounds to the same steps."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.filters import blur

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


def step_size(height: Field) -> float:
    """The step that a map shows: the middle one of the differences between neighbouring values that occur; 0 for a
    plain field. Looked for among a million texels of a larger one.

    >>> step_size(np.float32([[0, 0.25, 0.5, 1.0]]))
    0.25
    """
    rows = height[:: max(1, height.size // _FEW)]
    values = np.unique(rows if np.ptp(rows) else height)
    return float(np.median(np.diff(values))) if values.size > 1 else 0.0


def plateaus(height: Field, wrap: bool = True) -> NDArray[np.bool_]:
    """Where a field lies in plateaus, shape (h, w): where most texels are part of five in a row of one value."""
    flat = np.zeros(height.shape, np.uint8)
    border = cv2.BORDER_WRAP if wrap else cv2.BORDER_REPLICATE
    padded = cv2.copyMakeBorder(height, _RUN, _RUN, _RUN, _RUN, border)
    inside = slice(_RUN, -_RUN)
    for size in ((1, _RUN), (_RUN, 1)):
        kernel = np.ones(size, np.uint8)
        same = cv2.compare(cv2.dilate(padded, kernel), cv2.erode(padded, kernel), cv2.CMP_EQ)
        flat = np.maximum(flat, np.asarray(cv2.dilate(same, kernel), np.uint8)[inside, inside])
    share = cv2.blur(flat, (_WINDOW, _WINDOW), borderType=cv2.BORDER_REPLICATE)
    return np.asarray(share > 255 * _MOST)


def dequantise(height: Field, step: float | None = None, wrap: bool = True, rounds: int = ROUNDS) -> Field:
    """A field, shape (h, w), smooth where ``height`` lies in plateaus and as it was elsewhere, that rounds to the same
    steps everywhere: it differs by less than half a step.

    step: in the field's unit; None takes the one that the map shows. Smoothing and clipping back into the band
    alternate, ``rounds`` times. Plateaus that were flat from the start get rounded edges too; nothing tells them apart.
    """
    step = step_size(height) if step is None else step
    where = plateaus(height, wrap) if step > 0 else np.zeros(height.shape, bool)
    if not where.any():
        return height
    half = np.where(where, np.float32(step * _BAND), np.float32(0))
    low, high = height - half, height + half
    smooth = height
    for index in range(rounds):
        sigma = _WIDEST * (_NARROWEST / _WIDEST) ** (index / max(rounds - 1, 1))
        smooth = np.asarray(cv2.min(cv2.max(blur(smooth, sigma, wrap), low), high), np.float32)
    return smooth
