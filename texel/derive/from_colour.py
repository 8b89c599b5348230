"""Height and roughness from one colour picture. What a photo cannot tell is set by hand; nothing here is measured."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from texel.filters import blur, blurred_rows, reach_of, rows_enlarged
from texel.image import Pixels
from texel.resample import Axis, resample
from texel.strips import filled, rows_around, strips
from texel.threads import each

__all__ = ["height_from_luminance", "roughness_from_luminance"]

Field = NDArray[np.float32]
Light = Callable[[Pixels], Field]
# Up to this sigma, in texels, forms are taken out of the picture itself; wider ones out of one a quarter its size.
_FINEST = 8.0
_SMALLER = 4
_LEAST_SIDE = 32
_BINS = 1 << 16


def _plain(rows: Pixels) -> Field:
    return np.asarray(rows, np.float32)


def _stretched(field: Field) -> None:
    """In place: 0 to 1 between the 0.5th and the 99.5th percentile; a plain field becomes 0.5."""
    parts = strips(len(field), field.shape[1])
    ends = each(lambda rows: (float(field[rows].min()), float(field[rows].max())), parts)
    low, high = min(one for one, _ in ends), max(one for _, one in ends)
    if high > low:
        counts = sum(each(lambda rows: np.histogram(field[rows], _BINS, (low, high))[0], parts))
        shares = np.cumsum(counts) / field.size
        width = (high - low) / _BINS
        low, high = low + width * np.searchsorted(shares, [0.005, 0.995])
    if high - low < 1e-6:
        field[:] = 0.5
        return

    def stretch(rows: slice) -> None:
        part = field[rows]
        part -= np.float32(low)
        part *= np.float32(1 / (high - low))
        np.clip(part, 0, 1, out=part)

    each(stretch, parts)


def _smaller(pixels: Pixels, light: Light, factor: int) -> Field:
    """The lightness at a size ``factor`` times smaller, shape (h, w)."""
    across, down = (Axis(side, max(1, round(side / factor))) for side in (pixels.shape[1], len(pixels)))
    lines = pixels.reshape(len(pixels), pixels.shape[1], -1)
    return resample(lines, across, down, lambda rows: _as(rows, pixels, light), lambda rows, _: rows)[:, :, 0]


def _as(rows: Pixels, pixels: Pixels, light: Light) -> Field:
    return light(rows.reshape(len(rows), *pixels.shape[1:]))[:, :, None]


def _factor(pixels: Pixels) -> int:
    return _SMALLER if min(pixels.shape[:2]) >= _SMALLER * _LEAST_SIDE else 1


def height_from_luminance(
    pixels: Pixels, fine: float = 0.5, broad: float = 1.0, flatten: float = 0.1, light: Light = _plain
) -> Field:
    """A height, 0 to 1, shape (h, w), that takes bright for high.

    pixels: shape (h, w) or (h, w, c), of which ``light`` makes perceived lightness, 0 to 1, row by row. Bands of
    detail, each twice as wide as the one before, are summed with weights between ``fine`` (the narrowest) and ``broad``
    (the widest); what is wider than ``flatten`` (share of the side) is taken for light and left out. The picture is
    taken to repeat.
    """
    shape = pixels.shape[:2]
    widest = max(2.0, flatten * max(shape))
    sigmas = [s for s in (2.0**n for n in range(12)) if s < widest] + [widest]
    weights = [fine + (broad - fine) * index / max(1, len(sigmas) - 1) for index in range(len(sigmas))]
    factor = _factor(pixels)
    narrow = [s for s in sigmas if s <= _FINEST]
    around = sum(map(reach_of, narrow))

    def detail(rows: slice) -> Field:
        left = light(rows_around(pixels, rows, around, True))
        total = np.zeros((rows.stop - rows.start, shape[1]), np.float32)
        beside = around
        for sigma, weight in zip(narrow, weights, strict=False):
            reach = reach_of(sigma)
            beside -= reach
            smooth = blurred_rows((left,), sigma)
            left = left[reach : len(left) - reach]
            total += (left - smooth)[beside : beside + len(total)] * np.float32(weight)
            left = smooth
        return total

    total = filled(shape, np.dtype(np.float32), detail, around)
    # What those bands have left, at a quarter of the size: the sum of their variances is that of all of them.
    left = blur(_smaller(pixels, light, factor), float(np.sqrt(sum(s * s for s in narrow))) / factor)
    wide = np.zeros_like(left)
    for sigma, weight in [*zip(sigmas, weights, strict=True)][len(narrow) :]:
        smooth = blur(left, sigma / factor)
        wide += (left - smooth) * np.float32(weight)
        left = smooth
    if len(sigmas) > len(narrow):

        def add(rows: slice) -> None:
            total[rows] += rows_enlarged(wide, rows, shape)

        each(add, strips(*shape))
    _stretched(total)
    return total


def roughness_from_luminance(
    pixels: Pixels, level: float = 0.6, variation: float = 0.3, invert: bool = False, light: Light = _plain
) -> Field:
    """A roughness, 0 to 1: ``level`` plus ``variation`` times the picture's detail, bright being smoother.

    pixels, light: as height_from_luminance takes them.
    """
    shape, factor = pixels.shape[:2], _factor(pixels)
    smooth = blur(_smaller(pixels, light, factor), max(2.0, 0.05 * max(shape)) / factor)
    detail = filled(shape, np.dtype(np.float32), lambda rows: light(pixels[rows]) - rows_enlarged(smooth, rows, shape))
    _stretched(detail)
    parts = strips(*shape)
    mean = np.float32(sum(each(lambda rows: float(detail[rows].sum(dtype=np.float64)), parts)) / detail.size)
    slope = np.float32(variation if invert else -variation)

    def lay(rows: slice) -> None:
        part = detail[rows]
        part -= mean
        part *= slope
        part += np.float32(level)
        np.clip(part, 0, 1, out=part)

    each(lay, parts)
    return detail
