"""Maps read at coordinates, as graphics hardware does it: wrapped, weighed, sRGB decoded before it is averaged."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from texel.colour import srgb_to_unit_linear
from texel.image import Pixels, Texels, to_unit
from texel.materials.master import DEFAULTS, Slot
from texel.roles import Green, Transfer

__all__ = ["SlotMap", "coordinates_of", "plain_value", "sampled_plain", "uv_grid"]

Array = NDArray[np.float32]


def uv_grid(width: int, height: int, rows: slice | None = None) -> Array:
    """Coordinates of texel centres, shape (rows, width, 2): u to the right, v down, 0 to 1."""
    top, bottom, _ = (rows or slice(None)).indices(height)
    u = (np.arange(width, dtype=np.float32) + np.float32(0.5)) / np.float32(width)
    v = (np.arange(top, bottom, dtype=np.float32) + np.float32(0.5)) / np.float32(height)
    return np.stack(np.meshgrid(u, v), axis=-1)


def coordinates_of(uv: Array, tiling: tuple[float, ...], offset: tuple[float, ...], degrees: float) -> Array:
    """uv scaled, turned and moved, in that order: u' = c sx u - s sy v + ox, v' = s sx u + c sy v + oy, with c and s
    the cosine and sine of ``degrees``. glTF's KHR_texture_transform turns the other way: by minus this angle.

    uv: shape (..., 2), v down.

    >>> coordinates_of(np.float32([[1, 0]]), (1, 1), (0, 0), 90).round(6).tolist()
    [[-0.0, 1.0]]
    """
    if degrees == 0 and tuple(tiling) == (1, 1) and tuple(offset) == (0, 0):
        return uv
    angle = np.float32(np.deg2rad(degrees))
    cos, sin = np.cos(angle), np.sin(angle)
    scaled = uv * np.asarray(tiling, np.float32)
    turned = np.stack(
        [cos * scaled[..., 0] - sin * scaled[..., 1], sin * scaled[..., 0] + cos * scaled[..., 1]], axis=-1
    )
    return (turned + np.asarray(offset, np.float32)).astype(np.float32)


class SlotMap:
    """What a slot reads: a map, or its default everywhere."""

    def __init__(self, slot: Slot, texels: Texels | None):
        """texels: of any size and depth; its colour space is the slot's, whatever it says of itself."""
        self._slot, self._texels = slot, texels

    def read(self, uv: Array, degrees: float = 0.0) -> Array:
        """Shape (..., 4): linear values 0 to 1; of a normal slot vectors -1 to 1 in Y+, and alpha.

        degrees: by how much the coordinates are turned; vectors turn with the picture.
        """
        slot, texels = self._slot, self._texels
        if texels is None:
            return plain_value(slot)
        # What is read is widened, not the whole map: of a large one a strip needs little at a time.
        how = _Sampler(slot.wrap, slot.filter == "nearest")
        values = _bilinear(texels.pixels, uv, lambda some: _four(texels.with_pixels(some), slot), how)
        if slot.is_normal:
            values[..., :3] = values[..., :3] * 2 - 1
            if slot.green is Green.DOWN:
                values[..., 1] = -values[..., 1]
            if degrees:
                angle = np.float32(np.deg2rad(degrees))
                cos, sin = np.cos(angle), np.sin(angle)
                x, y = values[..., 0].copy(), values[..., 1].copy()
                values[..., 0], values[..., 1] = cos * x - sin * y, sin * x + cos * y
        return values


def plain_value(slot: Slot) -> Array:
    """What a slot reads without a map: four linear values, of a normal slot a vector and alpha."""
    if slot.is_normal:
        return np.array([0, 0, 1, 1], np.float32)
    value = np.float32(DEFAULTS[slot.default])
    return np.array([value, value, value, 1], np.float32)


def sampled_plain(slot: Slot) -> Array:
    """What a sampler gives where a slot has no map: four values 0 to 1 of linear light, a normal not yet unpacked."""
    return np.array([0.5, 0.5, 1, 1], np.float32) if slot.is_normal else plain_value(slot)


