"""Models in a delivery: planned and built like casts, with what each slot wears."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from texel import digest
from texel.atlas.regions import Region, region_of
from texel.delivery.build import packed_texels
from texel.delivery.plan import check_length
from texel.delivery.planned import PlannedFile, PlannedSource
from texel.delivery.target import Target
from texel.errors import BadDocument, TexelError
from texel.library import Library
from texel.materials.delivered import CastOrder, PlannedCasts, baked_side, cast_order, slot_maps
from texel.materials.exchange.fixed import FilledCast
from texel.materials.exchange.names import each_once
from texel.meshes.bound import Paint, WornSlot, bound_glb
from texel.meshes.bound_usd import bound_usdz
from texel.meshes.painting import parse_painting
from texel.meshes.reading import beside, read_mesh
from texel.meshes.slots import Split, slot_keys
from texel.naming.compose import apply_case, safe_name
from texel.roles import Green
from texel.sets import TextureSet

__all__ = ["ModelOrder", "model_order", "plan_models"]

_FOLDER = "models"


@dataclass(frozen=True)
class SlotOrder:
    """key: of the slot. title: of its material in the file. parts: that wear it. wears: None for nothing. region: the
    part of what it wears that it uses, None for all."""

    key: str
    title: str
    parts: tuple[str, ...]
    wears: CastOrder | None
    region: Region | None = None


@dataclass(frozen=True)
class ModelOrder:
    """A model to be delivered. main: the file with the mesh. files: by name, those of the library that hold them.
    slots: of the mesh with its splits, in its order. metres: of one unit of the file. strokes: that paint its vertex
    colours."""

    name: str
    main: str
    files: Mapping[str, str]
    splits: tuple[Split, ...]
    slots: tuple[SlotOrder, ...]
    metres: float = 1.0
    strokes: tuple[Mapping[str, Any], ...] = ()


def model_order(document: Mapping[str, Any]) -> ModelOrder:
    """A model from what is kept of an order. Raises BadDocument."""
    slots = tuple(
        SlotOrder(
            one["key"],
            one["title"],
            tuple(one["parts"]),
            cast_order(one["wears"]) if one["wears"] else None,
            region_of(one["region"]) if one.get("region") else None,
        )
        for one in document["slots"]
    )
    splits = tuple(Split(one["slot"], one["part"]) for one in document["splits"])
    metres = float(document.get("metres", 1.0))
    strokes = tuple(document.get("strokes", ()))
    parse_painting(strokes, document["name"])
    return ModelOrder(document["name"], document["main"], document["files"], splits, slots, metres, strokes)


def plan_models(
    orders: Iterable[ModelOrder],
    sets: Mapping[str, TextureSet],
    library: Library,
    target: Target,
    greens: Mapping[str, tuple[Green, str]] | None = None,
    refused: Mapping[str, str] | None = None,
) -> PlannedCasts:
    """Everything that delivering models for ``target`` will write, below "models": a file each in each of its forms.

    Arguments as of texel.materials.delivered.plan_casts. A model that cannot be delivered, for one because a slot wears
    nothing, is told in ``problems``.
    """
    planned = PlannedCasts()
    orders = list(orders)
    stems = each_once([apply_case(safe_name(one.name), target.case) for one in orders])
    for order, stem in zip(orders, stems, strict=True):
        try:
            bare = [one.title for one in order.slots if one.parts and one.wears is None]
            if bare:
                raise BadDocument("the slot {bare} wears nothing", bare=bare[0])
            maps = [
                slot_maps(one.wears, f"{stem}_{at}", sets, library, target, greens or {}, refused or {})
                for at, one in enumerate(order.slots) if one.wears is not None
            ]  # fmt: skip
            made = [
                _planned(order, f"{stem}.{form}", form, maps, library, target.vertex_colours) for form in target.models
            ]
        except (TexelError, OSError) as error:
            planned.problems.append(f"the model {order.name}: {error}")
            continue
        planned.files += made
        for one in made:
            planned.make[one.path] = partial(_bytes_of, order, one.output, maps, library, target.vertex_colours)
    return planned


def _planned(
    order: ModelOrder, name: str, form: str, maps: list[dict[str, PlannedFile]], library: Library, painted_as: str
) -> PlannedFile:  # fmt: skip
    path = f"{_FOLDER}/{name}"
    check_length(path)
    sources: list[PlannedSource] = [source for slots in maps for one in slots.values() for source in one.sources]
    worn = [one.wears for one in order.slots if one.wears is not None]
    side = max((baked_side(slots) for slots in maps), default=baked_side({}))
    changes = [{name: list(parts) for name, parts in sorted(one.changes.items())} for one in worn]
    regions = [[at, one.document()] for at, one in _regions(order).items()]
    mesh = digest.of_document(
        [
            {name: library.digest(file) for name, file in order.files.items()}, order.main, list(order.splits),
            [one.title for one in order.slots], *([] if order.metres == 1 else [order.metres]),
            *([regions] if regions else []), *([[list(order.strokes), painted_as]] if order.strokes else []),
        ]
    )  # fmt: skip
    return PlannedFile(
        path, "", "model", form, sources=tuple(sources), width=side, height=side, model=order.name, mesh=mesh,
        sheet=digest.of_document([one.master.document for one in worn]), values=digest.of_document(changes),
        slots=tuple((one.title, one.parts, one.wears.name) for one in order.slots if one.wears is not None),
    )  # fmt: skip


def _regions(order: ModelOrder) -> dict[int, Region]:
    return {at: one.region for at, one in enumerate(order.slots) if one.region is not None}


def _bytes_of(order: ModelOrder, form: str, maps: list[dict[str, PlannedFile]], library: Library, painted_as: str
) -> bytes:  # fmt: skip
    files = {name: library.path(file).read_bytes() for name, file in order.files.items()}
    mesh = read_mesh(order.main, files)
    filled = iter(maps)
    worn: list[WornSlot | None] = []
    for one in order.slots:
        if one.wears is None:
            worn.append(None)
            continue
        slots = next(filled)
        texels = {slot: packed_texels(planned, library) for slot, planned in slots.items()}
        cast = FilledCast(one.title, one.wears.changes, texels)
        worn.append(WornSlot(one.title, one.wears.master, cast, baked_side(slots)))
    paint = Paint(parse_painting(order.strokes, order.name), painted_as) if order.strokes else None
    if form == "usdz":
        return bound_usdz(mesh, order.splits, worn, order.metres, _regions(order), paint).data
    named = {**beside(order.main, files), mesh.name: files[order.main]}
    return bound_glb(mesh, named, order.splits, worn, order.metres, _regions(order), paint).data


def titles_of(names: list[str], called: Mapping[str, str]) -> list[str]:
    """What slots are called when they are delivered: as somebody said, by key, else by their own names, each once.

    >>> titles_of(["deck", "deck", ""], {"deck": "Planks"})
    ['Planks', 'deck#2', 'slot 3']
    """
    keys = slot_keys(names)
    return [called.get(key) or key or f"slot {at + 1}" for at, key in enumerate(keys)]
