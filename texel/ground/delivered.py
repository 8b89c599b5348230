"""Patches of ground in a delivery: weights, heights, the layers' maps, material, and maps for far away."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, TypeVar

import numpy as np

from texel import digest
from texel.delivery.build import packed_texels
from texel.delivery.plan import check_length
from texel.delivery.planned import PlannedFile, PlannedSource
from texel.delivery.target import Target
from texel.errors import BadDocument, TexelError
from texel.files import encode
from texel.ground.material import ground_master, lost_of, slot_names
from texel.ground.patch import Patch, parse_patch
from texel.ground.surface import Ground, far_maps
from texel.ground.terrain import Heights, heights_of
from texel.ground.tiles import Tile, tile_of
from texel.ground.weights import lay, packed_weights, stored_weights
from texel.image import Texels, narrow, widen
from texel.library import Library
from texel.materials.baking import bake
from texel.materials.delivered import CastOrder, PlannedCasts, baked_side, cast_order, slot_maps
from texel.materials.exchange.mtlx_write import CastOf, materialx_of
from texel.materials.exchange.names import each_once
from texel.materials.master import parse_master
from texel.naming.compose import apply_case, safe_name
from texel.normals.flip import flip_green
from texel.roles import Green, Role, Transfer
from texel.sets import TextureSet

__all__ = ["GroundOrder", "WornLayer", "ground_order", "plan_ground", "worn_layer"]

_FOLDER = "ground"
_Made = TypeVar("_Made")
_MAPS = ("color", "normal", "pack")
_EIGHT, _SIXTEEN = np.dtype(np.uint8), np.dtype(np.uint16)


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
        raise BadDocument("the layer {bare} wears nothing", bare=bare)
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


@dataclass(frozen=True)
class WornLayer:
    """What a layer wears, with the maps of its slots."""

    order: CastOrder
    slots: Mapping[str, PlannedFile]

    @property
    def side(self) -> int:
        """Texels a side of its maps."""
        return baked_side(self.slots)

    @property
    def sources(self) -> list[PlannedSource]:
        return [source for one in self.slots.values() for source in one.sources]

    def maps(self, library: Library) -> dict[Role, Texels]:
        """Its maps, baked; normals Y+. Raises TexelError."""
        maps = {slot: packed_texels(one, library) for slot, one in self.slots.items()}
        return bake(self.order.master, maps, self.order.changes, self.side, self.side).maps


def worn_layer(
    order: CastOrder,
    sets: Mapping[str, TextureSet],
    library: Library,
    target: Target,
    greens: Mapping[str, tuple[Green, str]] | None = None,
    refused: Mapping[str, str] | None = None,
) -> WornLayer:
    """Arguments as of plan_ground. Raises TexelError for what cannot be delivered."""
    return WornLayer(order, slot_maps(order, "layer", sets, library, target, greens or {}, refused or {}))


class _Planned:
    """One patch: what it writes, and what builds each file; what several of them need is made once."""

    def __init__(
        self, order: GroundOrder, stem: str, sets: Mapping[str, TextureSet], library: Library, target: Target,
        greens: Mapping[str, tuple[Green, str]], refused: Mapping[str, str],
    ):  # fmt: skip
        self._order, self._base, self._library, self._green = order, f"{_FOLDER}/{stem}", library, target.green
        self._stem, self._patch = stem, order.patch
        self._layers = [worn_layer(one, sets, library, target, greens, refused) for one in order.layers]
        self._called = each_once([apply_case(safe_name(one.name), target.case) for one in self._patch.layers])
        self._once: dict[Any, Any] = {}
        self._lock = threading.RLock()

    def _made_once(self, name: Any, make: Callable[[], _Made]) -> _Made:
        """Files are built by several threads, and many need the same."""
        with self._lock:
            if name not in self._once:
                self._once[name] = make()
            made: _Made = self._once[name]
            return made

    def files(self) -> list[tuple[PlannedFile, Callable[[], bytes]]]:
        """Each with what builds it; each is named by what it is made of, and by nothing else."""
        patch, document = self._patch, self._order.document
        land = [patch.metres, patch.side, vars(patch.shape), self._height_digest()]
        rules = [[one["name"], one.get("rule", [])] for one in document["layers"]]
        weights = [land, rules, document.get("strokes", [])]
        laid = [[one.name, one.tile, one.turn, one.repeat, one.edge] for one in patch.layers]
        worn = [self._worn(one) for one in self._layers]
        every = [source for one in self._layers for source in one.sources]
        largest = max(one.side for one in self._layers)
        made = [
            self._file(
                self._weight_path(at + 1), patch.side, [weights, patch.each, patch.bits], partial(self._weights, at)
            )
            for at in range(patch.weight_files)
        ]  # fmt: skip
        made.append(self._file(f"{self._base}_height.png", patch.side, land, self._height))
        for at, layer in enumerate(self._layers):
            of = [worn[at], layer.side, self._green.value]
            made += [
                self._file(path, layer.side, of, partial(self._layer, at, what), layer.sources)
                for what, path in self._map_paths(at).items()
            ]
        far = [weights, laid, worn, self._green.value, patch.far]
        made += [
            self._file(path, patch.far, far, partial(self._far, what), every)
            for what, path in self._far_paths().items()
        ]
        # Where layers lie is in the weights: the material changes with how they are laid, and with what they wear.
        of = [laid, patch.name, patch.metres, patch.each, worn, self._green.value, self._called]
        main, make = self._file(f"{self._base}.mtlx", largest, of, self._material, every)
        return [*made, (replace(main, about=self._about()), make)]

    def _file(
        self, path: str, side: int, of: Any, make: Callable[[], bytes], sources: Iterable[PlannedSource] = ()
    ) -> tuple[PlannedFile, Callable[[], bytes]]:
        planned = PlannedFile(
            path, "", "ground", path.rpartition(".")[2], sources=tuple(sources), width=side, height=side,
            ground=self._patch.name, mesh=digest.of_document(of),
        )  # fmt: skip
        return planned, make

    def _weight_path(self, number: int) -> str:
        return f"{self._base}_weights_{number}.png"

    def _map_paths(self, at: int) -> dict[str, str]:
        return {what: f"{_FOLDER}/maps/{self._stem}_{self._called[at]}_{what}.png" for what in _MAPS}

    def _far_paths(self) -> dict[str, str]:
        return {what: f"{self._base}_far_{what}.png" for what in ("color", "normal")}

    @staticmethod
    def _worn(layer: WornLayer) -> list[Any]:
        order = layer.order
        return [order.master.document, {name: list(parts) for name, parts in sorted(order.changes.items())}]

    def _height_digest(self) -> str:
        return self._library.digest(self._order.height) if self._order.height else ""

    def _about(self) -> dict[str, Any]:
        """What the manifest says of the patch: where its files are, and how its layers are laid."""
        patch = self._patch
        layers = []
        for at, layer in enumerate(patch.layers):
            number, channel = patch.weight_place(at)
            layers.append({
                "layer": layer.name, "wears": self._order.layers[at].name, "tile": layer.tile, "turn": layer.turn,
                "repeat": layer.repeat, "edge": layer.edge, "channel": channel,
                "weights": self._weight_path(number), "maps": self._map_paths(at),
            })  # fmt: skip
        return {
            "metres": patch.metres, "low": patch.shape.low, "high": patch.shape.high,
            "height": f"{self._base}_height.png", "material": f"{self._base}.mtlx", "far": self._far_paths(),
            "layers": layers, "lost": lost_of(patch),
        }  # fmt: skip

    # What is built.

    def _heights(self) -> Heights:
        height = self._order.height
        return self._made_once(
            "heights", lambda: heights_of(self._patch, self._library.texels(height) if height else None)
        )  # fmt: skip

    def _laid(self) -> Any:
        return self._made_once("laid", lambda: lay(self._patch, self._heights()).weights)

    def _built(self, at: int) -> tuple[dict[str, bytes], Tile]:
        """The files of a layer, and its tile: its maps are large, and are not kept."""

        def make() -> tuple[dict[str, bytes], Tile]:
            layer = self._layers[at]
            maps = layer.maps(self._library)
            files = {what: encode(layer_file(maps, what, layer.side, self._green), "png") for what in _MAPS}
            return files, tile_of(maps)

        return self._made_once(("layer", at), make)

    def _weights(self, at: int) -> bytes:
        stored = self._made_once("stored", lambda: stored_weights(self._laid(), self._patch.bits))
        return encode(packed_weights(stored, self._patch.each)[at], "png")

    def _height(self) -> bytes:
        shape = self._patch.shape
        unit = (self._heights().astype(np.float64) - shape.low) / max(shape.high - shape.low, 1e-9)
        pixels = narrow(np.clip(unit, 0, 1), _SIXTEEN)[:, :, None]
        return encode(Texels(pixels, "y", Transfer.LINEAR, Role.HEIGHT), "png")

    def _layer(self, at: int, what: str) -> bytes:
        return self._built(at)[0][what]

    def _far(self, what: str) -> bytes:
        def make() -> dict[Role, Texels]:
            tiles = [self._built(at)[1] for at in range(len(self._layers))]
            return far_maps(Ground(self._patch, self._heights(), self._laid(), tiles), self._patch.far, self._green)

        made = self._made_once("far", make)
        return encode(made[Role.BASE_COLOR if what == "color" else Role.NORMAL], "png")

    def _material(self) -> bytes:
        def beside(path: str) -> str:
            return path.removeprefix(f"{_FOLDER}/")

        numbers = range(1, self._patch.weight_files + 1)
        files = {f"weights{number}": beside(self._weight_path(number)) for number in numbers}
        for at in range(len(self._layers)):
            files |= {slot: beside(self._map_paths(at)[what]) for what, slot in slot_names(at).items()}
        master = parse_master(ground_master(self._patch, self._green), self._patch.name)
        return materialx_of(master, [CastOf(self._patch.name, {}, files)]).encode()


def layer_file(maps: Mapping[Role, Texels], what: str, side: int, green: Green) -> Texels:
    """One of the delivered maps of a layer, 8 bits: "color" with the relief in alpha, "normal", or "pack", which is
    occlusion, roughness and metallic. What is missing is neutral."""

    def grey(role: Role, missing: float) -> Any:
        if role not in maps:
            return np.full((side, side), round(missing * 255), np.uint8)
        return widen(maps[role].pixels[:, :, 0], _EIGHT)

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