def _four(texels: Texels, slot: Slot) -> Array:
    """Linear red, green, blue and alpha of some texels; grey three times, alpha 1 where there is none."""
    pixels = texels.pixels
    count = len(texels.channels) - (1 if texels.has_alpha else 0)
    decode = slot.colour_space is Transfer.SRGB and pixels.dtype != np.float32
    colour = (
        srgb_to_unit_linear(np.ascontiguousarray(pixels[:, :, :count])) if decode else to_unit(pixels[:, :, :count])
    )
    four = np.ones((*pixels.shape[:2], 4), np.float32)
    if count == 1:
        four[:, :, :3] = colour
    else:
        four[:, :, :count] = colour
        if count == 2:
            # Two channels of a normal map: blue is what the vector's length leaves.
            xy = colour * 2 - 1
            four[:, :, 2] = (np.sqrt(np.maximum(0, 1 - (xy * xy).sum(axis=2))) + 1) / 2
    if texels.has_alpha:
        four[:, :, 3] = to_unit(pixels[:, :, -1])
    return four


class _Sampler(NamedTuple):
    """wrap: of texel.materials.master.WRAPS. nearest: whether the nearest texel is taken, instead of weighing four."""

    wrap: str
    nearest: bool

    def neighbours(self, along: Array, count: int) -> tuple[NDArray[np.int64], NDArray[np.int64], Array]:
        """Along one side of ``count`` texels: the texel before each place and the one after, and the latter's share."""
        place = along * np.float32(count) - np.float32(0 if self.nearest else 0.5)
        before = np.floor(place)
        first = before.astype(np.int64)
        if self.nearest:
            return self._inside(first, count), self._inside(first, count), np.zeros_like(place)
        return self._inside(first, count), self._inside(first + 1, count), place - before

    def _inside(self, at: NDArray[np.int64], count: int) -> NDArray[np.int64]:
        if self.wrap == "clamp":
            return np.clip(at, 0, count - 1)
        if self.wrap == "mirror":
            over = at % (2 * count)
            return np.minimum(over, 2 * count - 1 - over)
        return at % count


def _bilinear(pixels: Pixels, uv: Array, values_of: Callable[[Pixels], Array], how: _Sampler) -> Array:
    """The four nearest texels by their distance. values_of: stored texels, shape (h, w, c), as four values each."""
    across, down = uv[..., 0], uv[..., 1]
    if uv.ndim == 3 and (across == across[:1]).all() and (down == down[:, :1]).all():
        return _straight(pixels, across[0], down[:, 0], values_of, how)
    height, width = pixels.shape[:2]
    (x0, x1, right_share), (y0, y1, down_share) = how.neighbours(across, width), how.neighbours(down, height)
    flat = pixels.reshape(-1, pixels.shape[2])
    right_share, down_share = right_share[..., None], down_share[..., None]

    def at(y: NDArray[np.int64], x: NDArray[np.int64]) -> Array:
        return values_of(flat.take((y * width + x).reshape(1, -1), axis=0)).reshape(*x.shape, 4)

    mixed = at(y0, x0) * (1 - right_share)
    mixed += at(y0, x1) * right_share
    mixed *= 1 - down_share
    below = at(y1, x0) * (1 - right_share)
    below += at(y1, x1) * right_share
    mixed += below * down_share
    return np.asarray(mixed, np.float32)


def _straight(pixels: Pixels, across: Array, down: Array, values_of: Callable[[Pixels], Array], how: _Sampler) -> Array:
    """As _bilinear, where no coordinates are turned: first along each row of texels that is read, then between rows.

    across: of every column, down: of every row.
    """
    height, width = pixels.shape[:2]
    (x0, x1, right_share), (y0, y1, down_share) = how.neighbours(across, width), how.neighbours(down, height)
    if down_share.any():
        read, places = np.unique(np.concatenate([y0, y1]), return_inverse=True)
        above, below = np.split(places, 2)
    else:
        read, above = np.unique(y0, return_inverse=True)
        below = above
    rows = values_of(pixels.take(read, axis=0))
    if right_share.any():
        right_share = right_share[:, None]
        rows = rows.take(x0, axis=1) * (1 - right_share) + rows.take(x1, axis=1) * right_share
    else:
        rows = rows.take(x0, axis=1)
    mixed = rows.take(above, axis=0)
    if down_share.any():
        down_share = down_share[:, None, None]
        mixed *= 1 - down_share
        mixed += rows.take(below, axis=0) * down_share
    return np.asarray(mixed, np.float32)
