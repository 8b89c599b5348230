"""Colours given in other primaries than sRGB's, and how to bring them over."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.image import REC709

__all__ = ["PRIMARIES", "conversion", "name_of"]

Chromaticities = tuple[float, ...]
Matrix = NDArray[np.float64]
# x and y of red, green, blue and white. BT.709, BT.2020, P3: ITU-T H.273; AP1: Academy S-2014-004;
# AP0: SMPTE ST 2065-1.
PRIMARIES: dict[str, Chromaticities] = {
    "rec709": REC709,
    "rec2020": (0.708, 0.292, 0.170, 0.797, 0.131, 0.046, 0.3127, 0.3290),
    "p3_d65": (0.680, 0.320, 0.265, 0.690, 0.150, 0.060, 0.3127, 0.3290),
    "p3_dci": (0.680, 0.320, 0.265, 0.690, 0.150, 0.060, 0.314, 0.351),
    "ap1": (0.713, 0.293, 0.165, 0.830, 0.128, 0.044, 0.32168, 0.33767),
    "ap0": (0.7347, 0.2653, 0.0, 1.0, 0.0001, -0.077, 0.32168, 0.33767),
}
# Files round to three or four digits.
_SAME = 0.0015
# Bradford: cone responses for adaptation to another white (Lam 1985; ICC.1:2022, annex E).
_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


def name_of(chromaticities: Chromaticities) -> str | None:
    """The name of a set of primaries among PRIMARIES, or None.

    >>> name_of((0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329))
    'rec709'
    """
    for name, known in PRIMARIES.items():
        if max(abs(a - b) for a, b in zip(known, chromaticities, strict=True)) < _SAME:
            return name
    return None


def _xyz_of(x: float, y: float) -> NDArray[np.float64]:
    return np.array([x / y, 1.0, (1 - x - y) / y])


def _to_xyz(chromaticities: Chromaticities) -> Matrix:
    """Linear RGB to XYZ, white at Y = 1 (SMPTE RP 177)."""
    x, y = np.array(chromaticities[0:6:2]), np.array(chromaticities[1:6:2])
    columns = np.array([x, y, 1 - x - y])
    return columns * np.linalg.solve(columns, _xyz_of(*chromaticities[6:8]))


def conversion(source: Chromaticities, to: Chromaticities = REC709) -> Matrix:
    """The 3 x 3 matrix from linear RGB in one set of primaries to another, whites adapted by Bradford.

    >>> conversion(PRIMARIES["rec2020"]).round(3).tolist()[0]
    [1.66, -0.588, -0.073]
    """
    white, wanted = (_BRADFORD @ _xyz_of(*one[6:8]) for one in (source, to))
    adapt = np.linalg.inv(_BRADFORD) @ np.diag(wanted / white) @ _BRADFORD
    made: Matrix = np.linalg.inv(_to_xyz(to)) @ adapt @ _to_xyz(source)
    return made
