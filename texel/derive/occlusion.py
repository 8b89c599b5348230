"""Occlusion from height: how much of the sky each place of a height field sees, by its horizons."""

from __future__ import annotations

import math
import os
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["occlusion_from_height"]

Field = NDArray[np.float32]
_DIRECTIONS = 16
# Distances in texels that are looked at on every level; the next level, of half the size, looks twice as far.
_NEAR = (1, 2, 3, 4, 5, 6, 7, 8, 10, 12, 14, 16)
_FAR = (9, 10, 11, 12, 14, 16)
_LEAST_SIDE = 32


def occlusion_from_height(
    height: Field, relief: float = 8.0, reach: float = 0.25, wrap: bool = True, strength: float = 1.0
) -> Field:
    """Openness, 0 (closed) to 1 (open), shape (h, w), of the surface z = relief * height, with x and y in texels.

    In each of 16 directions the steepest slope t up to another place within ``reach`` (share of the longer side) is its
    horizon; of light from all the sky, weighed by the cosine to the flat surface, 1 / (1 + t^2) passes above it
    (cosine-weighted visibility; common practice). Openness is the mean over the directions, to the power ``strength``.
    Beyond 16 texels the heights are means over 2 x 2, 4 x 4, ... texels. wrap: the surface repeats; else it goes on
    flat beyond its border.

    >>> float(occlusion_from_height(np.zeros((8, 8), np.float32)).min())
    1.0
    """
    field = np.asarray(height, np.float32) * np.float32(relief)
    farthest = max(1.0, reach * max(field.shape))
    levels = _levels(field, farthest)
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        angles = [2 * math.pi * (at + 0.5) / _DIRECTIONS for at in range(_DIRECTIONS)]
        parts = list(pool.map(partial(_open, levels, farthest, wrap), angles))
    openness = sum(parts[1:], parts[0]) / np.float32(_DIRECTIONS)
    return np.asarray(openness if strength == 1 else openness ** np.float32(strength), np.float32)


def _levels(field: Field, farthest: float) -> list[Field]:
    """The field, and means of it while distances go on beyond what a level looks at."""
    found = [field]
    while farthest > _NEAR[-1] * 2 ** (len(found) - 1) and min(found[-1].shape) >= 2 * _LEAST_SIDE:
        size = (found[-1].shape[1] // 2, found[-1].shape[0] // 2)
        found.append(np.asarray(cv2.resize(found[-1], size, interpolation=cv2.INTER_AREA), np.float32))
    return found


def _open(levels: list[Field], farthest: float, wrap: bool, angle: float) -> Field:
    """What passes above the horizon in one direction."""
    steepest: Field | None = None
    for number in reversed(range(len(levels))):
        step = 2**number
        distances = [d for d in (_FAR if number else _NEAR) if d * step <= farthest] or [1]
        found = _steepest(levels[number], distances, step, wrap, angle)
        if steepest is not None:
            size = (levels[number].shape[1], levels[number].shape[0])
            found = np.maximum(found, cv2.resize(steepest, size, interpolation=cv2.INTER_LINEAR))
        steepest = found
    assert steepest is not None, "there is always the first level"
    np.multiply(steepest, steepest, out=steepest)
    steepest += 1
    return np.divide(1, steepest, out=steepest)


def _steepest(field: Field, distances: list[int], step: int, wrap: bool, angle: float) -> Field:
    """The steepest slope up to a place at some distances, at least 0. step: texels of the whole map for one here."""
    height, width = field.shape
    offsets = {(round(d * math.sin(angle)), round(d * math.cos(angle))) for d in distances} - {(0, 0)}
    best = np.zeros_like(field)
    if not offsets:
        return best
    reach = max(max(abs(y), abs(x)) for y, x in offsets)
    padded = np.pad(field, reach, mode="wrap" if wrap else "edge")
    slope = np.empty_like(field)
    for y, x in sorted(offsets):
        there = padded[reach + y : reach + y + height, reach + x : reach + x + width]
        np.subtract(there, field, out=slope)
        slope *= np.float32(1 / (step * math.hypot(y, x)))
        np.maximum(best, slope, out=best)
    return best
