"""A normal map from a height field."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.roles import Green

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
    dx, dy = slopes(height * np.float32(strength), kernel, wrap)
    sign = -1 if green is Green.DOWN else 1
    vectors = np.stack([-dx, -dy * np.float32(sign), np.ones_like(dx)], axis=2)
    return vectors / np.linalg.norm(vectors, axis=2, keepdims=True)
