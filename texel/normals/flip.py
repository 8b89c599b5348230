"""Flip green: Y+ becomes Y- and back."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from texel.errors import MismatchedMaps
from texel.image import Texels, full_scale
from texel.roles import Green, Role

__all__ = ["flip_green"]

_OPPOSITE = {Green.UP: Green.DOWN, Green.DOWN: Green.UP}


def flip_green(texels: Texels) -> Texels:
    """Green inverted; every other channel untouched.

    Full scale minus value; of integers exact, so that flipping twice gives the same bytes. The stored direction, where
    known, changes with it.
    Raises MismatchedMaps for a grey picture.
    """
    if "g" not in texels.channels:
        raise MismatchedMaps("{texels} is a grey picture; it has no green channel to flip", texels=texels.name)
    if texels.role is not Role.NORMAL and texels.pixels.dtype == np.float32:
        texels = texels.as_role(Role.NORMAL, texels.green)
    at = texels.channels.index("g")
    pixels = texels.pixels.copy()
    top = np.asarray(full_scale(pixels.dtype), pixels.dtype)
    np.subtract(top, pixels[:, :, at], out=pixels[:, :, at])
    flipped = texels.with_pixels(pixels)
    return replace(flipped, green=_OPPOSITE.get(texels.green, texels.green) if texels.green else None)
