"""Where green points, found from the pixels alone.

The slopes p = -nx/nz and q = -ny/nz of a surface are the derivatives of one height field, so dp/dy = dq/dx (vector
calculus; Frankot and Chellappa 1988). With green read the wrong way q changes its sign and the two derivatives oppose
each other. Their correlation is therefore near +1 for Y+, near -1 for Y-, and near 0 for a map that has no relief
across both axes, or that is no normal map.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from texel.image import Pixels, Texels
from texel.normals.vectors import decode
from texel.roles import Green, Role

__all__ = ["Direction", "disagreement", "find_direction"]

_WORKING_SIDE = 1024
_SHOWN_SIDE = 512
_SCALES = 4
# Slopes steeper than this come from vectors that lie nearly flat in the surface; they hold more noise than shape.
_STEEPEST = np.float32(4.0)
# Cross derivatives weaker than this, in slope per texel, are what 8-bit steps alone leave behind (half a step of
# 2/255, averaged over a 3 x 3 kernel).
_WEAKEST = 2e-4
# A generated map with relief reaches a correlation above 0.3 even at 8 bits; noise and colour pictures stay under 0.1.
_DECISIVE = 0.15
_CERTAIN = 0.5


@dataclass(frozen=True)
class Direction:
    """green: the finding. confidence: 0 to 1, 0 for unknown. correlation: -1 (Y-) to +1 (Y+), the evidence."""

    green: Green
    confidence: float
    correlation: float


def _cross_derivatives(p: Pixels, q: Pixels) -> tuple[Pixels, Pixels]:
    """dp/dy (y up the picture) and dq/dx by central differences, the borders left out."""
    dp_dy = (p[:-2, 1:-1] - p[2:, 1:-1]) * np.float32(0.5)
    dq_dx = (q[1:-1, 2:] - q[1:-1, :-2]) * np.float32(0.5)
    return dp_dy, dq_dx


def _halve(field: Pixels) -> Pixels:
    height, width = field.shape
    return cv2.resize(field, (max(1, width // 2), max(1, height // 2)), interpolation=cv2.INTER_AREA)


def find_direction(texels: Texels) -> Direction:
    """Green's direction in a normal map, with what speaks for it.

    Measured at up to four scales (each half of the one before), the most telling one decides: coarse scales are free of
    8-bit steps, fine ones hold the relief of rough surfaces. Flat maps, and relief along one axis only, are unknown.
    Raises MismatchedMaps for a grey picture.
    """
    vectors = decode(_reduced(texels))
    z = np.maximum(vectors[:, :, 2], np.float32(0.05))
    p: Pixels = np.clip(-vectors[:, :, 0] / z, -_STEEPEST, _STEEPEST)
    q: Pixels = np.clip(-vectors[:, :, 1] / z, -_STEEPEST, _STEEPEST)
    best = 0.0
    for _ in range(_SCALES):
        if min(p.shape) < 8:
            break
        correlation = _correlation(p, q)
        if abs(correlation) > abs(best):
            best = correlation
        p, q = _halve(p), _halve(q)
    if abs(best) < _DECISIVE:
        return Direction(Green.UNKNOWN, 0.0, best)
    confidence = min(1.0, 0.5 + 0.5 * (abs(best) - _DECISIVE) / (_CERTAIN - _DECISIVE))
    return Direction(Green.UP if best > 0 else Green.DOWN, confidence, best)


def disagreement(texels: Texels, green: Green) -> Pixels:
    """How much each place of a normal map speaks against ``green`` being right, shape (h, w), 0 for not at all.

    The product of the two derivatives where they oppose each other, on a map reduced to at most 512 texels a side.
    """
    vectors = decode(_reduced(texels, _SHOWN_SIDE))
    z = np.maximum(vectors[:, :, 2], np.float32(0.05))
    p: Pixels = np.clip(-vectors[:, :, 0] / z, -_STEEPEST, _STEEPEST)
    q: Pixels = np.clip(-vectors[:, :, 1] / z, -_STEEPEST, _STEEPEST)
    dp_dy, dq_dx = _cross_derivatives(p, q)
    agreement = dp_dy * dq_dx * (1 if green is Green.UP else -1)
    made: Pixels = cv2.blur(np.sqrt(np.maximum(-agreement, 0)), (5, 5))
    return made


def _reduced(texels: Texels, side: int = _WORKING_SIDE) -> Texels:
    if texels.role is not Role.NORMAL:
        texels = texels.as_role(Role.NORMAL, texels.green)
    longest = max(texels.width, texels.height)
    if longest <= side:
        return texels
    share = side / longest
    size = (max(8, round(texels.width * share)), max(8, round(texels.height * share)))
    return texels.with_pixels(cv2.resize(texels.pixels, size, interpolation=cv2.INTER_AREA))


def _correlation(p: Pixels, q: Pixels) -> float:
    dp_dy, dq_dx = _cross_derivatives(p, q)
    p_energy = float(np.mean(np.square(dp_dy), dtype=np.float64))
    q_energy = float(np.mean(np.square(dq_dx), dtype=np.float64))
    if min(p_energy, q_energy) < _WEAKEST**2:
        return 0.0
    count = dp_dy.size
    correlation = float(np.mean(dp_dy * dq_dx, dtype=np.float64)) / np.sqrt(p_energy * q_energy)
    # Of unrelated values a correlation of 1/sqrt(n) is mere chance; four times that is not.
    return float(correlation) if abs(correlation) > 4 / np.sqrt(count) else 0.0
