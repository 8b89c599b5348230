"""How strongly a stroke touches each point of a mesh, as a compiled loop."""

from __future__ import annotations

import math
from typing import Any

from texel.compiling import compiled

__all__ = ["touch_points"]


def _touch_points(touch: Any, places: Any, normals: Any, line: Any, radius: float, falloff: float) -> None:
    """Keep in ``touch`` what is stronger than what is there. line: two rows of place, normal and pressure."""
    dx, dy, dz = line[1, 0] - line[0, 0], line[1, 1] - line[0, 1], line[1, 2] - line[0, 2]
    length = dx * dx + dy * dy + dz * dz
    for at in range(touch.shape[0]):
        px, py, pz = places[at, 0] - line[0, 0], places[at, 1] - line[0, 1], places[at, 2] - line[0, 2]
        along = 0.0
        if length > 0:
            along = min(max((px * dx + py * dy + pz * dz) / length, 0.0), 1.0)
        px, py, pz = px - along * dx, py - along * dy, pz - along * dz
        squared = px * px + py * py + pz * pz
        if squared > radius * radius:
            continue
        # What is turned away from the brush, as the other side of a thin wall, is not painted.
        facing = 0.0
        for axis in range(3):
            facing += normals[at, axis] * (line[0, 3 + axis] + along * (line[1, 3 + axis] - line[0, 3 + axis]))
        if facing <= 0:
            continue
        made = line[0, 6] + along * (line[1, 6] - line[0, 6])
        if falloff > 0:
            t = min(max((1 - math.sqrt(squared) / radius) / falloff, 0.0), 1.0)
            made *= t * t * (3 - 2 * t)
        if made > touch[at]:
            touch[at] = made


touch_points = compiled(_touch_points)
