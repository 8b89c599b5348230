"""A normal map from a height field."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.roles import Green
from texel.strips import by_rows

__all__ = ["Kernel", "normals_from_height", "slopes"]

Kernel = Literal["sobel", "scharr", "wide"]
# Smoothing weights across the derivative: Sobel 1968 (1-2-1), Scharr 2000 (3-10-3), and for "wide" the 5 x 5 kernel
# that the same binomials give; divided by their sum, so that a ramp of one per texel has the slope one.
_SMOOTHING = {
    "sobel": np.array([1, 2, 1], np.float32) / 4,
    "scharr": np.array([3, 10, 3], np.float32) / 16,
    "wide": np.array([1, 4, 6, 4, 1], np.float32) / 16,
}
_CENTRAL = np.array([-1, 0, 1], np.float32) / 2
_DIFFERENCE = {"sobel": _CENTRAL, "scharr": _CENTRAL, "wide": np.array([-1, -2, 0, 2, 1], np.float32) / 8}


def slopes(height: NDArray[np.float32], kernel: Kernel = "sobel", wrap: bool = True):
    """dh/dx (to the right) and dh/dy (up the picture) of a height field, shape (h, w), in its unit a texel.

    wrap: neighbours beyond the border are taken from the other side, else the border is repeated.
    """
    smooth, difference = _SMOOTHING[kernel], _DIFFERENCE[kernel]
    reach = len(smooth) // 2
    inside = slice(reach, -reach)
    padded = np.pad(height.astype(np.float32), reach, mode="wrap" if wrap else "edge")
    dx = cv2.sepFilter2D(padded, cv2.CV_32F, difference, smooth)[inside, inside]
    down = cv2.sepFilter2D(padded, cv2.CV_32F, smooth, difference)[inside, inside]
    return dx, -down


def normals_from_height(
    height: NDArray[np.float32],
    strength: float = 1.0,
    green: Green = Green.UP,
    kernel: Kernel = "sobel",
    wrap: bool = True,
) -> NDArray[np.float32]:
    """Unit vectors, shape (h, w, 3), of the surface z = strength * height, with x and y in texels.

    n = (-dh/dx, -dh/dy, 1) normalised; with ``green`` down y is negated.
    """
    sign = np.float32(-1 if green is Green.DOWN else 1)

    def vectors(slope: NDArray[np.float32]) -> NDArray[np.float32]:
        z = np.einsum("hwc,hwc->hw", slope, slope)
        z += 1
        np.sqrt(z, out=z)
        np.divide(1, z, out=z)
        found = np.empty((*z.shape, 3), np.float32)
        np.multiply(slope[:, :, 0], -z, out=found[:, :, 0])
        np.multiply(slope[:, :, 1], -sign * z, out=found[:, :, 1])
        found[:, :, 2] = z
        return found

    dx, dy = slopes(height * np.float32(strength), kernel, wrap)
    return by_rows(vectors, cv2.merge([dx, dy]))
