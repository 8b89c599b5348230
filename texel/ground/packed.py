"""What the page draws ground from, as plain bytes, so that it needs no picture decoder in between."""

from __future__ import annotations

import gzip
import math

import numpy as np
from numpy.typing import NDArray

from texel.colour import srgb_to_unit_linear, store_srgb
from texel.errors import TexelError
from texel.ground.patch import Patch
from texel.ground.surface import Ground, Sun, lit, part_of, slopes_at, surface
from texel.ground.tiles import LETTERS, Tile, resized
from texel.ground.weights import Laid
from texel.image import Texels, narrow
from texel.roles import Transfer

__all__ = [
    "TILE_SIDE",
    "floats_bytes",
    "floats_from_bytes",
    "patch_picture",
    "rules_and_paint_bytes",
    "tile_bytes",
    "tile_from_bytes",
]

# Texels a side of a layer's tile on the page.
TILE_SIDE = 512
_BYTE = np.dtype(np.uint8)


def floats_bytes(values: NDArray[np.float32]) -> bytes:
    """Heights, or what was painted, to the bit: 32-bit floats, little endian, row by row from the north-west; packed by
    gzip."""
    return gzip.compress(values.astype("<f4").tobytes(), 1)


def floats_from_bytes(data: bytes, *shape: int) -> NDArray[np.float32]:
    """The numbers of floats_bytes. Raises TexelError where they do not fill ``shape``."""
    values = np.frombuffer(gzip.decompress(data), "<f4")
    if values.size != math.prod(shape):
        raise TexelError("these bytes are not of this ground")
    return values.reshape(shape).astype(np.float32)


def rules_and_paint_bytes(patch: Patch, laid: Laid) -> bytes:
    """For each layer what its rule says, 8 bits, then for each what was painted, 8 bits with 128 for nothing; packed
    by gzip."""
    rules = narrow(laid.rules, _BYTE)
    paint = (np.rint(laid.paint * 127) + 128).astype(np.uint8)
    return gzip.compress(rules.tobytes() + paint.tobytes(), 1)


def tile_bytes(tile: Tile, side: int = TILE_SIDE) -> bytes:
    """A tile of side x side texels: sRGB colour and relief, then x and y of the normal (128 for 0), roughness and
    occlusion, then metallic; 8 bits each; packed by gzip. The side of its largest map comes first, in 4 bytes."""
    values = resized(tile.values, (side, side))
    colour = np.dstack([store_srgb(np.clip(values[..., :3], 0, 1), _BYTE), narrow(values[..., 5], _BYTE)])
    normal = np.rint(values[..., 3:5] * 127 + 128).astype(np.uint8)
    other = np.dstack([normal, narrow(values[..., 6:8], _BYTE)])
    parts = [colour.tobytes(), other.tobytes(), narrow(values[..., 8], _BYTE).tobytes()]
    return gzip.compress(int(tile.side).to_bytes(4, "little") + b"".join(parts), 1)


def tile_from_bytes(data: bytes, side: int = TILE_SIDE) -> Tile:
    """The tile of tile_bytes. Raises TexelError for other bytes."""
    raw = gzip.decompress(data)
    count = side * side
    if len(raw) != 4 + 9 * count:
        raise TexelError("these bytes are no tile of ground")
    largest = int.from_bytes(raw[:4], "little")
    bytes_ = np.frombuffer(raw, np.uint8, offset=4)
    colour = bytes_[: 4 * count].reshape(side, side, 4)
    other = bytes_[4 * count : 8 * count].reshape(side, side, 4)
    values = np.empty((side, side, len(LETTERS)), np.float32)
    values[..., :3] = srgb_to_unit_linear(np.ascontiguousarray(colour[..., :3]))
    values[..., 5] = colour[..., 3] / np.float32(255)
    values[..., 3:5] = (other[..., :2].astype(np.float32) - 128) / 127
    values[..., 6:8] = other[..., 2:] / np.float32(255)
    values[..., 8] = bytes_[8 * count :].reshape(side, side) / np.float32(255)
    return Tile(values, largest)


def patch_picture(ground: Ground, side: int) -> Texels:
    """The patch from above in daylight; RGB, sRGB, 8 bits."""
    uv, footprint = part_of(ground, side, slice(None))
    light = lit(surface(ground, uv, footprint), slopes_at(ground, uv), Sun())
    return Texels(store_srgb(np.clip(light, 0, 1), _BYTE), "rgb", Transfer.SRGB)
