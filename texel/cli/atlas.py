"""Commands on atlases: several sets on one, and the regions of a set as sets of their own."""

from __future__ import annotations

import argparse
import json
import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from texel.atlas.building import atlas_maps, own_sizes
from texel.atlas.packing import AtlasPlan, clean_levels, plan_atlas
from texel.atlas.regions import Region, crop_of, grid_regions, parse_regions, regions_document
from texel.cli.shared import FINE, Command, Usage, ensure_not_source, folder_named, show, sorted_folder
from texel.errors import BadDocument
from texel.files import encode
from texel.files.writing import write_bytes
from texel.library import Library
from texel.recipes import apply_recipe
from texel.schemas import read_json
from texel.sets import TextureSet

__all__ = ["register"]


def _sorted(args: argparse.Namespace) -> tuple[Library, dict[str, TextureSet]]:
    library, found = sorted_folder(folder_named(args.folder))
    return library, {one.name: one for one in found.sets}


def _named(sets: Mapping[str, TextureSet], names: list[str]) -> dict[str, TextureSet]:
    """Raises BadDocument for a set that is not there."""
    unknown = next((name for name in names if name not in sets), None)
    if unknown is not None:
        raise BadDocument("there is no set {name!r}; there are {listed}", name=unknown, listed=", ".join(sets))
    return {name: sets[name] for name in names} or dict(sets)


def _side(word: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d{1,5})(?:x(\d{1,5}))?", word)
    if match is None:
        raise argparse.ArgumentTypeError(f"{word} is no size; write 2048, or 4096x2048")
    return int(match[1]), int(match[2] or match[1])


def _atlas(args: argparse.Namespace) -> int:
    library, sets = _sorted(args)
    chosen = _named(sets, args.sets or [])
    plan = plan_atlas(own_sizes(chosen, library), args.padding, args.side)
    out = Path(args.output)
    written: list[str] = []
    missing: dict[str, list[str]] = {}
    out.mkdir(parents=True, exist_ok=True)
    for one in atlas_maps(plan, chosen, library):
        kind = "exr" if one.texels.bits == 32 else "png"
        path = out / f"{args.name}_{one.role.value}.{kind}"
        ensure_not_source([path], [library.path(file) for file in library.files])
        write_bytes(encode(one.texels, kind), path)
        written.append(str(path))
        if one.missing:
            missing[one.role.value] = list(one.missing)
    table = out / f"{args.name}_regions.json"
    regions = regions_document(region.document() for region in plan.regions())
    table.write_text(json.dumps(regions, indent=2) + "\n", "utf-8")
    document = {**_told(plan), "written": [*written, str(table)], "missing": missing}
    lines = [
        f"{plan.width} x {plan.height}, {plan.used:.0%} used; the first {clean_levels(plan.padding)} mips stay clean"
    ]
    lines += [f"  {one.set:<32} {one.width} x {one.height} at {one.x}, {one.y}" for one in plan.cells]
    lines += [f"no {role} map: {', '.join(names)}" for role, names in missing.items()]
    show(args, document, "\n".join([*lines, *written, str(table)]))
    return FINE


def _told(plan: AtlasPlan) -> dict[str, Any]:
    return {
        "width": plan.width, "height": plan.height, "padding": plan.padding, "used": round(plan.used, 4),
        "cells": [vars(one) for one in plan.cells],
    }  # fmt: skip


def _regions(args: argparse.Namespace) -> tuple[Region, ...]:
    if bool(args.regions) == bool(args.grid):
        raise Usage("give the regions: a document with --regions, or equal cells with --grid 4x2")
    if args.regions:
        path = Path(args.regions)
        return parse_regions(read_json(path), path.name)
    columns, rows = args.grid
    return grid_regions(columns, rows, args.set)


def _cut(args: argparse.Namespace) -> int:
    library, sets = _sorted(args)
    one = _named(sets, [args.set])[args.set]
    out = Path(args.output)
    out.mkdir(parents=True, exist_ok=True)
    written = []
    for region in _regions(args):
        stem = re.sub(r"[^\w\- ]+", "_", region.name).strip() or "region"
        for role, ref in one.in_use().items():
            texels = apply_recipe(library.map(ref), [crop_of(region)], library.context(ref))
            kind = "exr" if texels.bits == 32 else "png"
            path = out / f"{stem}_{role.value}.{kind}"
            ensure_not_source([path], [library.path(file) for file in library.files])
            write_bytes(encode(texels, kind), path)
            written.append(str(path))
    show(args, {"written": written}, "\n".join(written))
    return FINE


def register(command: Command) -> None:
    """Add the commands."""
    sub = command("atlas", _atlas, "put the sets of a folder onto one atlas, all their maps alike",
                  ("folder", "a folder of textures"))  # fmt: skip
    sub.add_argument("--sets", nargs="+", metavar="SET", help="names of those that go onto it; all without it")
    sub.add_argument("--name", default="atlas", help="what files are called after")
    sub.add_argument("--padding", type=int, default=8, help="texels of room around each: 0, 2, 4, 8, 16, 32 or 64")
    sub.add_argument("--side", type=_side, help="texels, as 2048 or 4096x2048; the smallest that holds all without it")
    sub.add_argument("-o", "--output", required=True, metavar="DIR", help="folder to write maps and regions to")
    sub = command("cut", _cut, "write the regions of a set, as an atlas has them, as maps of their own",
                  ("folder", "a folder of textures"))  # fmt: skip
    sub.add_argument("--set", required=True, help="name of the set")
    sub.add_argument("--regions", metavar="FILE", help="regions document (JSON), as `texel atlas` writes it")
    sub.add_argument("--grid", type=_side, metavar="CxR", help="columns and rows of equal cells, as 4x2")
    sub.add_argument("-o", "--output", required=True, metavar="DIR", help="folder to write maps to")
