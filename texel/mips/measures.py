"""What plain averaging loses, in the measure that fits the map."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from texel.colour import luminance, srgb_to_unit_linear
from texel.image import Pixels, Texels, to_unit
from texel.mips.chain import CUT_OFF, Chain
from texel.mips.coverage import coverage
from texel.normals.vectors import decode, lengths
from texel.roles import Role, Transfer

__all__ = ["compare_chains"]

# Texels of a strip of rows.
_STRIP = 1 << 18


def _mean_of(texels: Texels, field: Callable[[Texels], Pixels]) -> float:
    """The mean of a field of the picture, made some rows at a time."""
    rows = max(1, _STRIP // texels.width)
    total = 0.0
    for top in range(0, texels.height, rows):
        total += float(field(texels.with_pixels(texels.pixels[top : top + rows])).sum(dtype=np.float64))
    return total / (texels.width * texels.height)


def _mean(texels: Texels) -> float:
    return _mean_of(texels, lambda part: to_unit(part.pixels[:, :, :1]))


def _mean_length(texels: Texels) -> float:
    return _mean_of(texels, lambda part: lengths(decode(part)))


def _mean_light(texels: Texels) -> float:
    def light(part: Texels) -> Pixels:
        linear = srgb_to_unit_linear(part.pixels[:, :, : len(part.channels) - part.has_alpha])
        return luminance(linear) if linear.shape[2] == 3 else linear

    return _mean_of(texels, light)


def _measure(texels: Texels, cut_off: float) -> tuple[str, Callable[[Texels], float]]:
    if texels.role is Role.NORMAL:
        return "mean length of the vectors", _mean_length
    if texels.role is Role.OPACITY:
        return f"share at or above {cut_off:g}", lambda one: coverage(to_unit(one.pixels[:, :, 0]), cut_off)
    if texels.transfer is Transfer.SRGB:
        if texels.has_alpha:
            return f"share of alpha at or above {cut_off:g}", lambda one: coverage(to_unit(one.channel("a")), cut_off)
        return "mean of linear luminance", _mean_light
    return "mean value", _mean


def compare_chains(right: Chain, naive: Chain, cut_off: float = CUT_OFF) -> dict[str, Any]:
    """Two chains of one map, level by level, as a document.

    measure: what is compared, in words; levels: number, width, height, right and naive of each. Normals: the mean
    length of the stored vectors (1 is sound). Colour: mean linear luminance, or, with alpha, its coverage. Opacity:
    coverage. Else the mean, 0 to 1.
    """
    words, measure = _measure(right[0], cut_off)
    levels = [
        {
            "level": number,
            "width": one.width,
            "height": one.height,
            "right": round(measure(one), 5),
            "naive": round(measure(other), 5),
        }
        for number, (one, other) in enumerate(zip(right, naive, strict=True))
    ]
    return {"measure": words, "levels": levels}
