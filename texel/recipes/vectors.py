"""Steps on normal maps, and between normal maps and heights."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import cast

import numpy as np

from texel.image import Pixels, Texels
from texel.normals.combine import Method, combined, scale_strength
from texel.normals.direction import find_direction
from texel.normals.flip import flip_green
from texel.normals.from_height import REACH, Kernel, normal_planes
from texel.normals.to_height import height_from_planes
from texel.normals.vectors import (
    as_normal,
    decode,
    decoded_planes,
    encode,
    renormalise,
    stored_planes,
    z_from_xy,
)
from texel.planes import Plane, joined
from texel.recipes.step import LENGTHS, NORMALS, Context, Shape, Step, choice, in_texels, map_of, number, whole
from texel.resize import reduced, repeated
from texel.roles import Green, Role

__all__ = [
    "CombineNormal", "FlipGreen", "HeightFromNormal", "NormalFromHeight", "NormalStrength", "RebuildZ", "Renormalise",
]  # fmt: skip

_OPPOSITE = {Green.UP: Green.DOWN, Green.DOWN: Green.UP}
# Texels a side that tell the direction of a map at which another one is laid over it.
_TELLING_SIDE = 512
_EDGES = {"wrap": "The texture repeats", "clamp": "The texture ends at its border"}


def _direction(texels: Texels) -> Green | None:
    """Where green points by the pixels; where they do not tell, by the name."""
    green = find_direction(texels).green
    return texels.green if green is Green.UNKNOWN else green


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
    def summary(self) -> str:
        return f"Strength {self.strength:g}"


@dataclass(frozen=True)
class CombineNormal(Step):
    """Another normal map of the set laid over this one as detail (Barré-Brisebois and Hill 2012)."""

    step = "combine_normal"
    label = "Combine with a detail normal"
    group = "Normals"
    suits = NORMALS
    from_stored = True
    detail: str = map_of("normal/2", "The detail: the set's second normal map, say")
    method: str = choice(
        "reoriented",
        {"reoriented": "Reoriented", "whiteout": "Whiteout", "partial_derivative": "Partial derivatives"},
        "How the two are added",
    )
    strength: float = number(1, 0, 4, "Factor on the detail's slopes")
    tiles: int = whole(1, 64, "How often the detail repeats along a side", default=1)

    def apply(self, texels: Texels, context: Context) -> Texels:
        base, other = as_normal(texels), as_normal(context.other(self.detail))
        if {_direction(reduced(one, _TELLING_SIDE)) for one in (base, other)} == set(_OPPOSITE):
            other = flip_green(other)

        def laid(detail: Texels, rows: slice) -> Pixels:
            over = decoded_planes(detail, slice(None))
            both = combined(decoded_planes(base, rows), over, cast(Method, self.method), self.strength)
            return stored_planes(both, base, rows)

        if self.tiles == 1 and (other.width, other.height) == (base.width, base.height):
            pixels = context.by_strips(
                base.pixels.shape, lambda rows: laid(other.with_pixels(other.pixels[rows]), rows)
            )
        else:
            pixels = repeated(
                other, base.width, base.height, self.tiles, lambda detail, rows: context.stored(laid(detail, rows))
            )
        return base.with_pixels(pixels)


@dataclass(frozen=True)
class NormalFromHeight(Step):
    """A Y+ normal map from a height: the slopes of strength * height, in texels or from real lengths."""

    step = "normal_from_height"
    label = "Normal from height"
    group = "Derive"
    suits = NORMALS
    depth = 16
    from_stored = True
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
        kernel, wrap = cast(Kernel, self.kernel), self.edges == "wrap"

        def stored(rows: slice) -> Pixels:
            planes = normal_planes(height, rows, strength, Green.UP, kernel, wrap)
            return joined(*((one + 1) * np.float32(0.5) for one in planes))

        pixels = context.by_strips((*height.shape, 3), stored, REACH)
        return replace(texels, pixels=pixels, channels="rgb", role=Role.NORMAL, green=Green.UP)

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
    from_stored = True
    green_is: str = choice(
        "measured", {"measured": "As measured", "up": "Y+", "down": "Y-"}, "Direction of the normal map's green"
    )
    edges: str = choice("wrap", _EDGES, "What lies beyond the border")

    def apply(self, texels: Texels, context: Context) -> Texels:
        normals = as_normal(texels)
        green = _direction(normals) if self.green_is == "measured" else Green(self.green_is)
        sign = np.float32(-1 if green is Green.DOWN else 1)

        def planes(rows: slice) -> tuple[Plane, ...]:
            x, y, z = decoded_planes(normals, rows)
            return x, y * sign, z

        height = height_from_planes(normals.height, normals.width, planes, self.edges == "wrap")
        low, high = np.float32(height.min()), np.float32(height.max())
        span = max(high - low, np.float32(1e-6))
        pixels = context.by_strips((*height.shape, 1), lambda rows: ((height[rows] - low) / span)[:, :, None])
        return replace(texels, pixels=pixels, channels="y", role=Role.HEIGHT, green=None)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y", bits=max(16, before.bits))
