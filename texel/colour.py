"""Transfer functions and luminance."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.image import Pixels, full_scale, narrow, to_unit
from texel.strips import by_rows

__all__ = ["LUMINANCE", "decode_srgb", "encode_srgb", "luminance", "srgb_to_unit_linear", "store_srgb"]

# Rec. ITU-R BT.709, luminance of linear red, green and blue.
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)


def decode_srgb(encoded: Pixels) -> NDArray[np.float32]:
    """sRGB-encoded values, 0 to 1, to linear light, 0 to 1. Any shape. IEC 61966-2-1:1999.

    >>> round(float(decode_srgb(np.array([128 / 255]))[0]), 5)
    0.21586
    """
    return by_rows(_decode, np.atleast_1d(encoded)).reshape(np.shape(encoded))


def _decode(encoded: Pixels) -> NDArray[np.float32]:
    encoded, kind = _floats(encoded)
    low = encoded * kind(1 / 12.92)
    high = ((np.maximum(encoded, kind(0)) + kind(0.055)) * kind(1 / 1.055)) ** kind(2.4)
    made: NDArray[np.float32] = np.where(encoded <= kind(0.04045), low, high).astype(np.float32, copy=False)
    return made


def _floats(values: Pixels) -> tuple[Pixels, Any]:
    """Floats of 32 bits stay what they are: results are within 2e-7, far below a step of 16 bits."""
    floats = values if values.dtype == np.float32 else values.astype(np.float64)
    return floats, floats.dtype.type


def encode_srgb(linear: Pixels) -> NDArray[np.float32]:
    """Linear light, 0 to 1, to sRGB-encoded values, 0 to 1. Any shape. IEC 61966-2-1:1999.

    >>> round(float(encode_srgb(np.array([0.5]))[0]), 6)
    0.735357
    """
    return by_rows(_encode, np.atleast_1d(linear)).reshape(np.shape(linear))


def _encode(linear: Pixels) -> NDArray[np.float32]:
    linear, kind = _floats(linear)
    high = np.power(np.maximum(linear, kind(0)), kind(1 / 2.4))
    high = high * kind(1.055) - kind(0.055)
    made: NDArray[np.float32] = np.where(linear <= kind(0.0031308), linear * kind(12.92), high).astype(
        np.float32, copy=False
    )
    return made


@lru_cache(maxsize=2)
def _decode_table(steps: int) -> NDArray[np.float32]:
    return decode_srgb(np.arange(steps) / (steps - 1))


def srgb_to_unit_linear(pixels: Pixels) -> NDArray[np.float32]:
    """Stored sRGB numbers (uint8, uint16, float32) to linear light, 0 to 1; integers by table."""
    if pixels.dtype == np.float32:
        return decode_srgb(pixels)
    table: NDArray[np.float32] = _decode_table(int(full_scale(pixels.dtype)) + 1)
    if pixels.dtype == np.uint8 and pixels.ndim > 1:
        return np.asarray(cv2.LUT(pixels, table), np.float32).reshape(pixels.shape)
    return table[pixels]


def luminance(pixels: Pixels) -> NDArray[np.float32]:
    """Weighted sum of the first three channels of linear values, shape (h, w, >=3) to (h, w)."""
    return to_unit(pixels[:, :, :3]) @ LUMINANCE


def store_srgb(linear: Pixels, dtype: np.dtype[np.generic]) -> Pixels:
    """Linear light, 0 to 1, as stored sRGB numbers of an integer dtype."""
    return by_rows(lambda part: narrow(encode_srgb(np.clip(part, 0, 1)), dtype), np.asarray(linear, np.float32))
