"""Occlusion from height: how much of the sky each place of a height field sees, by its horizons."""

from __future__ import annotations

import math
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.filters import rows_enlarged
from texel.image import Pixels, to_unit
from texel.resample import Axis, resample
from texel.strips import filled, rows_around, strips
from texel.threads import each

__all__ = ["occlusion_from_height"]

Field = NDArray[np.float32]
_DIRECTIONS = 16
# Distances in texels that are looked at on every level; the next level, of half the size, looks twice as far.
_NEAR = (1, 2, 3, 4, 5, 6, 7, 8, 10, 12, 14, 16)
_FAR = (9, 10, 11, 12, 14, 16)
_LEAST_SIDE = 32


def occlusion_from_height(
    height: Pixels, relief: float = 8.0, reach: float = 0.25, wrap: bool = True, strength: float = 1.0
) -> Field:
    """Openness, 0 (closed) to 1 (open), shape (h, w), of the surface z = relief * height, with x and y in texels.

    In each of 16 directions the steepest slope t up to another place within ``reach`` (share of the longer side) is its
    horizon; of light from all the sky, weighed by the cosine to the flat surface, 1 / (1 + t^2) passes above it
    (cosine-weighted visibility; common practice). Openness is the mean over the directions, to the power ``strength``.
    height: floats, or integers, of which full scale is 1. Beyond 16 texels the heights are means over 2 x 2, 4 x 4, ...
    texels. wrap: the surface repeats; else it goes on flat beyond its border.

    >>> float(occlusion_from_height(np.zeros((8, 8), np.float32)).min())
    1.0
    """
    wide = max(1.0, reach * max(height.shape))
    coarse = _levels(height, np.float32(relief), wide)
    total = np.zeros(height.shape, np.float32)
    parts = strips(len(height), height.shape[1], _NEAR[-1])

    def add(angle: float, far: Field | None, rows: slice) -> None:
        around = to_unit(rows_around(height, rows, _NEAR[-1], wrap)) * np.float32(relief)
        steepest = _steepest(around, _within(_NEAR, wide, 1), 1, wrap, angle)
        if far is not None:
            np.maximum(steepest, rows_enlarged(far, rows, height.shape, wrap), out=steepest)
        np.multiply(steepest, steepest, out=steepest)
        steepest += 1
        total[rows] += np.divide(np.float32(1 / _DIRECTIONS), steepest, out=steepest)

    def bend(rows: slice) -> None:
        total[rows] **= np.float32(strength)

    for at in range(_DIRECTIONS):
        angle = 2 * math.pi * (at + 0.5) / _DIRECTIONS
        each(partial(add, angle, _far(coarse, wide, wrap, angle)), parts)
    if strength != 1:
        each(bend, parts)
    return total


def _levels(height: Pixels, relief: np.float32, farthest: float) -> list[Field]:
    """Means of the surface over 2 x 2, 4 x 4, ... texels, while distances go on beyond what a level looks at."""
    levels: list[Field] = []
    size = (height.shape[1], height.shape[0])
    while farthest > _NEAR[-1] * 2 ** len(levels) and min(size) >= 2 * _LEAST_SIDE:
        size = (size[0] // 2, size[1] // 2)
        if levels:
            smaller = cv2.resize(levels[-1], size, interpolation=cv2.INTER_AREA)
        else:
            across, down = Axis(height.shape[1], size[0]), Axis(len(height), size[1])
            smaller = resample(height[:, :, None], across, down, to_unit, lambda part, rows: part * relief)[:, :, 0]
        levels.append(np.asarray(smaller, np.float32))
    return levels


def _within(distances: tuple[int, ...], farthest: float, step: int) -> list[int]:
    return [d for d in distances if d * step <= farthest] or [1]


def _far(levels: list[Field], farthest: float, wrap: bool, angle: float) -> Field | None:
    """The steepest slope in one direction beyond what the surface itself looks at, at the first level; None if none."""
    steepest: Field | None = None
    for number, level in reversed([*enumerate(levels, 1)]):
        slopes = partial(_with_farther, level, 2**number, steepest, farthest, wrap, angle)
        steepest = filled(level.shape, np.dtype(np.float32), slopes, _FAR[-1])
    return steepest


def _with_farther(
    level: Field, step: int, farther: Field | None, farthest: float, wrap: bool, angle: float, rows: slice
) -> Field:
    around = rows_around(level, rows, _FAR[-1], wrap)
    steepest = _steepest(around, _within(_FAR, farthest, step), step, wrap, angle)
    if farther is not None:
        np.maximum(steepest, rows_enlarged(farther, rows, level.shape, wrap), out=steepest)
    return steepest


def _steepest(around: Field, distances: list[int], step: int, wrap: bool, angle: float) -> Field:
    """The steepest slope up to a place at some distances, at least 0, of the rows in the middle of ``around``: above
    and below them lie as many as the farthest distance a level looks at. step: texels of the whole map for one here."""
    reach = _NEAR[-1]
    height, width = len(around) - 2 * reach, around.shape[1]
    offsets = {(round(d * math.sin(angle)), round(d * math.cos(angle))) for d in distances} - {(0, 0)}
    border = cv2.BORDER_WRAP if wrap else cv2.BORDER_REPLICATE
    padded = cv2.copyMakeBorder(around, 0, 0, reach, reach, border)
    field = around[reach : reach + height]
    best = np.zeros((height, width), np.float32)
    slope = np.empty_like(best)
    for y, x in sorted(offsets):
        there = padded[reach + y : reach + y + height, reach + x : reach + x + width]
        share = 1 / (step * math.hypot(y, x))
        cv2.addWeighted(there, share, field, -share, 0, dst=slope)
        cv2.max(best, slope, dst=best)
    return best
