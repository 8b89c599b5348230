"""What a written file does not hold of a sheet, in sentences: nothing is left out without a word."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping

import numpy as np

from texel.materials.evaluate import placed, values_of
from texel.materials.exchange.fixed import FilledCast, uniform_number
from texel.materials.master import Coordinates, Master
from texel.materials.remarks import reachable, starts_read
from texel.materials.sampling import coordinates_of
from texel.materials.starts import FLAT, STARTS, flat_parts
from texel.materials.surface import INPUTS

__all__ = [
    "BLACK", "lost_by_baking", "lost_by_fixing", "lost_in_open_pbr", "lost_inputs", "lost_opacity", "lost_starts",
    "lost_structure", "lost_tiles",
]  # fmt: skip

Values = tuple[float, ...]
# Starts that every format has.
_GEOMETRIC = ("uv", "uv1", "vertex")
# The vertex colour where none is given: layers that it uncovers are not there.
BLACK = (0.0, 0.0, 0.0, 1.0)


def _named(names: Iterable[str]) -> str:
    return ", ".join(names)


def lost_structure(master: Master) -> list[str]:
    """Layers, of formats that take one sheet."""
    layers = master.document.get("layers", [])
    if not layers:
        return []
    return [f"Layers: {_named(one.get('title') or one['name'] for one in layers)} are written as one sheet"]


def lost_by_fixing(master: Master, written: Collection[str]) -> list[str]:
    """Parameters and slots, of formats that hold what a cast looks like and not what it may become.

    written: slots whose maps are in the file as they are.
    """
    losses = lost_structure(master)
    if master.parameters:
        losses.append(f"Parameters: {_named(master.parameters)} are written as the values that they have")
    slots = [name for name in master.slots if name not in written]
    if slots:
        losses.append(f"Slots: {_named(slots)} are in the baked maps, or nowhere where the surface does not read them")
    return losses


def lost_by_baking(
    master: Master, changes: Mapping[str, Values], inputs: Iterable[str], vertex: Values = BLACK
) -> list[str]:
    """What baked maps of some inputs cannot follow: the colours of a mesh's vertices, its second set of coordinates,
    and a tiling that does not end where it began.

    changes: the cast's, since a parameter may turn the coordinates. vertex: the colour that was baked.
    """
    read, starts = reachable(master, inputs), starts_read(master, inputs)
    losses = []
    elsewhere = [one.label for name, one in STARTS.items() if name in starts and name not in _GEOMETRIC]
    if elsewhere:
        losses.append(f"{_named(elsewhere)}: baked as on {FLAT}")
    if "vertex" in starts:
        given = ", ".join(f"{part:g}" for part in vertex)
        losses.append(f"Vertex colour: baked maps have {given} everywhere")
    slots = {name: master.coordinates[one.coordinates] for name, one in master.slots.items() if name in read}
    second = [name for name, place in slots.items() if place.uv_set == 1]
    second += ["uv1"] if "uv1" in starts else []
    if second:
        losses.append(f"UV set 1: {_named(second)} are baked as if it were the same as set 0")
    values = values_of(master, changes)
    uneven = [name for name, place in slots.items() if not _repeats(place, values)]
    if uneven:
        losses.append(f"Tiling: the baked maps do not repeat, since {_named(uneven)} end elsewhere than they begin")
    return losses


def _repeats(place: Coordinates, values: Mapping[str, Values]) -> bool:
    """Whether one step along u or v leads a whole number of pictures further: then a map of one step repeats."""

    tiling, _, degrees = placed(place, values)
    ends = np.array([[0, 0], [1, 0], [0, 1]], np.float32)
    read = coordinates_of(ends, tiling, (0.0, 0.0), degrees)
    steps = read[1:] - read[0]
    return bool(np.abs(steps - np.round(steps)).max() < 1e-4)


def lost_inputs(master: Master) -> list[str]:
    """Inputs that MaterialX's glTF surface does not have, or takes for the whole surface at once."""
    losses = []
    for name in master.inputs:
        one = INPUTS[name]
        if one.on_demand and not one.materialx:
            losses.append(f"{one.label}: the sheet's own node gives it, MaterialX's glTF surface does not take it")
        if one.uniform and uniform_number(master, name) is None:
            losses.append(f"{one.label}: MaterialX's glTF surface takes one number or a parameter, and it is computed")
    return losses


def lost_in_open_pbr(master: Master) -> list[str]:
    """Inputs that OpenPBR's surface does not have."""
    told = []
    if "occlusion" in master.inputs:
        told.append("Occlusion: the sheet's own node gives it, OpenPBR's surface does not take it")
    return told


def lost_tiles(master: Master, cast: FilledCast, baked: bool = False) -> list[str]:
    """Of a cast in several tiles: coordinates that move what lies in them, and, of baked maps, what is computed from
    coordinates without a map, as if each tile were the first."""
    if not cast.tiles:
        return []
    losses = []
    for name in {master.slots[slot].coordinates for slot in cast.tiles}:
        tiling, offset, degrees = placed(master.coordinates[name], values_of(master, cast.changes))
        if (set(tiling), set(offset), degrees) != ({1.0}, {0.0}, 0.0):
            losses.append(f"Tiles: the coordinates {name} are scaled, moved or turned, so that tiles lie elsewhere")
    if baked and starts_read(master) & {"uv", "uv1", *STARTS} - {"vertex"}:
        losses.append("Tiles: what is computed from coordinates or places is the same in every baked tile")
    return losses


def lost_starts(master: Master) -> list[str]:
    """Starts that MaterialX has no node for."""
    read = starts_read(master)
    without = [one for name, one in STARTS.items() if name in read and not one.node and name not in _GEOMETRIC]
    numbers = {one.name: ", ".join(f"{float(part):g}" for part in flat_parts(one.name)) for one in without}
    return [f"{one.label}: MaterialX has none, so it is {numbers[one.name]}" for one in without]


def lost_opacity(master: Master) -> list[str]:
    """Opacity of an opaque surface, which nobody sees, and the cut-off of one that is not cut out."""
    losses = []
    if master.opacity_mode == "opaque" and "opacity" in master.inputs:
        losses.append("Opacity: the surface is opaque, so it is not written")
    if master.opacity_mode != "cut_out" and "cut_off" in master.inputs:
        losses.append("Cut-off: the surface is no cut-out, so it is not written")
    return losses
