"""Casts in a delivery: the maps of their slots and their material files, planned and built like the files of sets."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

from texel import digest
from texel.delivery.build import packed_texels
from texel.delivery.plan import check_length, plan_output
from texel.delivery.planned import PlannedFile, PlannedSource
from texel.delivery.target import Target
from texel.errors import BadDocument, TexelError
from texel.library import Library
from texel.materials.baking import LARGEST
from texel.materials.casts import checked_changes
from texel.materials.exchange.export import export
from texel.materials.exchange.fixed import FilledCast
from texel.materials.exchange.mtlx_write import CastOf, materialx_of
from texel.materials.exchange.names import each_once
from texel.materials.exchange.usdz import usdz_of
from texel.materials.filling import SlotBinding, parse_binding, slot_target
from texel.materials.master import Master, parse_master
from texel.naming.compose import apply_case, safe_name
from texel.roles import Green
from texel.sets import TextureSet
from texel.tiles import ANY, tiled_by_name

__all__ = ["CastOrder", "PlannedCasts", "baked_side", "cast_order", "plan_casts", "slot_maps", "tile_maps"]

_FOLDER = "materials"
# Maps of surfaces in tiles, by slot and number.
Tiles = Mapping[str, Mapping[int, PlannedFile]]
# Texels a side of baked maps where no slot has a map.
_BAKED_SIDE = 256


@dataclass(frozen=True)
class CastOrder:
    """A cast to be delivered, with all that it inherits. changes: components by parameter; slots: what fills them."""

    name: str
    master: Master
    changes: Mapping[str, tuple[float, ...]]
    slots: Mapping[str, SlotBinding]


def cast_order(document: Mapping[str, Any]) -> CastOrder:
    """A cast from what is kept of an order: name; master, its document; changes, a value by parameter; slots, for each
    that is filled the name of the set, and the role where it is not the slot's own. Raises BadDocument."""
    master = parse_master(document["master"], document["name"])
    slots = {slot: parse_binding(master, slot, one) for slot, one in document["slots"].items()}
    return CastOrder(document["name"], master, checked_changes(master, document["changes"], document["name"]), slots)


@dataclass
class PlannedCasts:
    """files in writing order. make: what builds a material file, by its path. problems: of casts left out whole."""

    files: list[PlannedFile] = field(default_factory=list)
    make: dict[str, Callable[[], bytes]] = field(default_factory=dict)
    problems: list[str] = field(default_factory=list)


def plan_casts(
    orders: Iterable[CastOrder],
    sets: Mapping[str, TextureSet],
    library: Library,
    target: Target,
    greens: Mapping[str, tuple[Green, str]] | None = None,
    refused: Mapping[str, str] | None = None,
) -> PlannedCasts:
    """Everything that delivering casts for ``target`` will write, below "materials".

    sets: those that fill slots, by name. greens: directions of normal maps by map digest; the rest is measured.
    refused: why a set may not be delivered, by its name. A cast that cannot be delivered is told in ``problems``.
    """
    planned = PlannedCasts()
    orders = list(orders)
    stems = each_once([apply_case(safe_name(one.name), target.case) for one in orders])
    for order, stem in zip(orders, stems, strict=True):
        try:
            slots = slot_maps(order, stem, sets, library, target, greens or {}, refused or {})
            tiles = tile_maps(order, stem, sets, library, target, greens or {}, refused or {})
            mains = [_main(order, stem, form, slots, tiles) for form in target.casts]
        except (TexelError, OSError) as error:
            planned.problems.append(f"the cast {order.name}: {error}")
            continue
        if "mtlx" in target.casts:
            planned.files += [one for slot in slots for one in tiles.get(slot, {0: slots[slot]}).values()]
        planned.files += mains
        for form, main in zip(target.casts, mains, strict=True):
            planned.make[main.path] = partial(_bytes_of, order, form, slots, tiles, main.width, library)
    return planned


def slot_maps(
    order: CastOrder,
    stem: str,
    sets: Mapping[str, TextureSet],
    library: Library,
    target: Target,
    greens: Mapping[str, tuple[Green, str]],
    refused: Mapping[str, str],
) -> dict[str, PlannedFile]:
    """The map of each slot that is filled, as the slot takes it, no larger than the target has any."""
    plan = _SlotPlan(order, sets, library, target, greens, refused)
    return {
        slot: plan.map(slot, binding.set, f"{_FOLDER}/maps/{stem}_{slot}.png")
        for slot, binding in sorted(order.slots.items())
    }


