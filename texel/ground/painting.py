"""What is painted over the rules: strokes of a round brush, laid onto a raster.

The page lays strokes down by the same formula while they are drawn (web/src/screens/ground/brush.ts).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from texel.ground.patch import Patch, Stroke

__all__ = ["add_stroke", "painted"]

Amount = NDArray[np.float32]


def painted(patch: Patch, strokes: Iterable[Stroke] | None = None) -> NDArray[np.float32]:
    """What all strokes add to each layer, from -1 to 1, shape (layers, side, side), in the order of painting."""
    index = {one.name: at for at, one in enumerate(patch.layers)}
    amounts = np.zeros((len(patch.layers), patch.side, patch.side), np.float32)
    for stroke in patch.strokes if strokes is None else strokes:
        if stroke.layer in index:
            add_stroke(amounts[index[stroke.layer]], stroke, patch.metres)
    return amounts


def add_stroke(amount: Amount, stroke: Stroke, metres: float) -> None:
    """Lay a stroke onto what is painted of its layer, in place; the sum stays between -1 and 1.

    Within a stroke the strongest touch counts, so that going to and fro does not add up.
    """
    copies = [stroke.points]
    if stroke.mirror in ("x", "both"):
        copies += [tuple((metres - x, y, p) for x, y, p in points) for points in list(copies)]
    if stroke.mirror in ("y", "both"):
        copies += [tuple((x, metres - y, p) for x, y, p in points) for points in list(copies)]
    if stroke.wrap:
        shifts = [(dx * metres, dy * metres) for dx in (-1, 0, 1) for dy in (-1, 0, 1)]
        copies = [tuple((x + dx, y + dy, p) for x, y, p in points) for points in copies for dx, dy in shifts]
    touch = np.zeros_like(amount)
    for points in copies:
        _touch(touch, points, stroke, metres / len(amount))
    amount += np.float32(stroke.strength) * touch
    np.clip(amount, -1, 1, out=amount)


def _touch(touch: Amount, points: Sequence[tuple[float, float, float]], stroke: Stroke, texel: float) -> None:
    """The strongest touch of every texel by the line through the points, 0 to 1."""
    # A touch where the stroke begins, then the lines from point to point: as it is drawn under the hand.
    ends = (points[0], *points)
    radius, side = stroke.radius, len(touch)
    for (ax, ay, ap), (bx, by, bp) in pairwise(ends):
        left, right = sorted((ax, bx))
        top, bottom = sorted((ay, by))
        columns = slice(max(0, int((left - radius) / texel)), min(side, int((right + radius) / texel) + 1))
        rows = slice(max(0, int((top - radius) / texel)), min(side, int((bottom + radius) / texel) + 1))
        if columns.start >= columns.stop or rows.start >= rows.stop:
            continue
        x = ((np.arange(columns.start, columns.stop) + 0.5) * texel)[None, :]
        y = ((np.arange(rows.start, rows.stop) + 0.5) * texel)[:, None]
        length = (bx - ax) ** 2 + (by - ay) ** 2
        along = np.clip(((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length, 0, 1) if length else 0.0 * (x + y)
        distance = np.hypot(x - (ax + along * (bx - ax)), y - (ay + along * (by - ay))) / radius
        pressure = ap + along * (bp - ap)
        made = _fade(distance, stroke.falloff) * pressure
        window = touch[rows, columns]
        np.maximum(window, made.astype(np.float32), out=window)


def _fade(distance: NDArray[np.float64], falloff: float) -> NDArray[np.float64]:
    """1 within, 0 beyond a distance of 1, smooth (3t^2 - 2t^3) over the outer ``falloff``."""
    if falloff <= 0:
        return (distance <= 1).astype(np.float64)
    t = np.clip((1 - distance) / falloff, 0, 1)
    return t * t * (3 - 2 * t)
