"""Whether a float normal map holds its components as they are, -1 to 1, or as (n + 1) / 2, 0 to 1."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["holds_signed", "signed_from_stored", "stored_from_signed"]

# Enough texels to tell: their lengths differ by a half and more between the two readings.
_LOOKED_AT = 1 << 18
_PLAIN = 1e-3


def holds_signed(pixels: NDArray[Any], channels: str) -> bool:
    """Whether floats of shape (h, w, 2 to 4) read better as components from -1 to 1 than as (n + 1) / 2.

    By the lengths of the vectors over the whole map: that reading is right by which they lie nearer to 1. Where blue is
    missing, or plain but not 1, x and y alone tell: they cannot be longer than 1. Integers and grey maps are never
    signed.

    >>> flat = np.zeros((4, 4, 3), np.float32) + np.float32([0, 0, 1])
    >>> holds_signed(flat, "rgb"), holds_signed((flat + 1) / 2, "rgb")
    (True, False)
    """
    if pixels.dtype != np.float32 or channels[0] == "y":
        return False
    rows = pixels.reshape(-1, pixels.shape[2])
    looked = rows[:: max(1, len(rows) // _LOOKED_AT), :3].astype(np.float64)
    looked = looked[np.isfinite(looked).all(axis=1)]
    if not len(looked):
        return False
    if len(channels.removesuffix("a")) == 3 and (np.ptp(looked[:, 2]) > _PLAIN or looked[0, 2] > 1 - _PLAIN):
        return bool(_off(looked) < _off(2 * looked - 1))
    return bool(_too_long(looked[:, :2]) < _too_long(2 * looked[:, :2] - 1))


def _off(vectors: NDArray[np.float64]) -> float:
    return float(np.median(np.abs(np.linalg.norm(vectors, axis=1) - 1)))


def _too_long(xy: NDArray[np.float64]) -> float:
    """The share of vectors whose x and y are longer than 1, filtering and rounding apart."""
    return float(np.mean(np.linalg.norm(xy, axis=1) > 1.05))


def stored_from_signed(pixels: NDArray[np.float32]) -> NDArray[np.float32]:
    """(n + 1) / 2 of the first three channels, shape (h, w, 2 to 4); alpha stays."""
    return _changed(pixels, np.float32(0.5), np.float32(0.5))


def signed_from_stored(pixels: NDArray[np.float32]) -> NDArray[np.float32]:
    """2 v - 1 of the first three channels, shape (h, w, 2 to 4); alpha stays."""
    return _changed(pixels, np.float32(2), np.float32(-1))


def _changed(pixels: NDArray[np.float32], scale: np.float32, offset: np.float32) -> NDArray[np.float32]:
    changed = pixels.copy()
    part = changed[:, :, :3]
    part *= scale
    part += offset
    return changed
