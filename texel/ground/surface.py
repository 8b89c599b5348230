"""The surface of a whole patch: its layers mixed by their weights, as colours, normals and light."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.colour import luminance, store_srgb
from texel.errors import BadDocument
from texel.ground.patch import Layer, Patch
from texel.ground.terrain import Heights
from texel.ground.tiles import Tile, tiled
from texel.ground.weights import by_relief
from texel.image import Texels, narrow
from texel.roles import Green, Role, Transfer

__all__ = ["Ground", "Sun", "far_maps", "shaded"]

Values = NDArray[np.float32]
_AMBIENT = 0.3
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


def weights_at(ground: Ground, uv: Values) -> Values:
    """Weights at places, shape (layers, ...), bilinear; they sum to one as those of the raster do."""
    side = ground.patch.side
    x, y = (np.ascontiguousarray(uv[..., axis] * side - 0.5) for axis in (0, 1))
    read = [cv2.remap(one, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE) for one in ground.weights]
    return np.stack(read)


def slopes_at(ground: Ground, uv: Values) -> tuple[Values, Values]:
    """How much the land rises to the east and to the north, metres a metre, at places."""
    down, east = np.gradient(ground.heights, np.float32(ground.patch.texel))
    side = ground.patch.side
    x, y = (np.ascontiguousarray(uv[..., axis] * side - 0.5) for axis in (0, 1))
    made: list[Any] = [
        cv2.remap(np.ascontiguousarray(one, np.float32), x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        for one in (east, -down)
    ]
    return made[0], made[1]


def mixed(layers: Sequence[Values], weights: Values, edges: Sequence[float]) -> Values:
    """Values of layers, shape (..., 9) each, by their weights, which their relief shapes where it shall."""
    shown = by_relief(weights, np.stack([one[..., 5] for one in layers]), edges) if any(edges) else weights
    return sum_of(layers, shown)


def sum_of(layers: Sequence[Values], weights: Values) -> Values:
    """Values of layers, each times its weight."""
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


def surface(ground: Ground, uv: Values, footprint: float, layers: Sequence[Layer] | None = None) -> Values:
    """What lies at places: values of texel.ground.tiles.LETTERS, shape (..., 9)."""
    given = layers or ground.patch.layers
    read = [
        tiled(tile, layer, uv, ground.patch.metres, footprint) for tile, layer in zip(ground.tiles, given, strict=True)
    ]
    return mixed(read, weights_at(ground, uv), [one.edge for one in given])


def shaded(values: Values, slopes: tuple[Values, Values], sun: Sun) -> Values:
    """Luminance of what lies there, lit by the sun and by the sky: the cosine of the sun's angle, and an even part."""
    light = _AMBIENT + (1 - _AMBIENT) * np.maximum(normals_of(values, slopes) @ sun.direction, 0)
    return np.asarray(luminance(values[..., :3]) * light * values[..., 7], np.float32)


def far_maps(ground: Ground, side: int, green: Green = Green.UP) -> dict[Role, Texels]:
    """The whole patch as maps for the far distance: colour (sRGB, 8 bits), and the normal of land and layers together.

    side: texels. Raises BadDocument for more than 8192.
    """
    if not 1 <= side <= 8192:
        raise BadDocument("maps for the far distance have 1 to 8192 texels a side")
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
