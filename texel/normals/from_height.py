"""A normal map from a height field."""

from __future__ import annotations

from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.image import Pixels, to_unit
from texel.planes import Plane, joined
from texel.roles import Green
from texel.strips import filled, rows_around

__all__ = ["REACH", "Kernel", "normal_planes", "normals_from_height", "slopes"]

Kernel = Literal["sobel", "scharr", "wide"]
# Texels to each side that the widest kernel reads.
REACH = 2
# Smoothing weights across the derivative: Sobel 1968 (1-2-1), Scharr 2000 (3-10-3), and for "wide" the 5 x 5 kernel
# that the same binomials give; divided by their sum, so that a ramp of one per texel has the slope one.
_SMOOTHING = {
    "sobel": np.array([1, 2, 1], np.float32) / 4,
    "scharr": np.array([3, 10, 3], np.float32) / 16,
    "wide": np.array([1, 4, 6, 4, 1], np.float32) / 16,
}
_CENTRAL = np.array([-1, 0, 1], np.float32) / 2
_DIFFERENCE = {"sobel": _CENTRAL, "scharr": _CENTRAL, "wide": np.array([-1, -2, 0, 2, 1], np.float32) / 8}


def slopes(height: Pixels, kernel: Kernel = "sobel", wrap: bool = True, rows: slice | None = None) -> Any:
    """dh/dx (to the right) and dh/dy (up the picture) of a height field, shape (h, w), in its unit a texel.

    height: floats, or integers, of which full scale is 1. wrap: neighbours beyond the border are taken from the other
    side, else the border is repeated. rows: only these.
    """
    smooth, difference = _SMOOTHING[kernel], _DIFFERENCE[kernel]
    reach = len(smooth) // 2
    inside = slice(reach, -reach)
    some = rows_around(height, rows or slice(0, len(height)), reach, wrap)
    border = cv2.BORDER_WRAP if wrap else cv2.BORDER_REPLICATE
    padded = cv2.copyMakeBorder(to_unit(some), 0, 0, reach, reach, border)
    dx = cv2.sepFilter2D(padded, cv2.CV_32F, difference, smooth)[inside, inside]
    down = cv2.sepFilter2D(padded, cv2.CV_32F, smooth, difference)[inside, inside]
    return dx, -down


def normals_from_height(
    height: Pixels,
    strength: float = 1.0,
    green: Green = Green.UP,
    kernel: Kernel = "sobel",
    wrap: bool = True,
) -> NDArray[np.float32]:
    """Unit vectors, shape (h, w, 3), of the surface z = strength * height, with x and y in texels.

    n = (-dh/dx, -dh/dy, 1) normalised; with ``green`` down y is negated. height: as slopes takes it.
    """
    return filled(
        (*height.shape, 3), np.dtype(np.float32),
        lambda rows: joined(*normal_planes(height, rows, strength, green, kernel, wrap)), REACH,
    )  # fmt: skip


def normal_planes(
    height: Pixels, rows: slice, strength: float, green: Green, kernel: Kernel, wrap: bool
) -> tuple[Plane, Plane, Plane]:
    """Some rows of normals_from_height: x, y and z, each of shape (rows, w)."""
    dx, dy = slopes(height, kernel, wrap, rows)
    dx *= np.float32(-strength)
    dy *= np.float32(strength if green is Green.DOWN else -strength)
    z = dx * dx
    z += dy * dy
    z += 1
    np.sqrt(z, out=z)
    np.divide(1, z, out=z)
    return np.multiply(dx, z, out=dx), np.multiply(dy, z, out=dy), z
