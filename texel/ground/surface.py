"""The surface of a whole patch: its layers mixed by their weights, as colours, normals and light."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.colour import store_srgb
from texel.errors import BadDocument
from texel.ground.patch import Patch
from texel.ground.terrain import Heights
from texel.ground.tiles import Tile, tiled
from texel.ground.weights import by_relief
from texel.image import Texels, narrow
from texel.roles import Green, Role, Transfer

__all__ = [
    "Ground", "Sun", "far_maps", "lit", "normals_of", "part_of", "shown_weights", "slopes_at", "sum_of", "surface",
]  # fmt: skip

Values = NDArray[np.float32]
# How strong both lights are: the page's shader has the same (web/src/screens/ground/groundShader.ts).
_SKY, _SUN = 0.3, 0.9
_MAX_FAR = 8192
# Texels of a band: nine numbers for each layer of each are held at a time.
_BAND = 1 << 17


@dataclass(frozen=True)
class Sun:
    """Where light comes from. azimuth: degrees clockwise from the north; height: degrees above level."""

    azimuth: float = 315.0
    height: float = 35.0

    @property
    def direction(self) -> Values:
        """To the sun: x to the east, y to the north, z up."""
        around, up = math.radians(self.azimuth), math.radians(self.height)
        return np.array(
            [math.sin(around) * math.cos(up), math.cos(around) * math.cos(up), math.sin(up)], np.float32
        )  # fmt: skip


@dataclass(frozen=True)
class Ground:
    """A patch with all that is known of it. weights: of weights.lay; tiles: of each layer."""

    patch: Patch
    heights: Heights
    weights: Values
    tiles: Sequence[Tile]


def part_of(ground: Ground, side: int, rows: slice, window: tuple[float, float] = (0.0, 1.0)) -> tuple[Values, float]:
    """Coordinates of rows of a picture of ``side`` texels of the middle of the patch, and metres of one texel."""
    low, high = window
    at = low + (np.arange(side, dtype=np.float64) + 0.5) / side * (high - low)
    u, v = np.meshgrid(at, at[rows])
    return np.stack([u, v], axis=-1).astype(np.float32), ground.patch.metres * (high - low) / side


def _raster_at(raster: Any, uv: Values) -> Values:
    """A raster of the patch, shape (side, side), read at places between its texels, bilinear."""
    x, y = (np.ascontiguousarray(uv[..., axis] * len(raster) - 0.5) for axis in (0, 1))
    pixels = np.ascontiguousarray(raster, np.float32)
    return np.asarray(cv2.remap(pixels, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32)


def weights_at(ground: Ground, uv: Values) -> Values:
    """Weights at places, shape (layers, ...); they sum to one as those of the raster do."""
    return np.stack([_raster_at(one, uv) for one in ground.weights])


def slopes_at(ground: Ground, uv: Values) -> tuple[Values, Values]:
    """How much the land rises to the east and to the north, metres a metre, at places."""
    down, east = np.gradient(ground.heights, np.float32(ground.patch.texel))
    return _raster_at(east, uv), _raster_at(-down, uv)


def shown_weights(ground: Ground, uv: Values, layers: Sequence[Values]) -> Values:
    """Weights at places, shape (layers, ...), their borders shaped by the relief of what lies there, where that counts.

    layers: values of each, shape (..., 9).
    """
    return by_relief(
        weights_at(ground, uv), np.stack([one[..., 5] for one in layers]), [one.edge for one in ground.patch.layers]
    )


def sum_of(layers: Sequence[Values], weights: Values) -> Values:
    """Values of layers, shape (..., 9), each times its weight."""
    made = np.zeros_like(layers[0])
    for values, weight in zip(layers, weights, strict=True):
        made += weight[..., None] * values
    return made


def normals_of(values: Values, slopes: tuple[Values, Values]) -> Values:
    """Normals of the land with the relief of its layers: their slopes added. Shape (..., 3), y to the north, z up."""
    x, y = values[..., 3], values[..., 4]
    z = np.sqrt(np.maximum(1 - x * x - y * y, 0.01))
    normal = np.stack([x / z - slopes[0], y / z - slopes[1], np.ones_like(x)], axis=-1)
    return np.asarray(normal / np.linalg.norm(normal, axis=-1, keepdims=True), np.float32)


def surface(ground: Ground, uv: Values, footprint: float) -> Values:
    """What lies at places: values of texel.ground.tiles.LETTERS, shape (..., 9). uv: 0 to 1 over the patch, shape
    (..., 2). footprint: metres that one value stands for."""
    patch = ground.patch
    layers = [
        tiled(tile, layer, uv, patch.metres, footprint) for tile, layer in zip(ground.tiles, patch.layers, strict=True)
    ]
    return sum_of(layers, shown_weights(ground, uv, layers))


def lit(values: Values, slopes: tuple[Values, Values], sun: Sun) -> Values:
    """Linear colours of what lies there, shape (..., 3), lit by the sun, as the cosine of its angle, and evenly by the
    sky; what is occluded less."""
    light = _SKY + _SUN * np.maximum(normals_of(values, slopes) @ sun.direction, 0)
    return np.asarray(values[..., :3] * (light * values[..., 7])[..., None], np.float32)


def far_maps(ground: Ground, side: int, green: Green = Green.UP) -> dict[Role, Texels]:
    """The whole patch as maps for the far distance: colour (sRGB, 8 bits), and the normal of land and layers together.

    side: texels. Raises BadDocument for more than a graphics card takes.
    """
    if not 1 <= side <= _MAX_FAR:
        raise BadDocument("maps for the far distance have 1 to {max_far} texels a side", max_far=_MAX_FAR)
    colour = np.empty((side, side, 3), np.uint8)
    normal = np.empty((side, side, 3), np.uint8)
    rows = max(1, _BAND // side)
    for top in range(0, side, rows):
        part = slice(top, min(top + rows, side))
        uv, footprint = part_of(ground, side, part)
        values = surface(ground, uv, footprint)
        colour[part] = store_srgb(np.clip(values[..., :3], 0, 1), np.dtype(np.uint8))
        vectors = normals_of(values, slopes_at(ground, uv))
        if green is Green.DOWN:
            vectors[..., 1] *= -1
        normal[part] = narrow(vectors * 0.5 + 0.5, np.dtype(np.uint8))
    return {
        Role.BASE_COLOR: Texels(colour, "rgb", Transfer.SRGB, Role.BASE_COLOR),
        Role.NORMAL: Texels(normal, "rgb", Transfer.LINEAR, Role.NORMAL, green),
    }
