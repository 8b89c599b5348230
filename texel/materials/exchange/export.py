"""A master and casts of it as the files of one format."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from texel.channels.layout import Layout
from texel.errors import BadDocument
from texel.files import encode
from texel.materials.baking import BAKED, bake, packed_maps
from texel.materials.evaluate import values_of
from texel.materials.exchange.fixed import FilledCast
from texel.materials.exchange.gltf_write import glb_of
from texel.materials.exchange.imported import cast_document
from texel.materials.exchange.lost import (
    BLACK,
    lost_by_baking,
    lost_by_fixing,
    lost_in_open_pbr,
    lost_inputs,
    lost_starts,
    lost_structure,
    lost_tiles,
)
from texel.materials.exchange.mtlx_shaders import GLTF_SURFACE, OPEN_PBR
from texel.materials.exchange.mtlx_write import CastOf, materialx_of
from texel.materials.exchange.names import each_once
from texel.materials.exchange.usd_write import usda_of
from texel.materials.glsl import shader_of
from texel.materials.master import INPUTS, Master
from texel.materials.sampling import sampled_plain
from texel.roles import Green, Transfer
from texel.tiles import ANY

__all__ = ["ENDINGS", "FORMATS", "MAPS", "OPENPBR", "WRITTEN_AS", "BakeOrder", "Exported", "export", "export_maps"]

MAPS = "maps"
OPENPBR = "openpbr"

# By the ending of the main file, "maps" for baked maps alone, and "openpbr" for MaterialX with that surface: what it is
# called, what becomes of a sheet in it.
WRITTEN_AS: dict[str, dict[str, str]] = {
    "mtlx": {"title": "MaterialX", "help": "The sheet as a graph; a cast is what it changes."},
    OPENPBR: {"title": "MaterialX, OpenPBR", "help": "The same graph for renderers that take OpenPBR's surface."},
    "glb": {"title": "glTF 2.0", "help": "One file; what glTF cannot compute is baked; casts are variants."},
    "usda": {"title": "OpenUSD", "help": "Preview surfaces over baked maps; casts specialise one base."},
    "glsl": {"title": "GLSL", "help": "A function, with the uniforms and maps of each cast."},
    "json": {"title": "Document", "help": "The master and its casts as they are stored here."},
    MAPS: {"title": "Maps", "help": "Baked as PNG: a map for each role, or packed by layouts."},
}
FORMATS = tuple(key for key in WRITTEN_AS if key != MAPS)
# What a main file may end in.
ENDINGS = tuple(key for key in FORMATS if key != OPENPBR)


@dataclass(frozen=True)
class Exported:
    """files: bytes by path, the main file first. lost: what the format cannot say. baked: inputs, by cast."""

    files: dict[str, bytes]
    lost: tuple[str, ...] = ()
    baked: dict[str, tuple[str, ...]] | None = None


def export(
    master: Master, kind: str, name: str, casts: Sequence[FilledCast], side: int = 1024,
    vertex: tuple[float, float, float, float] = BLACK,
) -> Exported:  # fmt: skip
    """Files of a format of FORMATS; ``name`` is the main file's, without its ending. side: texels of baked maps;
    vertex: the vertex colour in them, 0 to 1.

    Without casts there is one with the master's defaults. Raises BadDocument for an unknown format or size.
    """
    if kind not in FORMATS:
        raise BadDocument("there is no format {kind}; there are {listed}", kind=kind, listed=", ".join(FORMATS))
    given = list(casts) or [FilledCast(master.title, {}, {})]
    main = f"{name}.{kind}"
    if kind == "glsl":
        lost = lost_structure(master)
        if master.opacity_mode != "opaque":
            lost.append(f"Opacity mode: the function gives opacity; {_mode_words(master)} is for whoever calls it")
        return Exported({main: _glsl(master).encode(), **_uniform_tables(master, name, given)}, tuple(lost))
    if kind == "json":
        return Exported(_documents(master, main, name, casts))
    if kind == "glb":
        written = glb_of(master, given, side, vertex)
        first = [f"Tiles: glTF has none; of {one.name} only {one.numbers[0]} is written" for one in given if one.tiles]
        return Exported({main: written.data}, (*written.lost, *first), written.baked)
    if kind == "usda":
        stage = usda_of(master, given, side, vertex=vertex)
        pictures = {path: encode(texels, "png") for path, texels in stage.maps.items()}
        return Exported({main: stage.text.encode(), **pictures}, stage.lost)
    if kind == OPENPBR:
        return _materialx(master, f"{name}.mtlx", given, OPEN_PBR)
    return _materialx(master, main, given, GLTF_SURFACE)


@dataclass(frozen=True)
class BakeOrder:
    """Baked maps as they are wanted. layouts: packed maps that are made in place of their roles' own."""

    width: int
    height: int
    bits: int = 8
    green: Green = Green.UP
    layouts: tuple[Layout, ...] = ()
    vertex: tuple[float, float, float, float] = BLACK


