"""Peak signal to noise and structural similarity of two pictures."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["decibels", "psnr", "ssim", "ssim_field"]

Field = NDArray[np.float32]
# Wang, Bovik, Sheikh and Simoncelli 2004: window of 11 with a deviation of 1.5, K1 = 0.01, K2 = 0.03.
_WINDOW, _SIGMA, _MARGIN = (11, 11), 1.5, 5
_C1, _C2 = 0.01**2, 0.03**2


def psnr(first: Field, second: Field) -> float:
    """10 log10(1 / mean squared difference) in dB, values 0 to 1, any shape; infinite for equal ones."""
    return decibels(float(np.mean(np.square(first - second), dtype=np.float64)))


def decibels(error: float) -> float:
    """A mean squared difference of values 0 to 1 as peak signal to noise in dB; infinite for none."""
    return math.inf if error == 0 else -10 * math.log10(error)


def _mean(values: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(cv2.GaussianBlur(values, _WINDOW, _SIGMA, borderType=cv2.BORDER_REFLECT))


def ssim_field(first: Field, second: Field) -> Field:
    """Structural similarity at every texel of two grey pictures, shape (h, w), values 0 to 1 (Wang et al. 2004)."""
    # Variances are small differences of large numbers: floats of 32 bits would not do.
    x, y = first.astype(np.float64), second.astype(np.float64)
    a, b = _mean(x), _mean(y)
    aa, bb, ab = _mean(x * x) - a * a, _mean(y * y) - b * b, _mean(x * y) - a * b
    return (((2 * a * b + _C1) * (2 * ab + _C2)) / ((a * a + b * b + _C1) * (aa + bb + _C2))).astype(np.float32)


def ssim(first: Field, second: Field) -> float:
    """Mean structural similarity; of shape (h, w, c) the mean of its channels.

    The border of half a window is left out, unless the picture is no larger than that.
    """
    if first.ndim == 3:
        return float(np.mean([ssim(first[:, :, c], second[:, :, c]) for c in range(first.shape[2])]))
    field = ssim_field(first, second)
    inner = field[_MARGIN:-_MARGIN, _MARGIN:-_MARGIN]
    return float((inner if inner.size else field).mean(dtype=np.float64))
