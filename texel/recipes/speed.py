"""Ways to the same result with less work: tables for curves, strips for steps that look at one texel at a time."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.image import Pixels, Texels, full_scale, narrow
from texel.recipes.step import Step
from texel.strips import by_rows

__all__ = ["by_strips", "by_table"]


def by_table(texels: Texels, steps: Iterable[Step], depth: np.dtype[Any] | None) -> Texels:
    """Steps that are curves on integers: once for each value there is, not for each texel. Alpha stays as it is.

    depth: that of the result; None leaves floats, full scale 1.
    """
    dtype = texels.pixels.dtype
    values: NDArray[np.float64] = np.arange(int(full_scale(dtype)) + 1) / full_scale(dtype)
    same = values
    for step in steps:
        assert step.curve is not None, "only curves come here"
        values = step.curve(values)
    tables = [_stored(values, depth), _stored(same, depth)]
    count = len(texels.channels.removesuffix("a")) or 1
    if count == texels.pixels.shape[2]:
        return replace(texels, pixels=_looked_up(tables[0], texels.pixels))
    colours = _looked_up(tables[0], np.ascontiguousarray(texels.pixels[:, :, :count]))
    alpha = _looked_up(tables[1], np.ascontiguousarray(texels.pixels[:, :, count:]))
    return replace(texels, pixels=np.concatenate([colours, alpha], axis=2))


def _stored(values: NDArray[np.float64], depth: np.dtype[Any] | None) -> Pixels:
    return values.astype(np.float32) if depth is None else narrow(values, depth)


def _looked_up(table: Pixels, pixels: Pixels) -> Pixels:
    if pixels.dtype == np.uint8:
        return cv2.LUT(pixels, table).reshape(pixels.shape)
    return table[pixels]


def by_strips(texels: Texels, apply: Callable[[Texels], Texels], depth: np.dtype[Any] | None) -> Texels:
    """``apply``, which turns integers into floats texel by texel, on strips of rows over all cores.

    depth: that of the result; None leaves floats.
    """

    # What the steps make of the map besides its pixels; of one row, so that no strip is held for it.
    template = apply(texels.with_pixels(texels.pixels[:1]))

    def strip(pixels: Pixels) -> Pixels:
        made = apply(texels.with_pixels(pixels))
        floats = made.pixels.dtype == np.float32 and depth is not None
        return narrow(made.pixels, depth) if floats and depth is not None else made.pixels

    pixels = by_rows(strip, texels.pixels)
    return replace(template, pixels=pixels)
