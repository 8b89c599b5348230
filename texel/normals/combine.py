"""A base and a detail normal map combined, and a normal map made stronger or weaker.

Formulas: Barré-Brisebois and Hill, "Blending in Detail" (2012). All work on float32 vectors of shape (h, w, 3).
"""

from __future__ import annotations

from typing import Literal

import numpy as np

from texel.normals.vectors import Vectors, unit
from texel.strips import by_rows

__all__ = ["Method", "combine", "scale_strength"]

Method = Literal["reoriented", "whiteout", "partial_derivative"]


def _reoriented(base: Vectors, detail: Vectors) -> Vectors:
    """The detail turned by the rotation that takes (0, 0, 1) to the base: r = t (t . u) / t_z - u."""
    t = base + np.array([0, 0, 1], np.float32)
    u = detail * np.array([-1, -1, 1], np.float32)
    along = np.einsum("hwc,hwc->hw", t, u)[:, :, None]
    return t * (along / np.maximum(t[:, :, 2:], np.float32(1e-6))) - u


def _whiteout(base: Vectors, detail: Vectors) -> Vectors:
    return np.concatenate([base[:, :, :2] + detail[:, :, :2], base[:, :, 2:] * detail[:, :, 2:]], axis=2)


def _partial_derivative(base: Vectors, detail: Vectors) -> Vectors:
    """The slopes of both added: xy = base_xy detail_z + detail_xy base_z."""
    xy = base[:, :, :2] * detail[:, :, 2:] + detail[:, :, :2] * base[:, :, 2:]
    return np.concatenate([xy, base[:, :, 2:] * detail[:, :, 2:]], axis=2)


_METHODS = {"reoriented": _reoriented, "whiteout": _whiteout, "partial_derivative": _partial_derivative}


def combine(base: Vectors, detail: Vectors, method: Method = "reoriented", strength: float = 1.0) -> Vectors:
    """Unit vectors of the base with the detail on it; a flat detail (0, 0, 1) leaves the base as it is.

    strength: factor on the detail's slopes.
    """

    def combined(part: Vectors) -> Vectors:
        return unit(_METHODS[method](unit(part[:, :, :3]), scale_strength(part[:, :, 3:], strength)))

    return by_rows(combined, np.concatenate([base, detail], axis=2))


def scale_strength(vectors: Vectors, strength: float) -> Vectors:
    """x and y times ``strength``, then normalised: the slopes grow by that factor (glTF 2.0, normalTexture.scale)."""
    return unit(vectors * np.array([strength, strength, 1], np.float32))