def export_maps(master: Master, casts: Sequence[FilledCast], order: BakeOrder) -> Exported:
    """PNG files of every cast. Raises BadDocument for a size out of range."""
    files: dict[str, bytes] = {}
    lost = dict.fromkeys(lost_by_fixing(master, ()))
    taken = {one.input for one in BAKED.values()} | {"normal_strength", "occlusion_strength", "emissive_strength"}
    for name in master.inputs:
        if name not in taken:
            lost[f"{INPUTS[name].label}: no map of this set holds it"] = None
    if master.opacity_mode != "opaque":
        lost[f"Opacity mode: maps hold opacity; {_mode_words(master)} is for whoever reads them"] = None
    for cast, stem, tile in _each_tile(casts):
        made = bake(
            master, cast.maps, cast.changes, order.width, order.height, order.bits, order.green, order.vertex
        )  # fmt: skip
        lost |= dict.fromkeys(lost_by_baking(master, cast.changes, taken, order.vertex))
        lost |= dict.fromkeys(lost_tiles(master, cast, baked=True) if tile else [])
        if made.emissive_strength != 1:
            lost[f"Emissive: {cast.name} is {made.emissive_strength:.4g} times as bright as its map"] = None
        for name, texels in packed_maps(made, order.layouts).items():
            files[f"{stem}_{name}{tile}.png"] = encode(texels, "png")
    return Exported(files, tuple(lost))


def _each_tile(casts: Sequence[FilledCast]) -> Iterator[tuple[FilledCast, str, str]]:
    """Casts as they are in each of their tiles, with their part of file names, and the number behind it, if any."""
    for cast, stem in zip(casts, _stems(casts), strict=True):
        if not cast.tiles:
            yield cast, stem, ""
        yield from ((cast.tile(number), stem, f".{number}") for number in cast.numbers)


def _mode_words(master: Master) -> str:
    return f"cut-out below {master.cut_off:g}" if master.opacity_mode == "cut_out" else "blending"


def _with_files(casts: Sequence[FilledCast]) -> tuple[list[tuple[str, CastOf]], dict[str, bytes]]:
    """Casts with the names of the files that fill their slots, each with its part of file names; and these files."""
    pictures: dict[str, bytes] = {}
    written = []
    for cast, stem in zip(casts, _stems(casts), strict=True):
        tiled = {slot: f".{ANY}" if slot in cast.tiles else "" for slot in cast.maps}
        files = {slot: f"maps/{stem}_{slot}{number}.png" for slot, number in tiled.items()}
        for slot, texels in cast.maps.items():
            own = cast.tiles.get(slot, {0: texels})
            pictures |= {files[slot].replace(ANY, str(at)): encode(one, "png") for at, one in own.items()}
        written.append((stem, CastOf(cast.name, cast.changes, files)))
    return written, pictures


def _materialx(master: Master, main: str, casts: Sequence[FilledCast], surface: str) -> Exported:
    written, pictures = _with_files(casts)
    of_tiles = [line for cast in casts for line in lost_tiles(master, cast)]
    of_surface = lost_inputs(master) if surface == GLTF_SURFACE else lost_in_open_pbr(master)
    lost = [*lost_starts(master), *of_surface, *dict.fromkeys(of_tiles)]
    if "height" in master.inputs and "height_scale" not in master.inputs:
        lost.append("Height: without a scale it moves nothing; the sheet's own node gives it, its surface does not")
    return Exported(
        {main: materialx_of(master, [cast for _, cast in written], surface).encode(), **pictures}, tuple(lost)
    )


def _documents(master: Master, main: str, name: str, casts: Sequence[FilledCast]) -> dict[str, bytes]:
    written, pictures = _with_files(casts)
    documents = {main: master.document}
    for stem, cast in written:
        documents[f"{name}_{stem}.json"] = cast_document(master, cast)
    return {path: _json(one) for path, one in documents.items()} | pictures


def _uniform_tables(master: Master, name: str, casts: Sequence[FilledCast]) -> dict[str, bytes]:
    """For each cast what its uniforms and samplers are given, and the maps."""
    written, pictures = _with_files(casts)
    shader = shader_of(master)
    tables = {}
    for stem, cast in written:
        values = values_of(master, cast.changes)
        uniforms = {one["name"]: list(values[one["parameter"]]) for one in shader.uniforms if "parameter" in one}
        samplers = {}
        for slot, sampler in shader.samplers.items():
            plain = [float(part) for part in sampled_plain(master.slots[slot])]
            space = master.slots[slot].colour_space.value
            file = {"file": cast.files[slot]} if slot in cast.files else {"constant": plain}
            samplers[sampler] = {**file, "colour_space": space}
        tables[f"{name}_{stem}.json"] = _json({"cast": cast.name, "uniforms": uniforms, "samplers": samplers})
    return tables | pictures


def _json(document: Mapping[str, object]) -> bytes:
    return (json.dumps(document, indent=2, ensure_ascii=False) + "\n").encode()


def _stems(casts: Sequence[FilledCast]) -> list[str]:
    """Names of casts as parts of file names, each once."""
    return each_once(re.sub(r"[^a-z0-9]+", "_", cast.name.lower()).strip("_")[:60] or "cast" for cast in casts)


def _glsl(master: Master) -> str:
    shader = shader_of(master)
    lines = [f"// {master.title}"]
    for one in shader.uniforms:
        if "slot" in one:
            slot = master.slots[one["slot"]]
            read = "read as sRGB, decoded to linear light" if slot.colour_space is Transfer.SRGB else "read as stored"
            told = f"the map of slot {slot.name}, repeated, {read}"
        else:
            told = f"parameter {one['parameter']}, begins at {', '.join(f'{part:g}' for part in one['default'])}"
        lines.append(f"// {one['type']} {one['name']}: {told}")
    return "\n".join([*lines, "", shader.code])
