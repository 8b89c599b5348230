"""How strongly a line of the brush touches each texel, as a compiled loop."""

from __future__ import annotations

import math
from typing import Any

from texel.compiling import compiled

__all__ = ["touch_line"]


def _touch_line(
    touch: Any, left: int, top: int, texel: float, ax: float, ay: float, ap: float, bx: float, by: float, bp: float,
    radius: float, falloff: float,
) -> None:  # fmt: skip
    """Keep in ``touch``, whose first texel is (left, top) of the raster, what is stronger than what is there."""
    rows, columns = touch.shape
    dx, dy = bx - ax, by - ay
    length = dx * dx + dy * dy
    most, limit = max(ap, bp), radius * radius
    for row in range(rows):
        y = (top + row + 0.5) * texel
        for column in range(columns):
            # Most texels lie beyond the line, or were touched as strongly by the one before.
            if touch[row, column] >= most:
                continue
            x = (left + column + 0.5) * texel
            along = 0.0
            if length > 0:
                along = min(max(((x - ax) * dx + (y - ay) * dy) / length, 0.0), 1.0)
            across, down = x - (ax + along * dx), y - (ay + along * dy)
            squared = across * across + down * down
            if squared > limit:
                continue
            distance = math.sqrt(squared) / radius
            made = ap + along * (bp - ap)
            if falloff > 0:
                t = min(max((1 - distance) / falloff, 0.0), 1.0)
                made *= t * t * (3 - 2 * t)
            if made > touch[row, column]:
                touch[row, column] = made


touch_line = compiled(_touch_line)
