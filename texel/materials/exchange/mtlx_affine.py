"""Where an image is read, from an expression of the coordinates: scaled, turned and moved, or not to be said."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from texel.materials.simplify import value_of
from texel.materials.tree import Node

__all__ = ["Unplaced", "placement_of"]

_NEAR = 1e-4
Pair = tuple[float, float]


class Unplaced(Exception):
    """Coordinates that are more than a scale, a turn and a move; the message says how."""


def placement_of(made: Node, names: Mapping[str, tuple[float, ...]]) -> tuple[Pair, Pair, float]:
    """Tiling, offset and degrees of texel.materials.sampling.coordinates_of, v down.

    made: coordinates with v up, an expression of "uv" (v down) and of ``names``. Raises Unplaced.
    """

    def at(u: float, v: float) -> np.ndarray:
        x, y = (float(part) for part in np.broadcast_to(value_of(made, {**names, "uv": (u, v)}), (2,)))
        return np.array([x, 1 - y])

    try:
        origin = at(0, 0)
        columns = np.stack([at(1, 0) - origin, at(0, 1) - origin], axis=1)
        seen = [(0.37, 0.61), (-1.3, 2.7)]
        straight = all(np.allclose(at(*one), origin + columns @ one, atol=_NEAR) for one in seen)
    except (KeyError, IndexError, ValueError):
        raise Unplaced("its coordinates read more than the surface's own") from None
    if not straight or not np.isfinite(columns).all():
        raise Unplaced("its coordinates are bent")
    along, across = columns[:, 0], columns[:, 1]
    degrees = math.degrees(math.atan2(along[1], along[0])) if along.any() else 0.0
    turn = math.radians(degrees)
    tiling = (float(np.hypot(*along)), float(across @ [-math.sin(turn), math.cos(turn)]))
    if not np.allclose(across, np.array([-math.sin(turn), math.cos(turn)]) * tiling[1], atol=_NEAR):
        raise Unplaced("its coordinates are sheared")
    return (_tidy(tiling[0]), _tidy(tiling[1])), (_tidy(origin[0]), _tidy(origin[1])), _tidy(degrees)


def _tidy(value: float) -> float:
    """Without the noise of 32-bit arithmetic."""
    return round(float(value), 5) + 0.0
