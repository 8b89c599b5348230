"""Borders that meet: what lies along the border is replaced by a part of the same picture that goes on across it.

Two ways from the one to the other: a fade, for grain that shows no lines, and a cut along which the two differ least,
for patterns with lines (Efros and Freeman 2001, "Image quilting": the minimum error boundary cut).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["METHODS", "make_tileable", "unlikeness"]

Values = NDArray[np.float32]
METHODS = ("auto", "fade", "cut")
# Texels a side on which a place that fits is looked for.
_SEARCHED = 128
# Texels over which the two sides of a cut go over into each other.
_SOFT = 1.0
_BINS = 64


def _weights(count: int, width: float) -> Values:
    """1 at both borders, 0 from ``width`` (share of the side) inwards, smooth between."""
    at = (np.arange(count, dtype=np.float32) + 0.5) / count
    inwards = np.clip(np.minimum(at, 1 - at) / max(width, 1e-6), 0, 1)
    return np.asarray(1 - inwards**2 * (3 - 2 * inwards), np.float32)


def _fade(values: Values, width: float) -> Values:
    """Left and right border faded into the picture moved by half its width."""
    count = values.shape[1]
    weight = _weights(count, width)[None, :, None]
    other = np.roll(values, count // 2, axis=1)
    mean = values.mean(axis=(0, 1), keepdims=True)
    # A plain mean of two unrelated patterns is flatter than either; dividing by the weights' length keeps the contrast.
    length = np.sqrt(weight**2 + (1 - weight) ** 2)
    own, others = (1 - weight) / length, weight / length
    mixed = values * own
    other *= others
    mixed += other
    mixed += mean * (1 - own - others)
    return mixed


def _cut(values: Values, width: float) -> Values:
    """Left and right border cut out along the lines where the picture, moved to where it fits best, differs least."""
    count = values.shape[1]
    band = max(1, min(count // 2, round(width * count)))
    other = np.roll(values, _best_move(values, band), axis=1)
    apart = np.square(values - other).sum(axis=2)
    mask = np.zeros(values.shape[:2], np.float32)
    at = np.arange(band)
    left = _path(apart[:, :band])
    right = _path(apart[:, count - band :][:, ::-1])
    mask[:, :band] = at[None, :] < left[:, None]
    mask[:, count - band :] = np.maximum(mask[:, count - band :], (at[None, :] < right[:, None])[:, ::-1])
    soft = cv2.GaussianBlur(mask, (0, 0), _SOFT, borderType=cv2.BORDER_REPLICATE)
    # The border itself must be wholly the other picture's, or it would not meet.
    soft[:, 0], soft[:, -1] = 1, 1
    return np.asarray(values + (other - values) * soft[:, :, None], np.float32)


def _best_move(values: Values, band: int) -> int:
    """By how many texels to move the picture to the right so that it fits its own border bands best."""
    count = values.shape[1]
    every = max(1, count // _SEARCHED)
    small = cv2.resize(values, (count // every, max(1, values.shape[0] // every)), interpolation=cv2.INTER_AREA)
    small = np.asarray(small, np.float32).reshape(small.shape[0], small.shape[1], -1)
    bands = np.r_[0 : max(1, band // every), small.shape[1] - max(1, band // every) : small.shape[1]]
    wide = small.shape[1]

    def unfit(field: Values, move: int, columns: NDArray[np.intp]) -> float:
        return float(np.square(field[:, columns] - field[:, (columns - move) % field.shape[1]]).mean())

    moves = range(max(1, wide // 4), max(2, wide - wide // 4))
    best = min(moves, key=lambda move: unfit(small, move, bands)) * every
    if every == 1:
        return best
    columns = np.r_[0:band, count - band : count]
    rows = values[:: max(1, values.shape[0] // (2 * _SEARCHED))]
    return min(range(best - every, best + every + 1), key=lambda move: unfit(rows, move, columns))


def _path(cost: Values) -> NDArray[np.int64]:
    """For each row the column at which the cheapest way from top to bottom passes, a step of at most one at a time."""
    rows, columns = cost.shape
    total = cost.astype(np.float64)
    for row in range(1, rows):
        before = np.pad(total[row - 1], 1, constant_values=np.inf)
        total[row] += np.minimum(np.minimum(before[:-2], before[1:-1]), before[2:])
    found = np.empty(rows, np.int64)
    found[-1] = int(total[-1].argmin())
    for row in range(rows - 2, -1, -1):
        low = max(0, found[row + 1] - 1)
        found[row] = low + int(total[row, low : min(columns, found[row + 1] + 2)].argmin())
    return np.maximum(found, 1)


def unlikeness(values: Values, made: Values, width: float) -> float:
    """How much the texture along the left and right border of ``made`` differs from that of ``values``, 0 to 1: the
    largest distance between the shares of their gradients up to any strength (Kolmogorov-Smirnov)."""
    count = values.shape[1]
    band = max(2, min(count // 2, round(width * count)))
    before = np.abs(np.diff(values, axis=1)).ravel()
    joined = np.concatenate([made[:, count - band :], made[:, :band]], axis=1)
    after = np.abs(np.diff(joined, axis=1)).ravel()
    top = max(float(before.max()), float(after.max()), 1e-6)
    shares = [np.cumsum(np.histogram(one, _BINS, (0, top))[0]) / max(1, one.size) for one in (before, after)]
    return float(np.abs(shares[0] - shares[1]).max())


def _along(values: Values, width: float, method: str) -> Values:
    if method == "fade" or min(values.shape[:2]) < 4:
        return _fade(values, width)
    cut = _cut(values, width)
    if method == "cut":
        return cut
    faded = _fade(values, width)
    return cut if unlikeness(values, cut, width) < unlikeness(values, faded, width) else faded


def make_tileable(values: Values, width: float = 0.25, axes: str = "both", method: str = "fade") -> Values:
    """Values, shape (h, w, c), whose left and right (axes "x"), upper and lower ("y") or all borders meet.

    width: share of the side, 0 to 0.5, along the border that may change. method: "fade" mixes the picture with itself
    moved by half its side, which has no seam there, and keeps the contrast (variance-preserving blend); "cut" moves it
    to where it fits best and joins the two along the line where they differ least, so that no two patterns lie over
    each other, but otherwise for every map of a set; "auto" takes the one whose texture at the border is more like the
    picture's own (unlikeness). Results of a fade may leave the range of the input.
    """
    values = np.asarray(values, np.float32)
    if axes in ("both", "x"):
        values = _along(values, width, method)
    if axes in ("both", "y"):
        values = np.ascontiguousarray(_along(np.ascontiguousarray(values.swapaxes(0, 1)), width, method).swapaxes(0, 1))
    return values
