"""Steps on normal maps, and between normal maps and heights."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import cast

import numpy as np

from texel.image import Pixels, Texels
from texel.normals.combine import Method, combine, scale_strength
from texel.normals.direction import find_direction
from texel.normals.flip import flip_green
from texel.normals.from_height import Kernel, normals_from_height
from texel.normals.to_height import height_from_normals
from texel.normals.vectors import Vectors, decode, encode, renormalise, z_from_xy
from texel.recipes.step import LENGTHS, NORMALS, Context, Shape, Step, choice, in_texels, map_of, number, whole
from texel.resize import reduced, repeated
from texel.roles import Green, Role
from texel.strips import by_rows

__all__ = [
    "CombineNormal", "FlipGreen", "HeightFromNormal", "NormalFromHeight", "NormalStrength", "RebuildZ", "Renormalise",
]  # fmt: skip

_OPPOSITE = {Green.UP: Green.DOWN, Green.DOWN: Green.UP}
# Texels a side that tell the direction of a map at which another one is laid over it.
_TELLING_SIDE = 512
_EDGES = {"wrap": "The texture repeats", "clamp": "The texture ends at its border"}


def _stored(vectors: Vectors) -> Pixels:
    return by_rows(lambda part: (part + np.float32(1)) * np.float32(0.5), vectors)


def _direction(texels: Texels) -> Green | None:
    """Where green points by the pixels; where they do not tell, by the name."""
    found = find_direction(texels).green
    return texels.green if found is Green.UNKNOWN else found


@dataclass(frozen=True)
class FlipGreen(Step):
    """Invert green: Y+ becomes Y- and back. Exact."""

    step = "flip_green"
    label = "Flip green"
    group = "Normals"
    suits = NORMALS
    exact = True

    def apply(self, texels: Texels, context: Context) -> Texels:
        return flip_green(texels)

    def green(self, before: Green | None) -> Green | None:
        return _OPPOSITE.get(before, before) if before else None


@dataclass(frozen=True)
class Renormalise(Step):
    """Every vector at unit length."""

    step = "renormalise"
    label = "Renormalise vectors"
    group = "Normals"
    suits = NORMALS
    local = True

    def apply(self, texels: Texels, context: Context) -> Texels:
        return renormalise(texels)


@dataclass(frozen=True)
class RebuildZ(Step):
    """Blue from red and green: z = sqrt(1 - x^2 - y^2)."""

    step = "z_from_xy"
    label = "Rebuild blue"
    group = "Normals"
    suits = NORMALS
    local = True

    def apply(self, texels: Texels, context: Context) -> Texels:
        return z_from_xy(texels)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="rgba" if before.channels.endswith("a") else "rgb")


@dataclass(frozen=True)
class NormalStrength(Step):
    """Slopes times a factor: 0 is flat, 1 leaves the map as it is."""

    step = "normal_strength"
    label = "Strength"
    group = "Normals"
    suits = NORMALS
    local = True
    strength: float = number(1, 0, 8, "Factor on the slopes")

    def apply(self, texels: Texels, context: Context) -> Texels:
        return encode(scale_strength(decode(texels), self.strength), texels)

    @property
    def words(self) -> str:
        return f"Strength {self.strength:g}"


@dataclass(frozen=True)
class CombineNormal(Step):
    """Another normal map of the set laid over this one as detail (Barré-Brisebois and Hill 2012)."""

    step = "combine_normal"
    label = "Combine with a detail normal"
    group = "Normals"
    suits = NORMALS
    detail: str = map_of("normal/2", "The detail: the set's second normal map, say")
    method: str = choice(
        "reoriented",
        {"reoriented": "Reoriented", "whiteout": "Whiteout", "partial_derivative": "Partial derivatives"},
        "How the two are added",
    )
    strength: float = number(1, 0, 4, "Factor on the detail's slopes")
    tiles: int = whole(1, 64, "How often the detail repeats along a side", default=1)

    def apply(self, texels: Texels, context: Context) -> Texels:
        other = context.other(self.detail)
        if {_direction(reduced(one, _TELLING_SIDE)) for one in (texels, other)} == set(_OPPOSITE):
            other = flip_green(other)
        detail = decode(repeated(other, texels.width, texels.height, self.tiles))
        return encode(combine(decode(texels), detail, cast(Method, self.method), self.strength), texels)


@dataclass(frozen=True)
class NormalFromHeight(Step):
    """A Y+ normal map from a height: the slopes of strength * height, in texels or from real lengths."""

    step = "normal_from_height"
    label = "Normal from height"
    group = "Derive"
    suits = NORMALS
    depth = 16
    strength: float = number(8, 0.01, 512, "Height of white above black", "texels")
    kernel: str = choice(
        "scharr", {"sobel": "Sobel, 3 x 3", "scharr": "Scharr, 3 x 3", "wide": "Wide, 5 x 5"}, "Derivative filter"
    )
    edges: str = choice("wrap", _EDGES, "What lies beyond the border")
    unit: str = choice("texels", LENGTHS, "What strength is measured in")
    size: float = number(1, 0.001, 10000, "Length of the texture's width, for strength in metres", "metres")

    def apply(self, texels: Texels, context: Context) -> Texels:
        height = texels.pixels[:, :, 0]
        strength = in_texels(self.strength, self.unit, self.size, texels, context)
        vectors = normals_from_height(height, strength, Green.UP, cast(Kernel, self.kernel), self.edges == "wrap")
        return replace(texels, pixels=_stored(vectors), channels="rgb", role=Role.NORMAL, green=Green.UP)

    def green(self, before: Green | None) -> Green | None:
        return Green.UP

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="rgb", bits=max(16, before.bits))


@dataclass(frozen=True)
class HeightFromNormal(Step):
    """The height whose slopes come nearest to the normal map (Frankot and Chellappa 1988), stretched to 0 to 1."""

    step = "height_from_normal"
    label = "Height from normal"
    group = "Derive"
    suits = (Role.HEIGHT,)
    depth = 16
    green_is: str = choice(
        "measured", {"measured": "As measured", "up": "Y+", "down": "Y-"}, "Direction of the normal map's green"
    )
    edges: str = choice("wrap", _EDGES, "What lies beyond the border")

    def apply(self, texels: Texels, context: Context) -> Texels:
        vectors = decode(texels)
        green = _direction(texels) if self.green_is == "measured" else Green(self.green_is)
        if green is Green.DOWN:
            vectors = vectors * np.array([1, -1, 1], np.float32)
        height = height_from_normals(vectors, self.edges == "wrap")
        low, high = float(height.min()), float(height.max())
        unit = (height - low) / max(high - low, 1e-6)
        return replace(texels, pixels=unit[:, :, None].astype(np.float32), channels="y", role=Role.HEIGHT, green=None)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y", bits=max(16, before.bits))
