"""Bumps too small for a level become roughness there (Toksvig 2005)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["roughened"]

Field = NDArray[np.float32]
_SHORTEST = np.float32(1e-4)


def roughened(roughness: Field, length: Field) -> Field:
    """Roughness, 0 to 1, of a texel whose normals were averaged to a vector of ``length``, 0 to 1. Any shape.

    Toksvig 2005 ("Mipmapping Normal Maps") shortens the specular power s to s' = L s / (L + s (1 - L)), that is
    1/s' = 1/s + (1 - L)/L. With s = 2/a^2 - 2 for a = roughness^2 (Walter et al. 2007, the width of a microfacet lobe
    as a power) the new width follows. L = 1 leaves the roughness as it is.

    >>> [round(float(one), 3) for one in roughened(np.float32([0.5, 0.2]), np.float32([1.0, 0.9]))]
    [0.5, 0.654]
    """
    squared = np.minimum(roughness.astype(np.float32) ** 4, np.float32(1))
    length = np.clip(length, _SHORTEST, 1)
    with np.errstate(divide="ignore"):
        inverse_power = squared / (2 - 2 * squared) + (1 - length) / length
    # 2 t / (1 + 2 t), written so that an endless t gives 1.
    widened = np.where(np.isinf(inverse_power), 1, 1 - 1 / (1 + 2 * inverse_power))
    return np.asarray(np.maximum(roughness, widened**0.25), np.float32)
