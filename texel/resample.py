"""Numbers at another size: each axis by a kernel of its own, in bands of rows over all cores.

Positions: texel i of n covers i to i + 1; an output texel covers the same share of the picture as its input. "area" is
the mean over what it covers, partly covered texels counted in part. "lanczos" is sinc(x) sinc(x / 4) for |x| < 4 (the
usual windowed sinc), widened by the ratio when the picture gets smaller, so that no detail is folded back.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.strips import SMALL
from texel.threads import each

__all__ = ["LOBES", "Axis", "resample"]

Values = NDArray[np.float32]
LOBES = 4
# Numbers of a band, before and after: small enough that what is done to it is done in one piece.
_BAND = 3 * SMALL // 4
# Products of a dense matrix with mostly zeros are cheap as long as it is small.
_BLOCK = 32


class Axis(NamedTuple):
    """One axis: ``source`` texels, ``repeats`` times one after the other, become ``wanted`` ones.

    wrap: beyond the border lies the other side, as in a map that tiles; else the last texel goes on.
    """

    source: int
    wanted: int
    kernel: str = "area"
    wrap: bool = False
    repeats: int = 1

    @property
    def scale(self) -> float:
        """Texels before for each one after."""
        return self.source * self.repeats / self.wanted

    @property
    def halves(self) -> bool:
        """Whether it is a mean over a whole number of texels."""
        return self.kernel == "area" and self.repeats == 1 and self.source % self.wanted == 0


def _area(axis: Axis) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    low = np.arange(axis.wanted) * axis.scale
    first = np.floor(low + 1e-9).astype(np.int64)
    at = first[:, None] + np.arange(math.ceil(axis.scale) + 1)
    covered = np.minimum(at + 1, (low + axis.scale)[:, None]) - np.maximum(at, low[:, None])
    return first, np.maximum(covered, 0)


def _lanczos(axis: Axis) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    stretch = max(1.0, axis.scale)
    middle = (np.arange(axis.wanted) + 0.5) * axis.scale - 0.5
    first = np.ceil(middle - LOBES * stretch).astype(np.int64)
    at = first[:, None] + np.arange(math.floor(2 * LOBES * stretch) + 1)
    x = (at - middle[:, None]) / stretch
    return first, np.where(np.abs(x) < LOBES, np.sinc(x) * np.sinc(x / LOBES), 0)


class _Block(NamedTuple):
    """Rows ``start`` to ``end`` after are ``matrix`` times rows ``low`` to ``high`` before, which may lie outside."""

    start: int
    end: int
    low: int
    high: int
    matrix: Values


@lru_cache(maxsize=32)
def _blocks(axis: Axis) -> tuple[_Block, ...]:
    first, weights = (_area if axis.kernel == "area" else _lanczos)(axis)
    weights = weights / weights.sum(axis=1, keepdims=True)
    size = max(4, min(_BLOCK, int(_BLOCK / axis.scale)))
    blocks = []
    for start in range(0, axis.wanted, size):
        end = min(axis.wanted, start + size)
        low, high = int(first[start]), int(first[end - 1]) + weights.shape[1]
        matrix = np.zeros((end - start, high - low), np.float32)
        for row in range(start, end):
            matrix[row - start, first[row] - low : first[row] - low + weights.shape[1]] = weights[row]
        blocks.append(_Block(start, end, low, high, matrix))
    return tuple(blocks)


def _inside(axis: Axis, low: int, high: int) -> slice | NDArray[np.int64]:
    """Which texels lie at ``low`` to ``high``."""
    if low >= 0 and high <= axis.source:
        return slice(low, high)
    at = np.arange(low, high)
    return at % axis.source if axis.wrap or axis.repeats > 1 else np.clip(at, 0, axis.source - 1)


def resample(
    pixels: NDArray[Any], across: Axis, down: Axis, before: Callable[[NDArray[Any]], Values],
    after: Callable[[Values, slice], NDArray[Any]],
) -> NDArray[Any]:  # fmt: skip
    """``pixels``, shape (h, w, c), at the sizes that ``across`` and ``down`` want.

    before: rows of ``pixels`` as floats of shape (n, w, k), in which a mean is meaningful. after: rows of means back to
    what the result is made of, shape (n, wanted, c), and which rows of it they are. Both look at one texel at a time
    and are called from threads.
    """
    bands = _bands(across, down)
    first = after(_band(pixels, across, bands[0], down, before), slice(0, bands[0][-1].end))
    out = np.empty((down.wanted, *first.shape[1:]), first.dtype)
    out[: len(first)] = first

    def put(blocks: tuple[_Block, ...]) -> None:
        rows = slice(blocks[0].start, blocks[-1].end)
        out[rows] = after(_band(pixels, across, blocks, down, before), rows)

    each(put, bands[1:])
    return out


def _bands(across: Axis, down: Axis) -> list[tuple[_Block, ...]]:
    """Blocks of rows that are worked on together: many enough that few rows are made twice."""
    blocks = _blocks(down)
    each = blocks[0].end * max(1.0, down.scale)
    count = max(1, int(_BAND / (4 * max(across.source, across.wanted) * each)))
    return [blocks[at : at + count] for at in range(0, len(blocks), count)]


def _band(
    pixels: NDArray[Any], across: Axis, blocks: tuple[_Block, ...], down: Axis, before: Callable[[NDArray[Any]], Values]
) -> Values:
    if across.halves and down.halves:
        return _halved(pixels, across, blocks, down, before)
    if down.source == down.wanted and down.repeats == 1:
        return _across(before(pixels[blocks[0].start : blocks[-1].end]), across)
    low, high = blocks[0].low, blocks[-1].high
    rows = _across(before(pixels[_inside(down, low, high)]), across)
    lines = rows.reshape(len(rows), -1)
    made = np.empty((blocks[-1].end - blocks[0].start, lines.shape[1]), np.float32)
    for one in blocks:
        part = lines[one.low - low : one.high - low]
        np.matmul(one.matrix, part, out=made[one.start - blocks[0].start : one.end - blocks[0].start])
    return made.reshape(len(made), across.wanted, rows.shape[2])


def _halved(
    pixels: NDArray[Any], across: Axis, blocks: tuple[_Block, ...], down: Axis, before: Callable[[NDArray[Any]], Values]
) -> Values:
    """The same means by a routine that does nothing else."""
    each = down.source // down.wanted
    rows = before(pixels[blocks[0].start * each : blocks[-1].end * each])
    size = (across.wanted, blocks[-1].end - blocks[0].start)
    small = cv2.resize(rows, size, interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32).reshape(size[1], size[0], rows.shape[2])


def _across(rows: Values, axis: Axis) -> Values:
    """Rows of shape (n, w, k) made ``axis.wanted`` long."""
    if axis.source == axis.wanted and axis.repeats == 1:
        return rows
    count, width, depth = rows.shape
    if axis.kernel == "area" and axis.repeats == 1 and axis.wanted < axis.source:
        small = cv2.resize(rows, (axis.wanted, count), interpolation=cv2.INTER_AREA)
        return np.asarray(small, np.float32).reshape(count, axis.wanted, depth)
    planes = np.ascontiguousarray(np.moveaxis(rows, 2, 0)).reshape(depth * count, width)
    made = np.empty((len(planes), axis.wanted), np.float32)
    for one in _blocks(axis):
        made[:, one.start : one.end] = planes[:, _inside(axis, one.low, one.high)] @ one.matrix.T
    return np.ascontiguousarray(np.moveaxis(made.reshape(depth, count, axis.wanted), 0, 2))
