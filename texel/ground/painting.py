"""What is painted over the rules: strokes of a round brush, laid onto a raster.

The page lays strokes down by the same formula while they are drawn (web/src/screens/ground/brush.ts).
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from itertools import pairwise
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from texel.ground.patch import Patch, Stroke

__all__ = ["Painted", "add_stroke", "painted", "stroke_reach"]

Amount = NDArray[np.float32]
# Of all layers, shape (layers, side, side).
Painted: TypeAlias = NDArray[np.float32]
Point: TypeAlias = tuple[float, float, float]
Line: TypeAlias = tuple[Point, Point]


def painted(
    patch: Patch, strokes: Iterable[Stroke] | None = None, start: NDArray[np.float32] | None = None
) -> NDArray[np.float32]:
    """What strokes add to each layer, from -1 to 1, shape (layers, side, side), in the order of painting.

    strokes: where they are not all of the patch. start: what was painted before them.
    """
    index = {one.name: at for at, one in enumerate(patch.layers)}
    shape = (len(patch.layers), patch.side, patch.side)
    amounts = np.zeros(shape, np.float32) if start is None else start.copy()
    for stroke in patch.strokes if strokes is None else strokes:
        if stroke.layer in index:
            add_stroke(amounts[index[stroke.layer]], stroke, patch.metres)
    return amounts


def add_stroke(amount: Amount, stroke: Stroke, metres: float) -> None:
    """Lay a stroke onto what is painted of its layer, in place; the sum stays between -1 and 1.

    Within a stroke the strongest touch counts, so that going to and fro does not add up.
    """
    from texel.ground.touching import touch_line

    side = len(amount)
    texel = metres / side
    lines = [(line, window) for line in _lines(stroke, metres) if (window := _window(line, stroke.radius, side, texel))]
    if not lines:
        return
    left, top = min(one[0] for _, one in lines), min(one[1] for _, one in lines)
    right, bottom = max(one[2] for _, one in lines), max(one[3] for _, one in lines)
    touch = np.zeros((bottom - top, right - left), np.float32)
    for (a, b), (x0, y0, x1, y1) in lines:
        part = touch[y0 - top : y1 - top, x0 - left : x1 - left]
        touch_line(part, x0, y0, texel, *a, *b, stroke.radius, stroke.falloff)
    some = amount[top:bottom, left:right]
    some += np.float32(stroke.strength) * touch
    np.clip(some, -1, 1, out=some)


def stroke_reach(stroke: Stroke, metres: float, side: int) -> float:
    """Square metres that laying a stroke down looks at, counted for each of its lines: how much work it is.

    >>> dab = Stroke("mud", ((8.0, 8.0, 1.0),), radius=2.0, strength=1.0)
    >>> stroke_reach(dab, 16.0, 16)
    25.0
    """
    windows = (_window(line, stroke.radius, side, metres / side) for line in _lines(stroke, metres))
    return sum((one[2] - one[0]) * (one[3] - one[1]) for one in windows if one) * (metres / side) ** 2


def _lines(stroke: Stroke, metres: float) -> Iterator[Line]:
    """A touch where the stroke begins, then the lines from point to point, as it is drawn under the hand; and their
    copies on the other side of the middle, and beyond the border."""
    copies = [stroke.points]
    if stroke.mirror in ("x", "both"):
        copies += [tuple((metres - x, y, p) for x, y, p in points) for points in list(copies)]
    if stroke.mirror in ("y", "both"):
        copies += [tuple((x, metres - y, p) for x, y, p in points) for points in list(copies)]
    if stroke.wrap:
        shifts = [(dx * metres, dy * metres) for dx in (-1, 0, 1) for dy in (-1, 0, 1)]
        copies = [tuple((x + dx, y + dy, p) for x, y, p in points) for points in copies for dx, dy in shifts]
    for points in copies:
        yield from pairwise((points[0], *points))


def _window(line: Line, radius: float, side: int, texel: float) -> tuple[int, int, int, int] | None:
    """The texels that a line may touch: columns and rows from, up to and without; None beside the raster."""
    (ax, ay, _), (bx, by, _) = line
    left, top = (max(0, math.floor((min(one) - radius) / texel)) for one in ((ax, bx), (ay, by)))
    right, bottom = (min(side, math.floor((max(one) + radius) / texel) + 1) for one in ((ax, bx), (ay, by)))
    return (left, top, right, bottom) if left < right and top < bottom else None
