"""Another size without the usual damage: colour in linear light, normals at unit length."""

from __future__ import annotations

import cv2
import numpy as np

from texel.colour import srgb_to_unit_linear, store_srgb
from texel.image import Pixels, Texels, narrow, to_unit
from texel.normals.vectors import renormalise
from texel.roles import Role, Transfer

__all__ = ["resize"]


def resize(texels: Texels, width: int, height: int) -> Texels:
    """The same picture at ``width`` x ``height`` texels: area means when smaller, Lanczos (a = 4) when larger.

    sRGB colour is averaged in linear light; normal maps are renormalised; alpha and data as they are.
    """
    if (width, height) == (texels.width, texels.height):
        return texels
    colour = texels.transfer is Transfer.SRGB and texels.pixels.dtype != np.float32
    values: Pixels = to_unit(texels.pixels).copy() if colour else to_unit(texels.pixels)
    count = len(texels.channels) - (1 if texels.has_alpha else 0)
    if colour:
        values[:, :, :count] = srgb_to_unit_linear(texels.pixels[:, :, :count])
    smaller = width <= texels.width and height <= texels.height
    method = cv2.INTER_AREA if smaller else cv2.INTER_LANCZOS4
    values = cv2.resize(values, (width, height), interpolation=method).reshape(height, width, -1)
    dtype = texels.pixels.dtype
    pixels = narrow(values, dtype)
    if colour:
        pixels[:, :, :count] = store_srgb(values[:, :, :count], dtype)
    resized = texels.with_pixels(pixels)
    return renormalise(resized) if texels.role is Role.NORMAL and count == 3 else resized
