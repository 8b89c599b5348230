"""Patches of ground in a delivery: weights, heights, the layers' maps, material, and maps for far away."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property, partial
from typing import Any

import numpy as np

from texel import digest
from texel.delivery.build import packed_texels
from texel.delivery.plan import check_length
from texel.delivery.planned import PlannedFile, PlannedSource
from texel.delivery.target import Target
from texel.document_types import MasterDocument
from texel.errors import BadDocument, TexelError
from texel.files import encode
from texel.ground.material import ground_master, lost_of, slot_names
from texel.ground.patch import Patch, parse_patch
from texel.ground.surface import Ground, far_maps
from texel.ground.terrain import Heights, heights_of
from texel.ground.tiles import Tile, tile_of
from texel.ground.weights import lay, packed_weights, stored_weights
from texel.image import Texels, narrow
from texel.library import Library
from texel.materials.baking import LARGEST, bake
from texel.materials.delivered import BAKED_SIDE, CastOrder, PlannedCasts, cast_order, slot_maps
from texel.materials.exchange.mtlx_write import CastOf, materialx_of
from texel.materials.exchange.names import each_once
from texel.materials.master import parse_master
from texel.meshes.plain import plain_master
from texel.naming.compose import apply_case, safe_name
from texel.normals.flip import flip_green
from texel.roles import Green, Role, Transfer
from texel.sets import TextureSet

__all__ = ["GroundOrder", "ground_order", "ground_sheet", "layer_maps", "layer_tile", "plan_ground"]

_FOLDER = "ground"
_STRETCH = np.float64(65535)


def ground_sheet(roles: Iterable[Role]) -> MasterDocument:
    """The master that stands for a set on a layer: every map that it has, its height as relief."""
    document = plain_master(set(roles))
    if Role.HEIGHT in set(roles):
        document["slots"] = [
            *document.get("slots", []), {"name": "relief", "title": "Height", "role": "height", "default": "mid"}
        ]  # fmt: skip
        document["inputs"]["height"] = "relief"
    return document


@dataclass(frozen=True)
class GroundOrder:
    """A patch to be delivered. document: of schema ground; height: file of the library with its height map, "" for
    none; layers: what each wears."""

    patch: Patch
    document: Mapping[str, Any]
    height: str
    layers: tuple[CastOrder, ...]


def ground_order(document: Mapping[str, Any]) -> GroundOrder:
    """A patch from what is kept of an order: ground, height, and layers, what each wears. Raises BadDocument."""
    patch = parse_patch(document["ground"])
    bare = next((one.name for one, worn in zip(patch.layers, document["layers"], strict=True) if not worn), None)
    if bare is not None:
        raise BadDocument(f"the layer {bare} wears nothing")
    layers = tuple(cast_order(one) for one in document["layers"])
    return GroundOrder(patch, document["ground"], document["height"], layers)


def plan_ground(
    orders: Iterable[GroundOrder],
    sets: Mapping[str, TextureSet],
    library: Library,
    target: Target,
    greens: Mapping[str, tuple[Green, str]] | None = None,
    refused: Mapping[str, str] | None = None,
) -> PlannedCasts:
    """Everything that delivering patches for ``target`` will write, below "ground".

    Arguments as of texel.materials.delivered.plan_casts. A patch that cannot be delivered is told in ``problems``.
    """
    planned = PlannedCasts()
    orders = list(orders)
    stems = each_once([apply_case(safe_name(one.patch.name), target.case) for one in orders])
    for order, stem in zip(orders, stems, strict=True):
        try:
            some = _Planned(order, stem, sets, library, target, greens or {}, refused or {}).files()
        except (TexelError, OSError) as error:
            planned.problems.append(f"the ground {order.patch.name}: {error}")
            continue
        for file, make in some:
            check_length(file.path)
            planned.files.append(file)
            planned.make[file.path] = make
    return planned


class _Planned:
    """One patch: what it writes, and what builds each file; what several of them need is made once."""

    def __init__(
        self, order: GroundOrder, stem: str, sets: Mapping[str, TextureSet], library: Library, target: Target,
        greens: Mapping[str, tuple[Green, str]], refused: Mapping[str, str],
    ):  # fmt: skip
        self._order, self._stem, self._library, self._target = order, stem, library, target
        self._patch = order.patch
        self._slots = [
            slot_maps(one, f"{stem}_{at + 1}", sets, library, target, greens, refused)
            for at, one in enumerate(order.layers)
        ]
        self._called = each_once([apply_case(safe_name(one.name), target.case) for one in self._patch.layers])

    def files(self) -> list[tuple[PlannedFile, Callable[[], bytes]]]:
        patch = self._patch
        shape = [patch.metres, patch.side, vars(patch.shape), self._height_digest()]
        laid = [shape, self._order.document["layers"], self._order.document.get("strokes", []), patch.each, patch.bits]
        count = (len(patch.layers) + patch.each - 1) // patch.each
        made = [
            self._file(f"weights_{at + 1}.png", patch.side, laid, partial(self._weights, at)) for at in range(count)
        ]
        made.append(self._file("height.png", patch.side, shape, self._height))
        for at, called in enumerate(self._called):
            for what in ("color", "normal", "pack"):
                made.append(self._layer_file(at, called, what))
        every = [source for at in range(len(patch.layers)) for source in self._sources(at)]
        green = self._target.green.value
        whole = [laid, self._worn(), green]
        for what in ("far_color", "far_normal"):
            made.append(self._file(f"{what}.png", patch.far, [whole, patch.far], partial(self._far, what), every))
        # Where layers lie is in the weights: the material changes with how they are laid, and with what they wear.
        of_material = [self._order.document["layers"], patch.metres, patch.each, self._worn(), green, self._called]
        main, make = self._file("mtlx", self._side(None), of_material, self._material, every)
        return [*made, (replace(main, about=self._about()), make)]

    def _file(
        self, ending: str, side: int, of: Any, make: Callable[[], bytes], sources: Iterable[PlannedSource] = ()
    ) -> tuple[PlannedFile, Callable[[], bytes]]:
        dot = "." if ending == "mtlx" else "_"
        path = f"{_FOLDER}/{self._stem}{dot}{ending}"
        return self._planned(path, side, of, sources), make

    def _planned(self, path: str, side: int, of: Any, sources: Iterable[PlannedSource]) -> PlannedFile:
        return PlannedFile(
            path, "", "ground", path.rpartition(".")[2], sources=tuple(sources), width=side, height=side,
            ground=self._patch.name, mesh=digest.of_document(of),
        )  # fmt: skip

    def _layer_file(self, at: int, called: str, what: str) -> tuple[PlannedFile, Callable[[], bytes]]:
        side = self._side(at)
        path = f"{_FOLDER}/maps/{self._stem}_{called}_{what}.png"
        of = [self._worn()[at], side, self._target.green.value]
        return self._planned(path, side, of, self._sources(at)), partial(self._layer, at, what)

    def _worn(self) -> list[Any]:
        return [
            [one.master.document, {name: list(parts) for name, parts in sorted(one.changes.items())}]
            for one in self._order.layers
        ]

    def _sources(self, at: int) -> list[PlannedSource]:
        return [source for one in self._slots[at].values() for source in one.sources]

    def _side(self, at: int | None) -> int:
        """Texels a side of a layer's maps, or of the largest of all."""
        some = self._slots if at is None else [self._slots[at]]
        return min(
            LARGEST, max((max(one.width, one.height) for maps in some for one in maps.values()), default=BAKED_SIDE)
        )

    def _height_digest(self) -> str:
        return self._library.digest(self._order.height) if self._order.height else ""

    def _about(self) -> dict[str, Any]:
        """What the manifest says of the patch: where its files are, and how its layers are laid."""
        patch, base = self._patch, f"{_FOLDER}/{self._stem}"
        layers = []
        for at, (layer, called) in enumerate(zip(patch.layers, self._called, strict=True)):
            maps = {what: f"{_FOLDER}/maps/{self._stem}_{called}_{what}.png" for what in ("color", "normal", "pack")}
            layers.append({
                "layer": layer.name, "wears": self._order.layers[at].name, "tile": layer.tile, "turn": layer.turn,
                "repeat": layer.repeat, "edge": layer.edge, "channel": "rgba"[at % patch.each],
                "weights": f"{base}_weights_{at // patch.each + 1}.png", "maps": maps,
            })  # fmt: skip
        return {
            "metres": patch.metres, "low": patch.shape.low, "high": patch.shape.high, "height": f"{base}_height.png",
            "material": f"{base}.mtlx", "far": {what: f"{base}_far_{what}.png" for what in ("color", "normal")},
            "layers": layers, "lost": lost_of(patch),
        }  # fmt: skip

    # What is built.

    @cached_property
    def _heights(self) -> Heights:
        picture = None
        if self._order.height:
            picture = self._library.texels(self._order.height)
        return heights_of(self._patch, picture)

    @cached_property
    def _laid(self) -> Any:
        return lay(self._patch, self._heights).weights

    @cached_property
    def _tiles(self) -> list[Tile]:
        return [tile_of(self._maps(at)) for at in range(len(self._patch.layers))]

    def _maps(self, at: int) -> dict[Role, Texels]:
        order, slots = self._order.layers[at], self._slots[at]
        maps = {slot: packed_texels(one, self._library) for slot, one in slots.items()}
        return layer_maps(order, maps, self._side(at))

    def _weights(self, at: int) -> bytes:
        stored = stored_weights(self._laid, self._patch.bits)
        return encode(packed_weights(stored, self._patch.each)[at], "png")

    def _height(self) -> bytes:
        shape = self._patch.shape
        unit = (self._heights.astype(np.float64) - shape.low) / max(shape.high - shape.low, 1e-9)
        pixels = np.rint(np.clip(unit, 0, 1) * _STRETCH).astype(np.uint16)[:, :, None]
        return encode(Texels(pixels, "y", Transfer.LINEAR, Role.HEIGHT), "png")

    def _layer(self, at: int, what: str) -> bytes:
        return encode(layer_file(self._maps(at), what, self._side(at), self._target.green), "png")

    def _far(self, what: str) -> bytes:
        made = far_maps(
            Ground(self._patch, self._heights, self._laid, self._tiles), self._patch.far, self._target.green
        )
        return encode(made[Role.BASE_COLOR if what == "far_color" else Role.NORMAL], "png")

    def _material(self) -> bytes:
        document = ground_master(self._patch)
        for slot in document.get("slots", []):
            if slot.get("role") == "normal":
                slot["green"] = "down" if self._target.green is Green.DOWN else "up"
        files = {
            f"weights{at + 1}": f"{self._stem}_weights_{at + 1}.png"
            for at in range((len(self._patch.layers) + self._patch.each - 1) // self._patch.each)
        }
        for at, called in enumerate(self._called):
            files |= {slot: f"maps/{self._stem}_{called}_{what}.png" for what, slot in slot_names(at).items()}
        master = parse_master(document, self._patch.name)
        return materialx_of(master, [CastOf(self._patch.name, {}, files)]).encode()


def layer_maps(order: CastOrder, maps: Mapping[str, Texels], side: int) -> dict[Role, Texels]:
    """The maps of what a layer wears, baked; normals Y+. Raises BadDocument."""
    return bake(order.master, maps, order.changes, side, side).maps


def layer_tile(order: CastOrder, maps: Mapping[str, Texels], side: int) -> Tile:
    """The tile of what a layer wears."""
    return tile_of(layer_maps(order, maps, side))


def layer_file(maps: Mapping[Role, Texels], what: str, side: int, green: Green) -> Texels:
    """One of the delivered maps of a layer, 8 bits: "color" with the relief in alpha, "normal", or "pack", which is
    occlusion, roughness and metallic. What is missing is neutral."""

    def grey(role: Role, missing: float) -> Any:
        if role not in maps:
            return np.full((side, side), round(missing * 255), np.uint8)
        pixels = maps[role].pixels[:, :, 0]
        return pixels if pixels.dtype == np.uint8 else narrow(pixels / 65535, np.dtype(np.uint8))

    if what == "normal":
        flat = np.full((side, side, 3), (128, 128, 255), np.uint8)
        plain = Texels(flat, "rgb", Transfer.LINEAR, Role.NORMAL, Green.UP)
        normal = maps.get(Role.NORMAL, plain)
        return flip_green(normal) if green is Green.DOWN else normal
    if what == "pack":
        planes = [grey(Role.OCCLUSION, 1), grey(Role.ROUGHNESS, 0.5), grey(Role.METALLIC, 0)]
        return Texels(np.stack(planes, axis=-1), "rgb", Transfer.LINEAR)
    colour = maps[Role.BASE_COLOR].pixels if Role.BASE_COLOR in maps else np.full((side, side, 3), 188, np.uint8)
    return Texels(np.dstack([colour, grey(Role.HEIGHT, 0.5)]), "rgba", Transfer.SRGB, Role.BASE_COLOR)
