"""Another size without the usual damage: colour in linear light, normals at unit length."""

from __future__ import annotations

import cv2
import numpy as np

from texel.colour import encode_srgb, srgb_to_unit_linear
from texel.image import Texels, narrow, to_unit
from texel.normals.vectors import renormalise
from texel.roles import Role, Transfer

__all__ = ["nearest_power_of_two", "reduced", "resize", "resized_floats"]


def nearest_power_of_two(side: int) -> int:
    """The power of two nearest to a side in texels; of two equally near the larger.

    >>> nearest_power_of_two(1000), nearest_power_of_two(768), nearest_power_of_two(512)
    (1024, 1024, 512)
    """
    below = 1 << (side.bit_length() - 1)
    return below if side - below < 2 * below - side else 2 * below


def reduced(texels: Texels, side: int) -> Texels:
    """The picture with its longest side at most ``side`` texels: means of stored numbers, good enough to look at."""
    share = side / max(texels.width, texels.height)
    if share >= 1:
        return texels
    size = (max(1, round(texels.width * share)), max(1, round(texels.height * share)))
    pixels = cv2.resize(texels.pixels, size, interpolation=cv2.INTER_AREA)
    return texels.with_pixels(pixels.reshape(size[1], size[0], -1))


def resize(texels: Texels, width: int, height: int, method: str = "auto") -> Texels:
    """The same picture at ``width`` x ``height`` texels, at its own depth.

    method: "area" (means), "lanczos" (a = 4), or "auto": area when smaller, Lanczos when larger. sRGB colour is
    averaged in linear light; normal maps are renormalised; alpha and data as they are.
    """
    if (width, height) == (texels.width, texels.height):
        return texels
    floats = resized_floats(texels, width, height, method)
    return floats.with_pixels(narrow(floats.pixels, texels.pixels.dtype))


def resized_floats(texels: Texels, width: int, height: int, method: str = "auto") -> Texels:
    """As resize, but in floats, full scale 1, in the map's own colour space, not rounded."""
    smaller = width <= texels.width and height <= texels.height
    area = smaller if method == "auto" else method == "area"
    count = len(texels.channels) - (1 if texels.has_alpha else 0)
    colour = texels.transfer is Transfer.SRGB
    values = to_unit(texels.pixels)
    if colour and count == len(texels.channels):
        values = srgb_to_unit_linear(texels.pixels)
    elif colour:
        values = values.copy() if values is texels.pixels else values
        values[:, :, :count] = srgb_to_unit_linear(texels.pixels[:, :, :count])
    filter_ = cv2.INTER_AREA if area else cv2.INTER_LANCZOS4
    values = np.asarray(cv2.resize(values, (width, height), interpolation=filter_), np.float32).reshape(
        height, width, -1
    )
    if colour:
        values[:, :, :count] = encode_srgb(np.clip(values[:, :, :count], 0, 1))
    resized = texels.with_pixels(values)
    return renormalise(resized) if texels.role is Role.NORMAL and count == 3 else resized
