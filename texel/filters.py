"""A Gaussian blur that knows what lies beyond the border."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["blur", "blurred_rows", "reach_of", "rows_enlarged"]

# Wider kernels work on a field made smaller: what a sigma of 8 leaves needs no more samples than that.
_WIDEST_KERNEL = 8.0
_LEAST_SIDE = 32


def blur(field: NDArray[np.float32], sigma: float, wrap: bool = True) -> NDArray[np.float32]:
    """Gaussian mean of a field, shape (h, w), with ``sigma`` in texels; beyond the border it repeats or goes on as is.

    Above a sigma of 8 texels it is computed on means of 2 x 2, 4 x 4, ... texels and interpolated, which differs by
    less than a hundredth of the field's span. More than once around the field does not count.
    """
    factor = 1
    while sigma / factor > _WIDEST_KERNEL and min(field.shape) // (2 * factor) >= _LEAST_SIDE:
        factor *= 2
    height, width = field.shape
    reach = -(-min(int(sigma * 3) + 1, height, width) // factor) * factor
    reach = min(reach, height - height % factor, width - width % factor)
    more = (-height % factor, -width % factor)
    border = cv2.BORDER_WRAP if wrap else cv2.BORDER_REPLICATE
    padded = cv2.copyMakeBorder(np.asarray(field, np.float32), reach, reach + more[0], reach, reach + more[1], border)
    if factor == 1:
        smooth = cv2.GaussianBlur(padded, (0, 0), sigma)
    else:
        size = (padded.shape[1] // factor, padded.shape[0] // factor)
        small = cv2.GaussianBlur(cv2.resize(padded, size, interpolation=cv2.INTER_AREA), (0, 0), sigma / factor)
        smooth = cv2.resize(small, (padded.shape[1], padded.shape[0]), interpolation=cv2.INTER_LINEAR)
    return np.asarray(smooth[reach : reach + height, reach : reach + width], np.float32)


def reach_of(sigma: float) -> int:
    """Texels to each side beyond which a Gaussian is left out: four sigma, as OpenCV has it for floats."""
    return max(1, round(4 * sigma))


def blurred_rows(parts: Sequence[NDArray[np.float32]], sigma: float, wrap: bool = True) -> NDArray[np.float32]:
    """Rows blurred by a Gaussian, for work strip by strip: of all rows of ``parts``, one below the other, each of shape
    (h, w), those but the first and the last ``reach_of(sigma)``.

    wrap: left and right the picture goes on at its other side; else its last column goes on.
    """
    reach, width = reach_of(sigma), parts[0].shape[1]
    padded = np.empty((sum(map(len, parts)), width + 2 * reach), np.float32)
    np.concatenate(parts, out=padded[:, reach : reach + width])
    beside = np.concatenate([np.arange(-reach, 0), np.arange(width, width + reach)])
    sides = reach + (beside % width if wrap else np.clip(beside, 0, width - 1))
    padded[:, :reach], padded[:, -reach:] = padded[:, sides[:reach]], padded[:, sides[reach:]]
    size = 2 * reach + 1
    return np.ascontiguousarray(cv2.GaussianBlur(padded, (size, size), sigma)[reach:-reach, reach:-reach])


def rows_enlarged(field: NDArray[np.float32], rows: slice, shape: tuple[int, ...], wrap: bool = True) -> Any:
    """Some rows of a field made as large as ``shape``, linearly between the middles of its texels, shape (rows, w).

    wrap: between the last and the first texel too; else the borders go on as they are.
    """
    height, width = field.shape

    def neighbours(places: range | slice, count: int, wanted: int) -> Any:
        place = (np.arange(places.start, places.stop) + 0.5) * (count / wanted) - 0.5
        before = np.floor(place).astype(np.int64)
        share = (place - before).astype(np.float32)
        both = (before % count, (before + 1) % count) if wrap else np.clip((before, before + 1), 0, count - 1)
        return *both, share

    upper, lower, down = neighbours(rows, height, shape[0])
    mixed = field[upper] * (1 - down)[:, None]
    mixed += field[lower] * down[:, None]
    if width == shape[1]:
        return mixed
    left, right, across = neighbours(range(shape[1]), width, shape[1])
    enlarged = mixed.take(left, axis=1)
    enlarged += (mixed.take(right, axis=1) - enlarged) * across
    return enlarged
