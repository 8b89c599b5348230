"""Where a set's texels are used at all: padding around the islands of an unwrapped model holds no surface."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.image import Texels, to_unit
from texel.resize import reduced

__all__ = ["padding_of"]

_SIDE = 256
# Padding is one flat value over a good part of the picture; painted surfaces hardly ever repeat a value so often.
_LEAST, _MOST = 0.04, 0.95


def padding_of(texels: Texels) -> NDArray[np.bool_] | None:
    """Where a picture is nothing but one flat value, shape (h, w) at 256 texels a side at most; None where no value
    fills as much as a twenty-fifth of it.

    Only areas count, no single texels of the value: it must fill squares of 3 x 3.
    """
    small = reduced(texels, _SIDE)
    stored = (to_unit(small.pixels)[:, :, :3] * 255 + 0.5).astype(np.int64)
    codes = stored[:, :, 0]
    for at in range(1, stored.shape[2]):
        codes = codes * 256 + stored[:, :, at]
    values, counts = np.unique(codes, return_counts=True)
    mode = values[counts.argmax()]
    filled = cv2.morphologyEx((codes == mode).astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
    share = float(filled.mean())
    return filled if _LEAST <= share <= _MOST else None
