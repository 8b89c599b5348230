"""A set made to repeat, all its maps alike: what to cut out, light evened out, borders patched as one map decides."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from texel.errors import BadDocument, MismatchedMaps
from texel.image import Texels, to_unit
from texel.recipes.photographs import EvenLight, PatchBorders, Straighten
from texel.recipes.run import apply_recipe, parse_step
from texel.recipes.surfaces import MakeTileable
from texel.repair.quilting import SMALLEST_SIDE, plan_patches
from texel.repair.straighten import corners_of
from texel.roles import Green, Role
from texel.tiling import border_step

__all__ = [
    "BORDERS", "WHOLE", "Tileable", "patches_for", "seams_of", "tileable_steps", "without_tileable",
]  # fmt: skip

# Ways to borders that meet: patched with other parts, faded into the picture itself, left as they are.
BORDERS = ("patch", "fade", "leave")
# Steps that this puts into recipes, and takes out of them when it is done anew.
_STEPS = (Straighten.step, EvenLight.step, PatchBorders.step, MakeTileable.step)
# The corners of the whole picture.
WHOLE = (0.0, 0.0, 1.0, 0.0, 1.0, 1.0, 0.0, 1.0)
_NAMES = tuple(
    f"{corner}_{axis}" for corner in ("upper_left", "upper_right", "lower_right", "lower_left") for axis in "xy"
)


_Step = TypeVar("_Step", bound=Mapping[str, Any])


@dataclass(frozen=True)
class Tileable:
    """corners: x and y of each, shares of the sides, clockwise from the upper left. light: how much of the slow change
    of light is taken out, 0 to 1; reach: over which share of the width. borders: one of BORDERS. width: share of the
    side along each border that may change. axes: "both", "x" or "y"."""

    corners: tuple[float, ...] = WHOLE
    light: float = 0.0
    reach: float = 0.2
    by_channel: bool = False
    borders: str = "patch"
    width: float = 0.15
    axes: str = "both"

    def checked(self) -> Tileable:
        """The same, its corners as floats. Raises BadDocument for what no step would take."""
        if len(self.corners) != len(WHOLE):
            raise BadDocument("four corners are eight numbers, not {count}", count=len(self.corners))
        if self.borders not in BORDERS:
            known = ", ".join(BORDERS)
            raise BadDocument("borders are one of {known}, not {borders!r}", known=known, borders=self.borders)
        order = replace(self, corners=tuple(map(float, self.corners)))
        corners_of(order.corners)
        for step in tileable_steps(order, Role.BASE_COLOR):
            parse_step(step)
        return order


def without_tileable(recipe: Iterable[_Step]) -> list[_Step]:
    """A recipe without the steps that making a set tileable puts into it.

    >>> without_tileable([{"step": "invert"}, {"step": "patch_borders"}])
    [{'step': 'invert'}]
    """
    return [step for step in recipe if step["step"] not in _STEPS]


def tileable_steps(order: Tileable, role: Role, patches: str = "", green: Green = Green.UP) -> list[dict[str, Any]]:
    """The steps for a map of a role. patches: from patches_for; "" lets the map decide by itself. green: where it
    points in a normal map.

    >>> [step["step"] for step in tileable_steps(Tileable(light=0.5), Role.BASE_COLOR)]
    ['even_light', 'patch_borders']
    >>> [step["step"] for step in tileable_steps(Tileable(light=0.5), Role.NORMAL)]
    ['patch_borders']
    """
    steps: list[dict[str, Any]] = []
    if order.corners != WHOLE:
        turned = {"green_points": "down" if green is Green.DOWN else "up"} if role is Role.NORMAL else {}
        steps.append({"step": Straighten.step, **dict(zip(_NAMES, order.corners, strict=True)), **turned})
    if order.light and role is Role.BASE_COLOR:
        steps.append({
            "step": EvenLight.step, "reach": order.reach, "strength": order.light, "by_channel": order.by_channel,
        })  # fmt: skip
    if order.borders == "patch":
        steps.append({"step": PatchBorders.step, "width": order.width, "axes": order.axes, "patches": patches})
    elif order.borders == "fade":
        steps.append({"step": MakeTileable.step, "width": order.width, "axes": order.axes})
    return steps


def patches_for(order: Tileable, guide: Texels) -> str:
    """What is laid where, as the map decides that the others follow; "" where nothing is patched. guide: the map as the
    steps before leave it, in its role. Raises MismatchedMaps for one that is cut too small."""
    if order.borders != "patch":
        return ""
    before = [
        step for step in tileable_steps(order, guide.role or Role.BASE_COLOR) if step["step"] != PatchBorders.step
    ]
    texels = apply_recipe(guide, before)
    if min(texels.width, texels.height) < SMALLEST_SIDE:
        raise MismatchedMaps(
            "{file} is cut to {width} x {height} texels, too few to patch its borders",
            file=guide.name, width=texels.width, height=texels.height,
        )  # fmt: skip
    count = len(texels.channels.removesuffix("a"))
    return plan_patches(to_unit(texels.pixels[:, :, :count]), order.width, order.axes).text()


def seams_of(texels: Texels) -> dict[str, float]:
    """How much the step across the borders exceeds the largest between neighbouring lines inside: x for left and right,
    y for upper and lower. Above texel.tiling.SEAM a seam shows. A side of one texel has none."""
    sizes = {"x": (1, texels.width), "y": (0, texels.height)}
    return {
        name: round(border_step(texels.pixels[:, :, :3], axis)[1], 3) if size > 2 else 0.0
        for name, (axis, size) in sizes.items()
    }
