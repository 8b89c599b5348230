"""Where in a map to look: a rectangle, and a small picture of how much is wrong where."""

from __future__ import annotations

import base64
from dataclasses import dataclass

import cv2
import imagecodecs
import numpy as np
from numpy.typing import NDArray

from texel.image import Texels

__all__ = ["Amount", "Place", "marks_of", "strongest", "whole"]

Amount = NDArray[np.floating] | NDArray[np.bool_]
_WINDOW = 64
_MARKS_SIDE = 128


@dataclass(frozen=True)
class Place:
    """Where to look in the map: a rectangle in texels, and one channel's letter, if the finding is about one."""

    x: int
    y: int
    width: int
    height: int
    channel: str | None = None


def whole(texels: Texels, channel: str | None = None) -> Place:
    return Place(0, 0, texels.width, texels.height, channel)


def strongest(amount: Amount, texels: Texels, channel: str | None = None) -> Place:
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


def marks_of(amount: Amount) -> str:
    """``amount``, a field over the whole picture, as a PNG of at most 128 pixels a side, base64.

    White pixels whose alpha is the amount, 0 for none, 255 for the most that there is; to be laid over the map.
    """
    field = np.maximum(np.asarray(amount, np.float32), 0)
    share = min(1.0, _MARKS_SIDE / max(field.shape))
    size = (max(1, round(field.shape[1] * share)), max(1, round(field.shape[0] * share)))
    small = cv2.resize(field, size, interpolation=cv2.INTER_AREA).reshape(size[1], size[0])
    alpha = np.clip(small / max(float(np.percentile(small, 99.5)), float(small.max()) / 4, 1e-9), 0, 1)
    pixels = np.dstack([np.full(alpha.shape, 255, np.uint8), np.round(alpha * 255).astype(np.uint8)])
    return base64.b64encode(imagecodecs.png_encode(pixels, level=9)).decode("ascii")
