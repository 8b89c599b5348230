"""Transfer functions and luminance."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from texel.image import Pixels, full_scale, narrow, to_unit

__all__ = ["LUMINANCE", "decode_srgb", "encode_srgb", "luminance", "srgb_to_unit_linear", "store_srgb"]

# Rec. ITU-R BT.709, luminance of linear red, green and blue.
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)


def decode_srgb(encoded: Pixels) -> NDArray[np.float32]:
    """sRGB-encoded values, 0 to 1, to linear light, 0 to 1. Any shape. IEC 61966-2-1:1999.

    >>> round(float(decode_srgb(np.array([128 / 255]))[0]), 5)
    0.21586
    """
    encoded = np.asarray(encoded, np.float64)
    low = encoded / 12.92
    high = ((np.maximum(encoded, 0.0) + 0.055) / 1.055) ** 2.4
    return np.where(encoded <= 0.04045, low, high).astype(np.float32)


def encode_srgb(linear: Pixels) -> NDArray[np.float32]:
    """Linear light, 0 to 1, to sRGB-encoded values, 0 to 1. Any shape. IEC 61966-2-1:1999.

    >>> round(float(encode_srgb(np.array([0.5]))[0]), 6)
    0.735357
    """
    linear = np.asarray(linear, np.float64)
    high = 1.055 * np.maximum(linear, 0.0) ** (1 / 2.4) - 0.055
    return np.where(linear <= 0.0031308, linear * 12.92, high).astype(np.float32)


@lru_cache(maxsize=2)
def _decode_table(steps: int) -> NDArray[np.float32]:
    return decode_srgb(np.arange(steps) / (steps - 1))


def srgb_to_unit_linear(pixels: Pixels) -> NDArray[np.float32]:
    """Stored sRGB numbers (uint8, uint16, float32) to linear light, 0 to 1; integers by table."""
    if pixels.dtype == np.float32:
        return decode_srgb(pixels)
    return _decode_table(int(full_scale(pixels.dtype)) + 1)[pixels]


def luminance(pixels: Pixels) -> NDArray[np.float32]:
    """Weighted sum of the first three channels of linear values, shape (h, w, >=3) to (h, w)."""
    return to_unit(pixels[:, :, :3]) @ LUMINANCE


def store_srgb(linear: Pixels, dtype: np.dtype[np.generic]) -> Pixels:
    """Linear light, 0 to 1, as stored sRGB numbers of an integer dtype."""
    return narrow(encode_srgb(np.clip(linear, 0, 1)), dtype)
