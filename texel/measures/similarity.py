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
    """Peak signal to noise: 10 log10(1 / mean squared difference).

    first, second: of one shape, 0 to 1. Returns decibels, 0 for black against white; infinite for equal ones.
    Reference: the usual definition (ITU-T J.340, from memory), with 1 as peak; tested against scikit-image.

    >>> round(psnr(np.zeros((2, 2), np.float32), np.full((2, 2), 0.1, np.float32)), 3)
    20.0
    """
    return decibels(float(np.mean(np.square(first - second), dtype=np.float64)))


def decibels(error: float) -> float:
    """A mean squared difference of values 0 to 1 as peak signal to noise in dB; infinite for none.

    >>> decibels(0.001), decibels(0)
    (30.0, inf)
    """
    return math.inf if error == 0 else -10 * math.log10(error)


def _mean(values: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(cv2.GaussianBlur(values, _WINDOW, _SIGMA, borderType=cv2.BORDER_REFLECT))


def ssim_field(first: Field, second: Field) -> Field:
    """Structural similarity at every texel of two grey pictures.

    first, second: shape (h, w), 0 to 1. Returns shape (h, w), -1 to 1; 1 where both are equal. Reference: Wang, Bovik,
    Sheikh and Simoncelli 2004, equation 13, with its Gaussian window of 11 texels (sigma 1.5), K1 0.01 and K2 0.03.
    """
    # Variances are small differences of large numbers: floats of 32 bits would not do.
    x, y = first.astype(np.float64), second.astype(np.float64)
    a, b = _mean(x), _mean(y)
    aa, bb, ab = _mean(x * x) - a * a, _mean(y * y) - b * b, _mean(x * y) - a * b
    return (((2 * a * b + _C1) * (2 * ab + _C2)) / ((a * a + b * b + _C1) * (aa + bb + _C2))).astype(np.float32)


def ssim(first: Field, second: Field) -> float:
    """Mean structural similarity; of shape (h, w, c) the mean of its channels.

    first, second: 0 to 1. Returns -1 to 1, 1 for equal pictures. The border of half a window is left out, unless the
    picture is no larger than that. Reference: as ssim_field.

    >>> grey = np.linspace(0, 1, 400, dtype=np.float32).reshape(20, 20)
    >>> ssim(grey, grey)
    1.0
    """
    if first.ndim == 3:
        return float(np.mean([ssim(first[:, :, c], second[:, :, c]) for c in range(first.shape[2])]))
    field = ssim_field(first, second)
    inner = field[_MARGIN:-_MARGIN, _MARGIN:-_MARGIN]
    return float((inner if inner.size else field).mean(dtype=np.float64))
