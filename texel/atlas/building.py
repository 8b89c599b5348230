"""The maps of an atlas: every role that one of its sets has, each cell at its size, borders drawn out into the room."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

import numpy as np

from texel.atlas.packing import AtlasPlan, Cell
from texel.channels.layout import Layout, Source
from texel.delivery.build import packed_texels
from texel.delivery.plan import plan_output
from texel.delivery.planned import PlannedFile
from texel.delivery.target import Encoding, Output
from texel.errors import BadDocument
from texel.image import Pixels, Texels, widen
from texel.library import Library
from texel.recipes import apply_recipe
from texel.roles import Green, Role, Transfer, facts
from texel.sets import MapRef, TextureSet

__all__ = ["AtlasMap", "atlas_maps", "atlas_roles", "map_for", "own_sizes"]

_DEPTHS: dict[int, np.dtype[Any]] = {8: np.dtype(np.uint8), 16: np.dtype(np.uint16), 32: np.dtype(np.float32)}
_SAME_AS = {Role.GLOSSINESS: Role.ROUGHNESS}


class AtlasMap(NamedTuple):
    """texels: of the whole atlas, normal maps with Y+. missing: names of sets without such a map, whose cells hold the
    value that does not show."""

    role: Role
    texels: Texels
    missing: tuple[str, ...]


def atlas_roles(sets: Mapping[str, TextureSet]) -> tuple[Role, ...]:
    """Roles of an atlas of these sets: those that one of them has; roughness stands for gloss where both are there."""
    there = {role for one in sets.values() for role in one.in_use()}
    doubled = {gloss for gloss, rough in _SAME_AS.items() if {gloss, rough} <= there}
    return tuple(role for role in Role if role in there and role not in doubled)


def own_sizes(sets: Mapping[str, TextureSet], library: Library) -> dict[str, tuple[int, int]]:
    """Texels of each set's largest map. Raises BadDocument for a set without a map, UnreadableImage."""
    sizes = {}
    for name, one in sets.items():
        shapes = [library.shape(ref)[:2] for ref in one.in_use().values()]
        if not shapes:
            raise BadDocument("{set} has no map", set=name)
        sizes[name] = max(shapes, key=lambda shape: (shape[0] * shape[1], shape))
    return sizes


def atlas_maps(
    plan: AtlasPlan,
    sets: Mapping[str, TextureSet],
    library: Library,
    greens: Mapping[str, tuple[Green, str]] | None = None,
) -> Iterator[AtlasMap]:
    """The maps of an atlas, one role at a time.

    sets: by the names in the plan's cells. greens: directions of normal maps by map digest; the rest is measured. A map
    that has the size of its cell is copied as it is. Raises TexelError.
    """
    for role in atlas_roles(sets):
        refs = {cell.set: map_for(role, sets[cell.set]) for cell in plan.cells}
        deepest = max(library.shape(ref).bits for ref in refs.values() if ref is not None)
        bits = next(depth for depth in _DEPTHS if deepest <= depth)
        # Floats hold linear light.
        space = Transfer.LINEAR if bits == 32 else facts(role).transfer
        canvas = np.empty((plan.height, plan.width, facts(role).channels), _DEPTHS[bits])
        canvas[:] = _plain(role, canvas.dtype)
        for cell in plan.cells:
            if refs[cell.set] is not None:
                made = _planned(role, sets[cell.set], library, greens or {}, bits, space)
                _paste(canvas, plan, cell, packed_texels(made, library))
        letters = "rgb" if canvas.shape[2] > 1 else "y"
        green = Green.UP if role is Role.NORMAL else None
        texels = Texels(canvas, letters, space, role, green, name=f"the atlas's {facts(role).label.lower()} map")
        yield AtlasMap(role, texels, tuple(name for name, ref in refs.items() if ref is None))


def map_for(role: Role, one: TextureSet) -> MapRef | None:
    """The map of a set that serves a role, gloss for roughness too; None where it has none."""
    maps = one.in_use()
    others = (maps[other] for other, same in _SAME_AS.items() if same is role and other in maps)
    return maps.get(role) or next(others, None)


def _planned(
    role: Role, one: TextureSet, library: Library, greens: Mapping[str, tuple[Green, str]], bits: int, space: Transfer
) -> PlannedFile:  # fmt: skip
    """A set's map in the role, as packed_texels builds it."""
    letters = "r" if facts(role).channels == 1 else "rgb"
    layout = Layout("cell", {letter: Source(role, letter, missing=facts(role).neutral) for letter in letters})
    output = Output("cell", layout, space, Encoding("tiff", bits), (role,))
    where = f"{one.name}, {facts(role).label.lower()}"
    return plan_output("", where, output, one.in_use(), library, Green.UP, greens, "slot")


def _plain(role: Role, dtype: np.dtype[Any]) -> Pixels:
    """What stands where nothing is: the value of the role that does not show, for normals straight up."""
    value = np.full(facts(role).channels, facts(role).neutral)
    if role is Role.NORMAL:
        value[2] = 1
    return value.astype(dtype) if dtype.kind == "f" else np.rint(value * np.iinfo(dtype).max).astype(dtype)


def _paste(canvas: Pixels, plan: AtlasPlan, cell: Cell, texels: Texels) -> None:
    """Put a map into its cell, and its border into the room around it, up to where the next cell's room begins."""
    if (texels.width, texels.height) != (cell.width, cell.height):
        resize = {"step": "resize", "width": cell.width, "height": cell.height}
        texels = apply_recipe(texels, [resize])
    pixels = widen(texels.pixels, canvas.dtype)
    left, top = cell.x - plan.padding, cell.y - plan.padding
    whole = [
        -(-(side + 2 * plan.padding) // plan.block) * plan.block - side - plan.padding
        for side in (cell.height, cell.width)
    ]
    padded = np.pad(pixels, ((plan.padding, whole[0]), (plan.padding, whole[1]), (0, 0)), mode="edge")
    canvas[top : top + padded.shape[0], left : left + padded.shape[1]] = padded
