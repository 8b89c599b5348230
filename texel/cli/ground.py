"""The command on ground: where the layers of a patch lie, how their tiles are seen to repeat, the patch delivered."""

from __future__ import annotations

import argparse
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from texel.cli.shared import FINE, Command, ensure_not_source, folder_named, show, sorted_folder
from texel.delivery import plan_delivery, target_named
from texel.delivery.folder import deliver_folder
from texel.errors import BadDocument, UnreadableImage
from texel.ground.delivered import GroundOrder, ground_order, plan_ground, worn_layer
from texel.ground.patch import Patch, parse_patch
from texel.ground.repetition import Repetition, measure_repetition
from texel.ground.surface import Ground
from texel.ground.terrain import heights_of
from texel.ground.tiles import tile_of
from texel.ground.weights import lay
from texel.library import Library
from texel.meshes.plain import plain_order
from texel.schemas import read_json
from texel.sets import TextureSet

__all__ = ["register"]

_HEIGHT = "ground/height"
# What is drawn and delivered for where nobody names a target.
_TARGET = "metal-rough-gloss-y-plus"


def _order(document: Mapping[str, Any], patch: Patch, sets: Mapping[str, TextureSet]) -> GroundOrder:
    worn = []
    for layer in patch.layers:
        if layer.wears and layer.wears not in sets:
            raise BadDocument(
                "the layer {layer} wears {wears}, and the folder has no such set", layer=layer.name, wears=layer.wears
            )
        worn.append(plain_order(layer.wears, set(sets[layer.wears].in_use()), relief=True) if layer.wears else None)
    return ground_order(
        {"ground": document, "height": _HEIGHT if patch.shape.kind == "map" else "", "layers": worn}
    )  # fmt: skip


def _ground(args: argparse.Namespace) -> int:
    path = Path(args.document)
    document = read_json(path)
    patch = parse_patch(document, path.name)
    library, sets = Library({}), {}
    if args.folder:
        library, found = sorted_folder(folder_named(args.folder))
        sets = {one.name: one for one in found.sets}
    heights_file = path.parent / patch.shape.map
    if patch.shape.kind == "map":
        if not heights_file.is_file():
            raise UnreadableImage(patch.shape.map, "there is no such height map beside the document")
        library = Library({**{name: library.path(name) for name in library.files}, _HEIGHT: heights_file})
    picture = library.texels(_HEIGHT) if patch.shape.kind == "map" else None
    heights = heights_of(patch, picture)
    weights = lay(patch, heights).weights
    told: dict[str, Any] = {
        "name": patch.name, "metres": patch.metres,
        "layers": [
            {"layer": one.name, "share": float(np.mean(weight)), "tile": one.tile}
            for one, weight in zip(patch.layers, weights, strict=True)
        ],
    }  # fmt: skip
    lines = [f"{patch.name}: {patch.metres:g} x {patch.metres:g} m, {len(patch.layers)} layers"]
    lines += [f"  {one['layer']:<20} {one['share']:6.1%}  tile {one['tile']:g} m" for one in told["layers"]]
    if args.distance is not None:
        order, target = _order(document, patch, sets), target_named(_TARGET)
        ground = Ground(
            patch,
            heights,
            weights,
            [tile_of(worn_layer(one, sets, library, target).maps(library)) for one in order.layers],
        )
        found_ones = [
            one for name in (args.layer or [None])
            for one in measure_repetition(ground, args.distance, name) if name in (None, one.layer)
        ]  # fmt: skip
        told["repetition"] = [one.document() for one in found_ones]
        lines += [line for one in found_ones for line in _lines(one, args.distance)]
    if args.output:
        told["written"] = _write(args, _order(document, patch, sets), sets, library, path)
        lines.append(f"  written to {args.output}: {len(told['written'])} files")
    show(args, told, "\n".join(lines))
    return FINE


def _lines(one: Repetition, distance: float) -> list[str]:
    if one.strength is None:
        return [f"  {one.layer}: too little of it is seen from {distance:g} m to tell"]
    seen = "is seen to repeat" if one.is_seen else "is not seen to repeat"
    lines = [f"  {one.layer}: {seen} from {distance:g} m (strength {one.strength:.2f})"]
    if one.remedies and one.vanishes:
        lines.append(f"    not seen from a tile of {one.vanishes:.3g} m on")
    for r in one.remedies:
        words = r.layer.repeat.replace("_", " ")
        lines.append(f"    {r.strength:.2f} with tile {r.layer.tile:g} m, turn {r.layer.turn:g}, {words}")
    return lines


def _write(
    args: argparse.Namespace, order: GroundOrder, sets: Mapping[str, TextureSet], library: Library, document: Path
) -> list[str]:
    out = Path(args.output)
    ensure_not_source([out], [document, *(library.path(name) for name in library.files)])
    target = target_named(args.target or _TARGET)
    planned = plan_ground([order], sets, library, target)
    if planned.problems:
        raise BadDocument("{problems}", problems="; ".join(planned.problems))
    plan = plan_delivery([], library, target, casts=planned.files)
    built, _ = deliver_folder(plan, library, out, make=planned.make)
    if built.problems:
        raise BadDocument("{problems}", problems="; ".join(built.problems))
    return [one.path for one in built.files]


def register(command: Command) -> None:
    sub = command("ground", _ground, "look at a patch of ground: where its layers lie, how tiles repeat; deliver it",
                  ("document", "a document of schema ground"))  # fmt: skip
    sub.add_argument("--folder", help="a folder of textures, sorted into the sets that the layers wear")
    sub.add_argument("--distance", type=float, help="measure how strongly tiles are seen from so many metres")
    sub.add_argument("--layer", action="append", help="only this layer, with what would help; may be given again")
    sub.add_argument("--target", help="green direction and largest maps: a target's name or document")
    sub.add_argument("-o", "--output", help="deliver the patch into this folder")
