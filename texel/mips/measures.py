"""What plain averaging loses, in the measure that fits the map."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from texel.colour import luminance, srgb_to_unit_linear
from texel.image import Texels, to_unit
from texel.mips.chain import CUT_OFF, Chain
from texel.mips.coverage import coverage
from texel.normals.vectors import decode, lengths
from texel.roles import Role, Transfer

__all__ = ["compare_chains"]


def _mean(texels: Texels) -> float:
    return float(to_unit(texels.pixels[:, :, :1]).mean(dtype=np.float64))


def _mean_length(texels: Texels) -> float:
    return float(lengths(decode(texels)).mean(dtype=np.float64))


def _mean_light(texels: Texels) -> float:
    light = srgb_to_unit_linear(texels.pixels[:, :, : len(texels.channels) - texels.has_alpha])
    return float((luminance(light) if light.shape[2] == 3 else light).mean(dtype=np.float64))


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
