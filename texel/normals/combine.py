"""A base and a detail normal map combined, and a normal map made stronger or weaker.

Formulas: Barré-Brisebois and Hill, "Blending in Detail" (2012). All work on float32 vectors of shape (h, w, 3).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from texel.normals.vectors import Vectors, unit, unit_planes
from texel.planes import Plane, joined, planes_of
from texel.strips import filled

__all__ = ["Method", "combine", "combined", "scale_strength"]

Planes = tuple[Plane, Plane, Plane]
Method = Literal["reoriented", "whiteout", "partial_derivative"]


def _reoriented(base: Planes, detail: Planes) -> Planes:
    """The detail turned by the rotation that takes (0, 0, 1) to the base: r = t (t . u) / t_z - u.

    t = base + (0, 0, 1), u = detail (-1, -1, 1).
    """
    (x, y, z), (u, v, w) = base, detail
    z = z + np.float32(1)
    along = (z * w - x * u - y * v) / np.maximum(z, np.float32(1e-6))
    return x * along + u, y * along + v, z * along - w


def _whiteout(base: Planes, detail: Planes) -> Planes:
    return base[0] + detail[0], base[1] + detail[1], base[2] * detail[2]


def _partial_derivative(base: Planes, detail: Planes) -> Planes:
    """The slopes of both added: xy = base_xy detail_z + detail_xy base_z."""
    (x, y, z), (u, v, w) = base, detail
    return x * w + u * z, y * w + v * z, z * w


_METHODS = {"reoriented": _reoriented, "whiteout": _whiteout, "partial_derivative": _partial_derivative}


def combine(base: Vectors, detail: Vectors, method: Method = "reoriented", strength: float = 1.0) -> Vectors:
    """Unit vectors of the base with the detail on it; a flat detail (0, 0, 1) leaves the base as it is.

    strength: factor on the detail's slopes.
    """
    return filled(
        base.shape, np.dtype(np.float32),
        lambda rows: joined(*combined(planes_of(base[rows]), planes_of(detail[rows]), method, strength)),
    )  # fmt: skip


def combined(base: Sequence[Plane], detail: Sequence[Plane], method: Method, strength: float) -> Planes:
    """As combine, of x, y and z one by one, each of shape (h, w)."""
    (x, y, z), (u, v, w), slope = base, detail, np.float32(strength)
    return unit_planes(*_METHODS[method](unit_planes(x, y, z), unit_planes(u * slope, v * slope, w)))


def scale_strength(vectors: Vectors, strength: float) -> Vectors:
    """x and y times ``strength``, then normalised: the slopes grow by that factor (glTF 2.0, normalTexture.scale)."""
    return unit(vectors * np.array([strength, strength, 1], np.float32))
