"""A master and casts of it as the files of one format."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from dataclasses import dataclass

from texel.channels.layout import Layout
from texel.errors import BadDocument
from texel.files import encode
from texel.materials.baking import bake, packed_maps
from texel.materials.exchange.fixed import FilledCast
from texel.materials.exchange.gltf_write import glb_of
from texel.materials.exchange.imported import cast_document
from texel.materials.exchange.mtlx_write import CastOf, materialx_of
from texel.materials.exchange.names import each_once
from texel.materials.exchange.usd_write import usda_of
from texel.materials.glsl import shader_of
from texel.materials.master import Master
from texel.roles import Green

__all__ = ["FORMATS", "MAPS", "BakeOrder", "Exported", "export", "export_maps"]

MAPS = "maps"

# By the ending of the main file: what it is, and whether maps are baked for it.
FORMATS = {
    "mtlx": "MaterialX: the sheet as a graph, casts as what they change",
    "glb": "glTF 2.0: one file, baked where it cannot say the sheet; casts as variants",
    "usda": "OpenUSD: preview surfaces over baked maps",
    "glsl": "GLSL: a function, with a table of its uniforms",
    "json": "Our own document",
}


@dataclass(frozen=True)
class Exported:
    """files: bytes by path, the main file first. lost: what the format cannot say. baked: inputs, by cast."""

    files: dict[str, bytes]
    lost: tuple[str, ...] = ()
    baked: dict[str, tuple[str, ...]] | None = None


def export(master: Master, kind: str, name: str, casts: Sequence[FilledCast], side: int = 1024) -> Exported:
    """Files of a format of FORMATS; ``name`` is the main file's, without its ending. side: texels of baked maps.

    Without casts there is one with the master's defaults. Raises BadDocument for an unknown format or size.
    """
    if kind not in FORMATS:
        raise BadDocument(f"there is no format {kind}; there are {', '.join(FORMATS)}")
    given = list(casts) or [FilledCast(master.title, {}, {})]
    main = f"{name}.{kind}"
    if kind == "glsl":
        return Exported({main: _glsl(master).encode()})
    if kind == "json":
        return Exported(_documents(master, main, name, casts))
    if kind == "glb":
        written = glb_of(master, given, side)
        return Exported({main: written.data}, written.lost, written.baked)
    if kind == "usda":
        stage = usda_of(master, given, side)
        pictures = {path: encode(texels, "png") for path, texels in stage.maps.items()}
        return Exported({main: stage.text.encode(), **pictures}, stage.lost)
    return _materialx(master, main, given)


@dataclass(frozen=True)
class BakeOrder:
    """Baked maps as they are wanted. layouts: packed maps that are made in place of their roles' own."""

    width: int
    height: int
    bits: int = 8
    green: Green = Green.UP
    layouts: tuple[Layout, ...] = ()


def export_maps(master: Master, casts: Sequence[FilledCast], order: BakeOrder) -> Exported:
    """PNG files of every cast. Raises BadDocument for a size out of range."""
    files: dict[str, bytes] = {}
    for cast, stem in zip(casts, _stems(casts), strict=True):
        made = bake(master, cast.maps, cast.changes, order.width, order.height, order.bits, order.green)
        for name, texels in packed_maps(made, order.layouts).items():
            files[f"{stem}_{name}.png"] = encode(texels, "png")
    return Exported(files)


def _materialx(master: Master, main: str, casts: Sequence[FilledCast]) -> Exported:
    pictures: dict[str, bytes] = {}
    written = []
    for cast, stem in zip(casts, _stems(casts), strict=True):
        files = {slot: f"maps/{stem}_{slot}.png" for slot in cast.maps}
        pictures |= {files[slot]: encode(texels, "png") for slot, texels in cast.maps.items()}
        written.append(CastOf(cast.name, cast.changes, files))
    return Exported({main: materialx_of(master, written).encode(), **pictures})


def _documents(master: Master, main: str, name: str, casts: Sequence[FilledCast]) -> dict[str, bytes]:
    found = {main: master.document}
    for cast, stem in zip(casts, _stems(casts), strict=True):
        found[f"{name}_{stem}.json"] = cast_document(master, CastOf(cast.name, cast.changes))
    return {path: (json.dumps(one, indent=2, ensure_ascii=False) + "\n").encode() for path, one in found.items()}


def _stems(casts: Sequence[FilledCast]) -> list[str]:
    """Names of casts as parts of file names, each once."""
    return each_once(re.sub(r"[^a-z0-9]+", "_", cast.name.lower()).strip("_")[:60] or "cast" for cast in casts)


def _glsl(master: Master) -> str:
    shader = shader_of(master)
    lines = [f"// {master.title}"]
    for one in shader.uniforms:
        if "slot" in one:
            told = f"the map of slot {one['slot']}"
        else:
            told = f"parameter {one['parameter']}, begins at {', '.join(f'{part:g}' for part in one['default'])}"
        lines.append(f"// {one['type']} {one['name']}: {told}")
    return "\n".join([*lines, "", shader.code])
