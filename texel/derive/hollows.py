"""Hollows of a height field whose relief nobody knows: how far each place lies below its surroundings."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.filters import blur

__all__ = ["shade_of_hollows"]


def shade_of_hollows(height: NDArray[np.float32], strength: float = 1.0, reach: float = 0.05, wrap: bool = True) -> Any:
    """Openness, 0 (closed) to 1 (open), shape (h, w), of a height field, 0 to 1.

    The depth below the blurred surroundings is summed over four widths up to ``reach`` (share of the side). It ranks
    hollows, however deep they are; texel.derive.occlusion measures what light gets into them.
    """
    side = max(height.shape)
    depth = np.zeros_like(height, np.float32)
    for share in (0.125, 0.25, 0.5, 1.0):
        depth += np.maximum(0, blur(height, max(0.7, reach * share * side), wrap) - height)
    return np.clip(1 - np.float32(2 * strength) * depth, 0, 1).astype(np.float32)
