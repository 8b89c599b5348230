"""Fewer bits without plateaus: what rounding takes away is spread over neighbouring texels, the same way every time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.image import Pixels, to_unit

__all__ = ["dithered"]

_ORDER = 4


def _thresholds() -> NDArray[np.float32]:
    """The ordered thresholds of Bayer 1973 ("An optimum method for two-level rendition"), 16 x 16, between 0 and 1."""
    matrix: NDArray[np.int64] = np.zeros((1, 1), np.int64)
    for _ in range(_ORDER):
        matrix = np.block([[4 * matrix, 4 * matrix + 2], [4 * matrix + 3, 4 * matrix + 1]])
    return ((matrix + 0.5) / matrix.size).astype(np.float32)


_THRESHOLDS = _thresholds()


def dithered(pixels: Pixels) -> NDArray[np.uint8]:
    """Stored numbers of 16 bits, or floats 0 to 1, shape (h, w, c), as 8 bits: rounded up in as many texels as the rest
    asks for, so that the mean over 16 x 16 texels stays within 1/512 of a step.

    Numbers that 8 bits hold stay what they are. Each channel has the thresholds in another place.

    >>> dithered(np.full((16, 16, 1), 0.5 / 255, np.float32)).mean()
    np.float64(0.5)
    """
    height, width, count = pixels.shape
    times = (-(-height // 16), -(-width // 16))
    out = np.empty(pixels.shape, np.uint8)
    for at in range(count):
        pattern = np.tile(np.roll(_THRESHOLDS, (at * 5, at * 3), (0, 1)), times)[:height, :width]
        steps = np.clip(to_unit(np.ascontiguousarray(pixels[:, :, at])), 0, 1) * np.float32(255)
        out[:, :, at] = np.minimum(steps + pattern, np.float32(255)).astype(np.uint8)
    return out
