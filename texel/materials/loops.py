"""Compiled loops over planes of texels (numba): steps of arithmetic, and pictures read between their texels.

A plane holds one component of a value for every texel of a strip, float32. What the loops compute is what
texel.materials.operations and texel.materials.sampling compute with NumPy; the tests hold them together.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.compiling import compiled
from texel.materials.opcodes import (
    ABSOLUTE,
    ADD,
    CHOOSE,
    CLAMP,
    DIVIDE,
    FRACTION,
    GREATER,
    LENGTH,
    LEVELS,
    MAXIMUM,
    MINIMUM,
    MIX,
    MULTIPLY,
    POWER,
    ROOT,
    SINE,
    SMOOTH,
    SUBTRACT,
    UNIT,
    UNIT_Z,
)  # fmt: skip

__all__ = ["find", "gather", "run"]

Array = NDArray[np.float32]
# Texels for which all steps are done before the next: with some dozens of planes less than a megabyte.
BLOCK = 2048


@compiled
def run(steps: NDArray[np.int32], planes: Array) -> None:
    """Do the steps, rows of what, to, and three planes that are read, one after the other; all of them for some texels
    at a time, whose planes stay near the processor."""
    one, zero, tiny = np.float32(1), np.float32(0), np.float32(1e-6)
    turn = np.float32(2 * np.pi)
    for first in range(0, planes.shape[1], BLOCK):
        last = min(first + BLOCK, planes.shape[1])
        for at in range(steps.shape[0]):
            what = steps[at, 0]
            to, a = planes[steps[at, 1], first:last], planes[steps[at, 2], first:last]
            b, c = planes[steps[at, 3], first:last], planes[steps[at, 4], first:last]
            count = last - first
            if what == ADD:
                for i in range(count):
                    to[i] = a[i] + b[i]
            elif what == SUBTRACT:
                for i in range(count):
                    to[i] = a[i] - b[i]
            elif what == MULTIPLY:
                for i in range(count):
                    to[i] = a[i] * b[i]
            elif what == DIVIDE:
                for i in range(count):
                    to[i] = zero if b[i] == zero else a[i] / b[i]
            elif what == MIX:
                for i in range(count):
                    to[i] = a[i] * (one - c[i]) + b[i] * c[i]
            elif what == POWER:
                for i in range(count):
                    if a[i] > zero:
                        to[i] = max(a[i], np.float32(1e-30)) ** b[i]
                    else:
                        to[i] = one if b[i] == zero else zero
            elif what == CLAMP:
                for i in range(count):
                    to[i] = min(max(a[i], b[i]), c[i])
            elif what == MINIMUM:
                for i in range(count):
                    to[i] = min(a[i], b[i])
            elif what == MAXIMUM:
                for i in range(count):
                    to[i] = max(a[i], b[i])
            elif what == ABSOLUTE:
                for i in range(count):
                    to[i] = abs(a[i])
            elif what == ROOT:
                for i in range(count):
                    to[i] = np.sqrt(max(a[i], zero))
            elif what == FRACTION:
                for i in range(count):
                    to[i] = a[i] - np.floor(a[i])
            elif what == SINE:
                for i in range(count):
                    to[i] = np.sin(a[i] * turn)
            elif what in (LEVELS, SMOOTH):
                for i in range(count):
                    span = c[i] - b[i]
                    share = zero if span == zero else (a[i] - b[i]) / span
                    share = min(max(share, zero), one)
                    to[i] = share * share * (np.float32(3) - np.float32(2) * share) if what == SMOOTH else share
            elif what == CHOOSE:
                for i in range(count):
                    to[i] = a[i] if b[i] > np.float32(0.5) else c[i]
            elif what == GREATER:
                for i in range(count):
                    to[i] = one if a[i] > b[i] else zero
            elif what == LENGTH:
                for i in range(count):
                    to[i] = np.sqrt(a[i] * a[i] + b[i] * b[i] + c[i] * c[i])
            elif what == UNIT:
                for i in range(count):
                    to[i] = a[i] / max(b[i], tiny) if b[i] > tiny else zero
            elif what == UNIT_Z:
                for i in range(count):
                    to[i] = a[i] / max(b[i], tiny) if b[i] > tiny else one


@compiled
def inside(at: Any, count: Any, wrap: int) -> Any:
    """The number of a texel within a side of ``count``. wrap: 0 repeats, 1 takes the last, 2 turns over."""
    one, two = np.float32(1), np.float32(2)
    if wrap == 1:
        return min(max(at, np.float32(0)), count - one)
    period = count * two if wrap == 2 else count
    found = at - np.floor(at / period) * period
    # A quotient that was rounded up leaves the side itself.
    found = found if found < period else np.float32(0)
    return min(found, period - one - found) if wrap == 2 else found


@compiled
def find(
    u: Array, v: Array, width: int, height: int, wrap: int, nearest: bool, corners: NDArray[np.uint32], shares: Array
) -> None:
    """For places in a picture: the numbers of the four texels around each, and how far it is from the first to the
    next, to the right and down. wrap: as in ``inside``; nearest: all four are the one that it lies in."""
    wide, high, half = np.float32(width), np.float32(height), np.float32(0 if nearest else 0.5)
    next_one = np.float32(0 if nearest else 1)
    for i in range(u.shape[0]):
        x = u[i] * wide - half
        y = v[i] * high - half
        # What is no number, or too large to be counted, is read at the first texel.
        x = x if abs(x) < np.float32(1e9) else np.float32(0)
        y = y if abs(y) < np.float32(1e9) else np.float32(0)
        left, top = np.floor(x), np.floor(y)
        shares[0, i] = np.float32(0) if nearest else x - left
        shares[1, i] = np.float32(0) if nearest else y - top
        x0, x1 = np.uint32(inside(left, wide, wrap)), np.uint32(inside(left + next_one, wide, wrap))
        y0, y1 = np.uint32(inside(top, high, wrap)), np.uint32(inside(top + next_one, high, wrap))
        corners[0, i] = y0 * np.uint32(width) + x0
        corners[1, i] = y0 * np.uint32(width) + x1
        corners[2, i] = y1 * np.uint32(width) + x0
        corners[3, i] = y1 * np.uint32(width) + x1


@compiled
def gather(
    texels: Any, which: NDArray[np.int32], tables: Array, corners: NDArray[np.uint32], shares: Array, planes: Array,
    to: NDArray[np.int32],
) -> None:  # fmt: skip
    """Some channels of the texels found, mixed; stored integers go through a table each."""
    one = np.float32(1)
    first, second, third, fourth = corners[0], corners[1], corners[2], corners[3]
    to_the_right, downwards = shares[0], shares[1]
    for k in range(which.shape[0]):
        channel, table, out = which[k], tables[k], planes[to[k]]
        for i in range(out.shape[0]):
            right, down = to_the_right[i], downwards[i]
            a, b = table[texels[first[i], channel]], table[texels[second[i], channel]]
            c, d = table[texels[third[i], channel]], table[texels[fourth[i], channel]]
            out[i] = (a * (one - right) + b * right) * (one - down) + (c * (one - right) + d * right) * down
