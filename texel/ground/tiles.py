"""A layer's maps laid over the ground: tile by tile, or mixed so that the tile is seen less."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.colour import srgb_to_unit_linear
from texel.errors import BadDocument
from texel.ground.noise import lattice
from texel.ground.patch import Layer
from texel.image import Texels, to_unit
from texel.materials.sampling import coordinates_of
from texel.normals.vectors import decode
from texel.roles import Role

__all__ = ["LETTERS", "Tile", "resized", "tile_of", "tiled"]

Values = NDArray[np.float32]
# What the values of a tile are, in order: linear colour, x and y of the normal (y up), relief, roughness, occlusion.
LETTERS = ("red", "green", "blue", "x", "y", "relief", "roughness", "occlusion", "metallic")
# OpenCV works on four channels at most.
_FOURS = (slice(0, 4), slice(4, 8), slice(8, 9))
_NEUTRAL = (0.5, 0.5, 0.5, 0.0, 0.0, 0.5, 1.0, 1.0, 0.0)
# The second scale: so much larger and turned by so much that its tiles meet those of the first nowhere near.
_LARGER, _TURNED = 4.236, 31.7
_SECOND_SHARE = 0.5
# How sharply hexagons give way to each other: Mikkelsen, Practical Real-Time Hex-Tiling (JCGT 2022), from memory.
_SHARPNESS = 7
_SEEDS = (1, 2)


@dataclass(frozen=True)
class Tile:
    """values: shape (h, w, 9), see LETTERS. side: of the largest map that it was made of, in texels."""

    values: Values
    side: int
    smaller: dict[int, Values] = field(default_factory=dict, compare=False)

    @property
    def mean(self) -> Values:
        return np.asarray(self.values.mean(axis=(0, 1), dtype=np.float64), np.float32)

    def at(self, texels: float) -> Values:
        """The values with about so many texels a side, by halving; means of what they are made of."""
        level = max(0, math.floor(math.log2(max(len(self.values) / max(texels, 1.0), 1.0)) + 0.5))
        if level not in self.smaller:
            height, width = self.values.shape[:2]
            self.smaller[level] = resized(self.values, (max(1, width >> level), max(1, height >> level)))
        return self.smaller[level]


def tile_of(maps: Mapping[Role, Texels], side: int = 1024) -> Tile:
    """A tile of a surface's maps; what is missing is neutral. side: texels that are worked with at most.

    Raises BadDocument for maps of a different shape, other than larger and smaller ones of the same.
    """
    if not maps:
        return Tile(np.full((1, 1, len(LETTERS)), _NEUTRAL, np.float32), 1)
    largest = max(max(one.width, one.height) for one in maps.values())
    first = max(maps.values(), key=lambda one: one.width * one.height)
    share = min(1.0, side / largest)
    size = (max(1, round(first.width * share)), max(1, round(first.height * share)))
    if any(abs(one.width * size[1] - one.height * size[0]) > max(one.width, size[0]) for one in maps.values()):
        raise BadDocument("its maps have different proportions")
    values = np.empty((size[1], size[0], len(LETTERS)), np.float32)
    values[:] = _NEUTRAL
    for role, (places, read) in _READ.items():
        if role in maps:
            values[:, :, places] = resized(read(maps[role]), size)
    return Tile(values, largest)


def resized(values: Values, size: tuple[int, int]) -> Values:
    """Values at another size (width, height): means where it is smaller, between texels where it is larger."""
    if values.shape[1::-1] == size:
        return values
    shrinks = size[0] < values.shape[1]
    how = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
    parts = [
        cv2.resize(np.ascontiguousarray(values[:, :, some]), size, interpolation=how).reshape(size[1], size[0], -1)
        for some in _FOURS if some.start < values.shape[2]
    ]  # fmt: skip
    return np.concatenate(parts, axis=-1).astype(np.float32)


def _colour(texels: Texels) -> Values:
    grey = texels.pixels.shape[2] < 3
    pixels = np.repeat(texels.pixels[:, :, :1], 3, axis=2) if grey else texels.pixels[:, :, :3]
    return srgb_to_unit_linear(pixels) if texels.transfer.value == "srgb" else to_unit(pixels)


def _data(texels: Texels) -> Values:
    return to_unit(texels.pixels[:, :, :1])


# Where each role's values go, and how they are read.
_READ: dict[Role, tuple[slice, Any]] = {
    Role.BASE_COLOR: (slice(0, 3), _colour), Role.NORMAL: (slice(3, 5), lambda one: decode(one)[:, :, :2]),
    Role.HEIGHT: (slice(5, 6), _data), Role.ROUGHNESS: (slice(6, 7), _data), Role.OCCLUSION: (slice(7, 8), _data),
    Role.METALLIC: (slice(8, 9), _data),
}  # fmt: skip


def tiled(tile: Tile, layer: Layer, uv: Values, metres: float, footprint: float) -> Values:
    """The values of a layer at places of the patch, shape (..., 9).

    uv: shape (..., 2), 0 to 1 over the patch. metres: of the patch a side. footprint: metres that one value stands for.
    """
    times = metres / layer.tile
    at = coordinates_of(uv, (times, times), (0, 0), layer.turn)
    texels = layer.tile / footprint
    if layer.repeat == "hexagons":
        made = _hexagons(tile, at, texels)
    else:
        made = _read(tile.at(texels), at)
        if layer.repeat == "two_scales":
            larger = coordinates_of(at, (1 / _LARGER, 1 / _LARGER), (0.37, 0.71), _TURNED)
            second = _turned(_read(tile.at(texels * _LARGER), larger), _TURNED)
            made = _mixed(tile.mean, [(made, np.float32(1 - _SECOND_SHARE)), (second, np.float32(_SECOND_SHARE))])
    return _turned(made, layer.turn)


def _turned(values: Values, degrees: float) -> Values:
    """Normals turned with the picture, as texel.materials.sampling turns them."""
    if not degrees:
        return values
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x, y = values[..., 3].copy(), values[..., 4].copy()
    values[..., 3], values[..., 4] = cos * x - sin * y, sin * x + cos * y
    return values


def _read(values: Values, at: Values) -> Values:
    """Bilinear, repeated."""
    height, width = values.shape[:2]
    # One texel more on each side, so that the border reads across it.
    padded = np.pad(values, ((1, 1), (1, 1), (0, 0)), mode="wrap")
    x = np.mod(at[..., 0], 1) * width + 0.5
    y = np.mod(at[..., 1], 1) * height + 0.5
    x, y = np.ascontiguousarray(x, np.float32), np.ascontiguousarray(y, np.float32)
    flat = x.reshape(-1, x.shape[-1]), y.reshape(-1, y.shape[-1])
    parts = [
        cv2.remap(np.ascontiguousarray(padded[:, :, some]), *flat, cv2.INTER_LINEAR).reshape(*x.shape, -1)
        for some in _FOURS
    ]
    return np.concatenate(parts, axis=-1)


def _mixed(mean: Values, parts: list[tuple[Values, Any]]) -> Values:
    """Values mixed so that they differ from their mean as strongly as each of them does: the weights' length, not
    their sum, is one (Heitz and Neyret, High-Performance By-Example Noise, 2018, equation 4, from memory)."""
    total: Any = sum(weight * (values - mean) for values, weight in parts)
    length = np.sqrt(sum(np.square(weight) for _, weight in parts))
    made: Values = (mean + total / length).astype(np.float32)
    return made


def _hexagons(tile: Tile, at: Values, texels: float) -> Values:
    """Each corner of a grid of triangles shows the tile from another place, and the three of a triangle are mixed
    (Mikkelsen 2022; Heitz and Neyret 2018)."""
    scaled = at.astype(np.float64) * (2 * math.sqrt(3))
    skew_x = scaled[..., 0] - scaled[..., 1] / math.sqrt(3)
    skew_y = scaled[..., 1] * 2 / math.sqrt(3)
    base_x, base_y = np.floor(skew_x), np.floor(skew_y)
    fx, fy = skew_x - base_x, skew_y - base_y
    fz = 1 - fx - fy
    upper = (fz < 0).astype(np.float64)
    sign = 2 * upper - 1
    corners = [
        (-fz * sign, base_x + upper, base_y + upper), (upper - fy * sign, base_x + upper, base_y + 1 - upper),
        (upper - fx * sign, base_x + 1 - upper, base_y + upper),
    ]  # fmt: skip
    values, parts = tile.at(texels), []
    for share, i, j in corners:
        moved = np.stack([lattice(i.astype(np.int64), j.astype(np.int64), seed) for seed in _SEEDS], axis=-1)
        parts.append((_read(values, (at + moved).astype(np.float32)), (share**_SHARPNESS)[..., None]))
    total: Any = sum(weight for _, weight in parts)
    return _mixed(tile.mean, [(one, (weight / total).astype(np.float32)) for one, weight in parts])
