"""Whether a map repeats: how much its borders differ, measured by how much neighbouring lines do."""

from __future__ import annotations

import numpy as np

from texel.image import Pixels, Texels, to_unit

__all__ = ["SEAM", "VISIBLE_STEP", "border_step", "meets_across"]

# How much the step across the border may exceed the largest step between neighbours inside.
SEAM = 1.35
VISIBLE_STEP = 1.5 / 255
# Neighbouring lines compared inside, and texels of a line that are looked at; more tell nothing new.
_PAIRS = 512
_ALONG = 1024


def border_step(values: Pixels, axis: int) -> tuple[float, float]:
    """The mean step across the border of stored numbers, shape (h, w, c), in full scale 1; and its ratio to the largest
    mean step between neighbouring lines inside. axis: 1 for left and right, 0 for upper and lower."""
    count, other = values.shape[axis], 1 - axis
    at = np.unique(np.linspace(0, count - 2, min(count - 1, _PAIRS)).astype(int))
    every = -(-values.shape[other] // _ALONG)
    part = values[::every] if other == 0 else values[:, ::every]
    near, far = np.append(at, 0), np.append(at + 1, count - 1)
    apart = np.abs(to_unit(part.take(near, axis)) - to_unit(part.take(far, axis)))
    steps = apart.mean(axis=(other, 2))
    return float(steps[-1]), float(steps[-1] / max(float(steps[:-1].max()), 1e-6))


def meets_across(texels: Texels, axis: int) -> bool:
    """Whether opposite borders fit together, so that the map goes on at its other side. A line of one texel does."""
    if texels.pixels.shape[axis] < 2:
        return True
    step, ratio = border_step(texels.pixels, axis)
    return ratio <= SEAM or step <= VISIBLE_STEP
