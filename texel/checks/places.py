"""Where in a map to look."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.checks.finding import Place
from texel.image import Texels

__all__ = ["strongest", "whole"]

_WINDOW = 64


def whole(texels: Texels, channel: str | None = None) -> Place:
    return Place(0, 0, texels.width, texels.height, channel)


def strongest(amount: NDArray[np.floating] | NDArray[np.bool_], texels: Texels, channel: str | None = None) -> Place:
    """The window of 64 texels a side where the mean of ``amount``, a field over the same picture, is largest.

    The field may be smaller than the picture.
    """
    scale = max(texels.width, texels.height) / max(amount.shape)
    side = max(1, min(round(_WINDOW / scale), *amount.shape))
    grid = (max(1, amount.shape[1] // side), max(1, amount.shape[0] // side))
    mean = cv2.resize(np.asarray(amount, np.float32), grid, interpolation=cv2.INTER_AREA).reshape(grid[1], grid[0])
    row, column = np.unravel_index(int(mean.argmax()), mean.shape)
    window = max(1, round(side * scale))
    return Place(round(column * side * scale), round(row * side * scale), window, window, channel)
