"""Borders that meet: the picture's edges are faded into a part of the same picture that wraps around."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["make_tileable"]


def _weights(count: int, width: float) -> NDArray[np.float32]:
    """1 at both borders, 0 from ``width`` (share of the side) inwards, smooth between."""
    at = (np.arange(count, dtype=np.float32) + 0.5) / count
    inwards = np.clip(np.minimum(at, 1 - at) / max(width, 1e-6), 0, 1)
    return np.asarray(1 - inwards**2 * (3 - 2 * inwards), np.float32)


def _along(values: NDArray[np.float32], axis: int, width: float) -> NDArray[np.float32]:
    count = values.shape[axis]
    shape = [1, 1, 1]
    shape[axis] = count
    weight = _weights(count, width).reshape(shape)
    other = np.roll(values, count // 2, axis=axis)
    mean = values.mean(axis=(0, 1), keepdims=True)
    # A plain mean of two unrelated patterns is flatter than either; dividing by the weights' length keeps the contrast.
    length = np.sqrt(weight**2 + (1 - weight) ** 2)
    own, others = (1 - weight) / length, weight / length
    mixed = values * own
    other *= others
    mixed += other
    mixed += mean * (1 - own - others)
    return mixed


def make_tileable(values: NDArray[np.float32], width: float = 0.25, axes: str = "both") -> NDArray[np.float32]:
    """Values, shape (h, w, c), whose left and right (axes "x"), upper and lower ("y") or all borders meet.

    width: share of the side, 0 to 0.5, over which the border is faded into the picture moved by half its side, which
    has no seam there. The contrast is kept (variance-preserving blend); results may leave the range of the input.
    """
    if axes in ("both", "x"):
        values = _along(values, 1, width)
    if axes in ("both", "y"):
        values = _along(values, 0, width)
    return values.astype(np.float32)