def tile_maps(
    order: CastOrder,
    stem: str,
    sets: Mapping[str, TextureSet],
    library: Library,
    target: Target,
    greens: Mapping[str, tuple[Green, str]],
    refused: Mapping[str, str],
) -> dict[str, dict[int, PlannedFile]]:
    """The maps of all tiles of each slot that a surface in tiles fills, by their numbers; see ``slot_maps``."""
    plan, surfaces = _SlotPlan(order, sets, library, target, greens, refused), tiled_by_name(sets)
    return {
        slot: {
            number: plan.map(slot, name, f"{_FOLDER}/maps/{stem}_{slot}.{number}.png")
            for number, name in surfaces[binding.set].tiles.items()
        }
        for slot, binding in sorted(order.slots.items())
        if binding.set in surfaces
    }


@dataclass(frozen=True)
class _SlotPlan:
    """What planning a slot's map needs besides the set that fills it."""

    order: CastOrder
    sets: Mapping[str, TextureSet]
    library: Library
    target: Target
    greens: Mapping[str, tuple[Green, str]]
    refused: Mapping[str, str]

    def map(self, slot: str, name: str, path: str) -> PlannedFile:
        """The map that a set gives a slot. Raises BadDocument."""
        one = self.sets.get(name)
        if one is None:
            raise BadDocument("the set of slot {slot} is gone", slot=slot)
        if one.name in self.refused:
            raise BadDocument("it is fed with {one}. {refused}", one=one.name, refused=self.refused[one.name])
        largest = max((each.largest for each in self.target.outputs if each.largest), default=None)
        wanted = slot_target(self.order.master.slots[slot], self.order.slots[slot].role)
        output = replace(wanted.outputs[0], largest=largest)
        check_length(path)
        made = plan_output("", path, output, one.in_use(), self.library, wanted.green, self.greens, "slot")
        if not made.sources:
            raise BadDocument("slot {slot}: {one} has no map for it", slot=slot, one=one.name)
        return replace(made, cast=self.order.name)


def baked_side(slots: Mapping[str, PlannedFile]) -> int:
    """Texels a side of what is baked from the maps of a cast's slots."""
    return min(LARGEST, max((max(one.width, one.height) for one in slots.values()), default=_BAKED_SIDE))


def _main(order: CastOrder, stem: str, form: str, slots: Mapping[str, PlannedFile], tiles: Tiles) -> PlannedFile:
    side = baked_side(slots)
    each = [(slot, one) for slot in slots for one in tiles.get(slot, {0: slots[slot]}).values()]
    sources: list[PlannedSource] = [source for _, one in each for source in one.sources]
    path = f"{_FOLDER}/{stem}.{form}"
    check_length(path)
    uses = tuple((slot, one.path) for slot, one in each) if form == "mtlx" else ()
    changes = {name: list(parts) for name, parts in sorted(order.changes.items())}
    return PlannedFile(
        path, "", "cast", form, sources=tuple(sources), uses=uses, width=side, height=side, cast=order.name,
        sheet=digest.of_document(order.master.document), values=digest.of_document(changes),
    )  # fmt: skip


def _bytes_of(
    order: CastOrder, form: str, slots: Mapping[str, PlannedFile], tiles: Tiles, side: int, library: Library
) -> bytes:
    if form == "mtlx":
        # Of a surface in tiles one name stands for all of them.
        endings = {slot: f".{ANY}.png" if slot in tiles else ".png" for slot in slots}
        files = {
            slot: one.path.removeprefix(f"{_FOLDER}/").removesuffix(".png") + endings[slot]
            for slot, one in slots.items()
        }
        return materialx_of(order.master, [CastOf(order.name, order.changes, files)]).encode()
    maps = {slot: packed_texels(one, library) for slot, one in slots.items() if slot not in tiles}
    in_tiles = {slot: {at: packed_texels(one, library) for at, one in own.items()} for slot, own in tiles.items()}
    first = {slot: next(iter(own.values())) for slot, own in in_tiles.items()}
    filled = [FilledCast(order.name, order.changes, maps | first, in_tiles)]
    made = export(order.master, "usda" if form == "usdz" else form, order.master.name, filled, side)
    return usdz_of(made.files) if form == "usdz" else next(iter(made.files.values()))
