"""Steps that make a surface of a photograph: what was seen at an angle, unevenly lit, with borders that do not meet."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from texel.colour import decode_srgb, encode_srgb
from texel.image import Pixels, Texels, to_unit
from texel.normals.vectors import decode, encode, unit
from texel.recipes.step import COLOURS, SCALARS, Context, Shape, Step, choice, number, patches, switch
from texel.repair.light import even_light, even_values
from texel.repair.quilting import SMALLEST_SIDE, patches_from, plan_patches
from texel.repair.straighten import Corners, corners_of, straightened, turns_of
from texel.roles import Role, Transfer

__all__ = ["EvenLight", "PatchBorders", "Straighten"]

_AXES = {"both": "All borders", "x": "Left and right", "y": "Upper and lower"}
_GREEN = {"up": "Up", "down": "Down"}


def _share(default: float, where: str) -> float:
    made: float = number(default, 0, 1, where, "of the side")
    return made


@dataclass(frozen=True)
class Straighten(Step):
    """The part between four corners as a rectangle: a crop where they stand straight, else a perspective taken out."""

    step = "straighten"
    label = "Crop and straighten"
    group = "Photograph"
    from_stored = True
    upper_left_x: float = _share(0, "Upper left corner, from the left")
    upper_left_y: float = _share(0, "Upper left corner, from above")
    upper_right_x: float = _share(1, "Upper right corner, from the left")
    upper_right_y: float = _share(0, "Upper right corner, from above")
    lower_right_x: float = _share(1, "Lower right corner, from the left")
    lower_right_y: float = _share(1, "Lower right corner, from above")
    lower_left_x: float = _share(0, "Lower left corner, from the left")
    lower_left_y: float = _share(1, "Lower left corner, from above")
    green_points: str = choice("up", _GREEN, "Where green points, for a normal map that is turned")

    @property
    def corners(self) -> Corners:
        return corners_of([
            self.upper_left_x, self.upper_left_y, self.upper_right_x, self.upper_right_y,
            self.lower_right_x, self.lower_right_y, self.lower_left_x, self.lower_left_y,
        ])  # fmt: skip

    def apply(self, texels: Texels, context: Context) -> Texels:
        corners = self.corners
        cut = straightened(texels.pixels, corners) if corners.is_crop else None
        if cut is not None and cut.dtype == texels.pixels.dtype:
            return texels.with_pixels(cut)
        if texels.role is Role.NORMAL and len(texels.channels) >= 3:
            return self._turned(texels, corners)
        if texels.transfer is Transfer.LINEAR:
            return texels.with_pixels(np.clip(straightened(to_unit(texels.pixels), corners), 0, 1))
        return _in_light(texels, lambda linear: straightened(linear, corners))

    def _turned(self, texels: Texels, corners: Corners) -> Texels:
        """Vectors turn with the picture that they lie in."""
        vectors = straightened(decode(texels), corners)
        turns = turns_of(corners, texels.width, texels.height)
        # Angles are counted clockwise on screen, where y points down.
        cosine, sine = np.cos(turns), np.sin(turns) * (1 if self.green_points == "down" else -1)
        x, y = vectors[:, :, 0].copy(), vectors[:, :, 1].copy()
        vectors[:, :, 0], vectors[:, :, 1] = cosine * x + sine * y, cosine * y - sine * x
        like = texels.with_pixels(straightened(to_unit(texels.pixels), corners))
        return encode(unit(vectors), like)

    def shape(self, before: Shape) -> Shape:
        width, height = self.corners.size(before.width, before.height)
        return before._replace(width=width, height=height)


@dataclass(frozen=True)
class EvenLight(Step):
    """Slow changes of light over the picture taken out; of maps that hold no light, slow changes of their numbers."""

    step = "even_light"
    label = "Even out light"
    group = "Photograph"
    suits = (*COLOURS, *SCALARS)
    reach: float = number(0.2, 0.02, 0.5, "What changes over more than this is taken out", "of the width")
    strength: float = number(1, 0, 1, "How much of it is taken out")
    by_channel: bool = switch(False, "Even out the colour of the light as well")

    def apply(self, texels: Texels, context: Context) -> Texels:
        count = len(texels.channels.removesuffix("a"))
        if texels.role in COLOURS:

            def change(linear: Pixels) -> Pixels:
                even = even_light(linear[:, :, :count], self.reach, self.strength, self.by_channel)
                return np.concatenate([even, linear[:, :, count:]], axis=2)

            return _in_light(texels, change)
        even = np.clip(even_values(to_unit(texels.pixels[:, :, :count]), self.reach, self.strength), 0, 1)
        return texels.with_pixels(np.concatenate([even, to_unit(texels.pixels[:, :, count:])], axis=2))


@dataclass(frozen=True)
class PatchBorders(Step):
    """Borders that meet: patched with other parts of the picture, joined where they differ least (Efros and Freeman
    2001). Patches that were planned on one map of a set are laid alike on all of them. A map of less than 16 texels a
    side plans none."""

    step = "patch_borders"
    label = "Patch borders"
    group = "Photograph"
    exact = True
    width: float = number(0.15, 0.02, 0.25, "Along each border this may change", "of the side")
    axes: str = choice("both", _AXES, "Which borders")
    patches: str = patches("What is laid where")

    def apply(self, texels: Texels, context: Context) -> Texels:
        if self.patches:
            return texels.with_pixels(patches_from(self.patches).apply(texels.pixels))
        if min(texels.width, texels.height) < SMALLEST_SIDE:
            return texels
        count = len(texels.channels.removesuffix("a"))
        plan = plan_patches(to_unit(texels.pixels[:, :, :count]), self.width, self.axes)
        return texels.with_pixels(plan.apply(texels.pixels))


def _in_light(texels: Texels, change: Callable[[Pixels], Pixels]) -> Texels:
    """``change`` on linear colour; alpha, which has no light, goes along as it is stored."""
    values = to_unit(texels.pixels)
    if texels.transfer is Transfer.LINEAR:
        return texels.with_pixels(np.maximum(change(values), 0))
    count = len(texels.channels.removesuffix("a"))
    light = decode_srgb(np.ascontiguousarray(values[:, :, :count]))
    made = change(np.concatenate([light, values[:, :, count:]], axis=2))
    colour = encode_srgb(np.clip(made[:, :, :count], 0, 1))
    return texels.with_pixels(np.concatenate([colour, np.clip(made[:, :, count:], 0, 1)], axis=2))
