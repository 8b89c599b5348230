"""How far apart two colours look: CIEDE2000 (Sharma, Wu and Dalal 2005)."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["ciede2000", "lab_of_linear"]

Lab = NDArray[np.float32]


def lab_of_linear(colour: NDArray[np.float32]) -> Lab:
    """Linear light to CIE L*a*b*.

    colour: shape (h, w, 3), BT.709 primaries, 0 to 1. Returns the same shape: L* 0 to 100, a* and b* about -128 to 127;
    white D65. Reference: CIE 15:2004, 8.2.1; by OpenCV's conversion.

    >>> lab_of_linear(np.ones((1, 1, 3), np.float32)).round().tolist()
    [[[100.0, 0.0, 0.0]]]
    """
    return np.asarray(cv2.cvtColor(np.ascontiguousarray(colour, np.float32), cv2.COLOR_LRGB2Lab))


def _hue(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.degrees(np.arctan2(b, a)) % 360


def ciede2000(first: Lab, second: Lab) -> NDArray[np.float32]:
    """CIEDE2000 difference of colours.

    first, second: CIE L*a*b*, shape (..., 3). Returns shape (...), 0 for equal colours, 100 from black to white; about
    1 is the least that an eye sees. Symmetric, but no distance: it need not add up along a line.

    Reference: Sharma, Wu and Dalal 2005, "The CIEDE2000 Color-Difference Formula", equations 2 to 22, whose names and
    order the terms follow; all weights (kL, kC, kH) are 1.

    >>> black, white = np.array([[0.0, 0, 0]]), np.array([[100.0, 0, 0]])
    >>> ciede2000(black, white).round(3).tolist(), ciede2000(black, black).tolist()
    ([100.0], [0.0])
    """
    l1, a1, b1 = np.moveaxis(first.astype(np.float64), -1, 0)
    l2, a2, b2 = np.moveaxis(second.astype(np.float64), -1, 0)
    mean_c7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    g = 0.5 * (1 - np.sqrt(mean_c7 / (mean_c7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = _hue(a1, b1), _hue(a2, b2)
    coloured = c1 * c2 > 0
    turn = np.where(coloured, (h2 - h1 + 180) % 360 - 180, 0)
    # Exactly opposite hues: the paper takes +180.
    turn = np.where(turn == -180, 180, turn)
    delta_l, delta_c = l2 - l1, c2 - c1
    delta_h = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn / 2))
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    apart = np.abs(h1 - h2) > 180
    h_mean = np.where(apart, np.where(h1 + h2 < 360, (h1 + h2 + 360) / 2, (h1 + h2 - 360) / 2), (h1 + h2) / 2)
    h_mean = np.where(coloured, h_mean, h1 + h2)

    def cosine(degrees: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.cos(np.radians(degrees))

    t = (
        1
        - 0.17 * cosine(h_mean - 30)
        + 0.24 * cosine(2 * h_mean)
        + 0.32 * cosine(3 * h_mean + 6)
        - 0.20 * cosine(4 * h_mean - 63)
    )
    rotation = 30 * np.exp(-(((h_mean - 275) / 25) ** 2))
    c7 = c_mean**7
    r_c = 2 * np.sqrt(c7 / (c7 + 25.0**7))
    l50 = (l_mean - 50) ** 2
    s_l = 1 + 0.015 * l50 / np.sqrt(20 + l50)
    s_c, s_h = 1 + 0.045 * c_mean, 1 + 0.015 * c_mean * t
    r_t = -np.sin(np.radians(2 * rotation)) * r_c
    l_term, c_term, h_term = delta_l / s_l, delta_c / s_c, delta_h / s_h
    squared = l_term**2 + c_term**2 + h_term**2 + r_t * c_term * h_term
    made: NDArray[np.float32] = np.sqrt(np.maximum(squared, 0)).astype(np.float32)
    return made
