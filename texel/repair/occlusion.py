"""Occlusion that was multiplied into the base colour, taken out again. An estimate: what was black stays unknown."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["remove_occlusion"]

# Below this, dividing makes more noise than colour.
_DARKEST = 0.15


def remove_occlusion(
    colour: NDArray[np.float32], occlusion: NDArray[np.float32], strength: float = 1.0
) -> NDArray[np.float32]:
    """Linear colour, shape (h, w, 3), 0 to 1, divided by mix(1, occlusion, strength); occlusion of shape (h, w).

    The mix is glTF 2.0's occlusion strength. Divisors are held above 0.15 and the result below 1.
    """
    divisor = np.maximum(1 + np.float32(strength) * (occlusion - 1), np.float32(_DARKEST))
    made: NDArray[np.float32] = np.minimum(colour / divisor[:, :, None], np.float32(1))
    return made
