"""Height and roughness from one colour picture. What a photo cannot tell is set by hand; nothing here is measured."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.filters import blur

__all__ = ["height_from_luminance", "roughness_from_luminance"]

Field = NDArray[np.float32]


def _stretched(field: Field) -> Field:
    """0 to 1 between the 0.5th and the 99.5th percentile; a plain field becomes 0.5."""
    low, high = np.percentile(field, [0.5, 99.5])
    if high - low < 1e-6:
        return np.full_like(field, 0.5)
    return np.clip((field - low) / (high - low), 0, 1).astype(np.float32)


def height_from_luminance(luminance: Field, fine: float = 0.5, broad: float = 1.0, flatten: float = 0.1) -> Field:
    """A height, 0 to 1, shape (h, w), that takes bright for high.

    luminance: perceived lightness, 0 to 1. Bands of detail, each twice as wide as the one before, are summed with
    weights between ``fine`` (the narrowest) and ``broad`` (the widest); what is wider than ``flatten`` (share of the
    side) is taken for light and left out.
    """
    side = max(luminance.shape)
    widest = max(2.0, flatten * side)
    left = luminance.astype(np.float32)
    total = np.zeros_like(left)
    sigmas = [s for s in (2.0**n for n in range(12)) if s < widest] + [widest]
    for index, sigma in enumerate(sigmas):
        smooth = blur(left, sigma)
        share = index / max(1, len(sigmas) - 1)
        total += (left - smooth) * np.float32(fine + (broad - fine) * share)
        left = smooth
    return _stretched(total)


def roughness_from_luminance(
    luminance: Field, level: float = 0.6, variation: float = 0.3, invert: bool = False
) -> Field:
    """A roughness, 0 to 1: ``level`` plus ``variation`` times the picture's detail, bright being smoother."""
    detail = _stretched(luminance - blur(luminance, max(2.0, 0.05 * max(luminance.shape))))
    detail -= detail.mean()
    sign = 1 if invert else -1
    return np.clip(level + sign * variation * detail, 0, 1).astype(np.float32)
