"""Borders that meet: what lies along the border is replaced by a part of the same picture that goes on across it.

Two ways from the one to the other: a fade, for grain that shows no lines, and a cut along which the two differ least,
for patterns with lines (Efros and Freeman 2001, "Image quilting": the minimum error boundary cut).
"""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.image import Pixels, to_unit
from texel.strips import filled, strips
from texel.threads import each

__all__ = ["Fade", "cheapest_path", "make_tileable", "unlikeness"]

Values = NDArray[np.float32]
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


class _Blend(NamedTuple):
    """One axis of a fade: at each place the shares of what is there and of what lies half a side before, and what of
    the mean is added; shape (count,), the last (count, c)."""

    own: Values
    others: Values
    more: Values

    @property
    def touched(self) -> NDArray[np.intp]:
        return np.flatnonzero(self.others)


def _blend(count: int, width: float, mean: Values) -> _Blend:
    """mean: of the whole picture, a number a channel."""
    weight = _weights(count, width)
    # A plain mean of two unrelated patterns is flatter than either; dividing by the weights' length keeps the contrast.
    length = np.sqrt(weight**2 + (1 - weight) ** 2)
    own, others = (1 - weight) / length, weight / length
    return _Blend(own, others, (1 - own - others)[:, None] * mean[None, :])


class Fade:
    """Left and right, upper and lower, or all borders faded into the picture moved by half its side, which has no seam
    there; some rows at a time."""

    def __init__(self, pixels: Pixels, width: float, axes: str):
        """pixels: of any depth, shape (h, w, c); the rest as make_tileable."""
        self._pixels = pixels
        columns = _column_means(pixels)
        self._across = _blend(len(columns), width, columns.mean(axis=0)) if axes in ("both", "x") else None
        if self._across is not None:
            # The fade along rows is the same for every row, and so it is for their mean.
            columns = _faded(columns[None], self._across)[0]
        self._down = _blend(len(pixels), width, columns.mean(axis=0)) if axes in ("both", "y") else None

    def rows(self, part: slice) -> Values:
        """Some rows of the result, as floats, full scale 1; they may leave the range of the input."""
        rows = self._across_rows(self._pixels[part])
        down = self._down
        if down is None or not down.others[part].any():
            return rows
        height = len(self._pixels)
        other = self._across_rows(self._pixels[(np.arange(part.start, part.stop) - height // 2) % height])
        rows *= down.own[part, None, None]
        other *= down.others[part, None, None]
        rows += other
        rows += down.more[part, None, :]
        return rows

    def _across_rows(self, rows: Pixels) -> Values:
        values = to_unit(rows)
        if self._across is None:
            return values.copy() if values is rows else values
        return _faded(values, self._across)


def _column_means(pixels: Pixels) -> Values:
    """The mean of every column, shape (w, c), full scale 1."""
    sums = each(lambda rows: to_unit(pixels[rows]).sum(axis=0, dtype=np.float64), strips(len(pixels), pixels[0].size))
    return np.asarray(sum(sums) / len(pixels), np.float32)


def _faded(values: Values, blend: _Blend) -> Values:
    """Rows, shape (n, w, c), blended along themselves."""
    faded, at = values.copy(), blend.touched
    count = values.shape[1]
    # What is touched lies along the two borders.
    for part in (at[at < count // 2], at[at >= count // 2]):
        if not part.size:
            continue
        places = slice(part[0], part[-1] + 1)
        moved = values.take(np.arange(places.start, places.stop) - count // 2, axis=1, mode="wrap")
        moved *= blend.others[None, places, None]
        some = faded[:, places]
        some *= blend.own[None, places, None]
        some += moved
        some += blend.more[None, places]
    return faded


def _fade(values: Values, width: float) -> Values:
    """Left and right border faded."""
    fade = Fade(values, width, "x")
    return filled(values.shape, np.dtype(np.float32), fade.rows)


def _cut(values: Values, width: float) -> Values:
    """Left and right border cut out along the lines where the picture, moved to where it fits best, differs least."""
    count = values.shape[1]
    band = max(1, min(count // 2, round(width * count)))
    other = np.roll(values, _best_move(values, band), axis=1)
    apart = np.square(values - other).sum(axis=2)
    mask = np.zeros(values.shape[:2], np.float32)
    at = np.arange(band)
    left = cheapest_path(apart[:, :band])
    right = cheapest_path(apart[:, count - band :][:, ::-1])
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
        made: int = best
        return made
    columns = np.r_[0:band, count - band : count]
    rows = values[:: max(1, values.shape[0] // (2 * _SEARCHED))]
    return min(range(best - every, best + every + 1), key=lambda move: unfit(rows, move, columns))


def cheapest_path(cost: Values) -> NDArray[np.int64]:
    """For each row the column at which the cheapest way from top to bottom passes, a step of at most one at a time."""
    rows, columns = cost.shape
    total = cost.astype(np.float64)
    for row in range(1, rows):
        before = np.pad(total[row - 1], 1, constant_values=np.inf)
        total[row] += np.minimum(np.minimum(before[:-2], before[1:-1]), before[2:])
    path = np.empty(rows, np.int64)
    path[-1] = int(total[-1].argmin())
    for row in range(rows - 2, -1, -1):
        low = max(0, path[row + 1] - 1)
        path[row] = low + int(total[row, low : min(columns, path[row + 1] + 2)].argmin())
    return np.maximum(path, 1)


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
    if method == "fade":
        return filled(values.shape, np.dtype(np.float32), Fade(values, width, axes).rows)
    if axes in ("both", "x"):
        values = _along(values, width, method)
    if axes in ("both", "y"):
        values = np.ascontiguousarray(_along(np.ascontiguousarray(values.swapaxes(0, 1)), width, method).swapaxes(0, 1))
    return values
