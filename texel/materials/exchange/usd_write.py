"""Casts as OpenUSD: UsdPreviewSurface over baked maps, each cast a specialisation of its master's material.

Text by the grammar of .usda files; names and meanings of the UsdPreviewSurface specification 2.6.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from texel.errors import BadDocument
from texel.image import Texels
from texel.materials.baking import bake, gltf_maps
from texel.materials.exchange.fixed import FilledCast, fixed_inputs
from texel.materials.exchange.lost import BLACK, lost_by_baking, lost_by_fixing, lost_opacity, lost_tiles
from texel.materials.exchange.names import each_once
from texel.materials.master import INPUTS, Master
from texel.materials.simplify import constants_of
from texel.tiles import ANY

__all__ = ["BakedForUsd", "WrittenUsd", "baked_for_usd", "identifier", "material_text", "quoted", "usda_of"]


class _Map(NamedTuple):
    """How a baked map is read. inputs: of the surface, with type and the texture's output."""

    colour_space: str
    fallback: str
    inputs: tuple[tuple[str, str, str], ...]


_MAPS = {
    "base_color": _Map("sRGB", "(0.5, 0.5, 0.5, 1)", (("diffuseColor", "color3f", "rgb"),)),
    "pack": _Map("raw", "(1, 0.5, 0, 1)", (("occlusion", "float", "r"), ("roughness", "float", "g"),
                                          ("metallic", "float", "b"))),
    "normal": _Map("raw", "(0.5, 0.5, 1, 1)", (("normal", "normal3f", "rgb"),)),
    "emissive": _Map("sRGB", "(0, 0, 0, 1)", (("emissiveColor", "color3f", "rgb"),)),
}  # fmt: skip
# Inputs of the surface that go into the baked maps.
_WRITTEN = (
    "base_color", "opacity", "metallic", "roughness", "normal", "normal_strength", "occlusion", "occlusion_strength",
    "emissive", "emissive_strength",
)  # fmt: skip
_SQUARE = """
    def Mesh "Square" (
        prepend apiSchemas = ["MaterialBindingAPI"]
    )
    {
        float3[] extent = [(-0.5, -0.5, 0), (0.5, 0.5, 0)]
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 1, 2, 3]
        rel material:binding = <BOUND>
        normal3f[] normals = [(0, 0, 1), (0, 0, 1), (0, 0, 1), (0, 0, 1)] (
            interpolation = "vertex"
        )
        point3f[] points = [(-0.5, -0.5, 0), (0.5, -0.5, 0), (0.5, 0.5, 0), (-0.5, 0.5, 0)]
        texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] (
            interpolation = "vertex"
        )
        uniform token subdivisionScheme = "none"
    }
"""


class WrittenUsd(NamedTuple):
    """text: of a .usda file. maps: by their path beside it. lost: what UsdPreviewSurface cannot say."""

    text: str
    maps: dict[str, Texels]
    lost: tuple[str, ...]


def usda_of(
    master: Master, casts: Sequence[FilledCast], side: int = 1024, folder: str = "maps",
    vertex: tuple[float, float, float, float] = BLACK,
) -> WrittenUsd:  # fmt: skip
    """A stage with a square, one material with the whole network, and one that specialises it for each cast.

    side: texels of the baked maps; vertex: the vertex colour in them.
    Raises BadDocument without a cast, or for a size out of range.
    """
    if not casts:
        raise BadDocument("there is no cast to write")
    root = identifier(master.name)
    names = each_once([identifier(cast.name) for cast in casts], taken={"Base"})
    maps: dict[str, Texels] = {}
    files: list[dict[str, str]] = []
    strengths: list[float] = []
    numbers: list[dict[str, float]] = []
    lost: dict[str, None] = {}
    for cast, name in zip(casts, names, strict=True):
        baked = baked_for_usd(master, cast, side, vertex)
        lost |= dict.fromkeys([*baked.lost, *lost_tiles(master, cast, baked=True)])
        number = f".{ANY}" if cast.tiles else ""
        tiles = {at: baked_for_usd(master, cast.tile(at), side, vertex).maps for at in cast.numbers}
        keys = dict.fromkeys([*baked.maps, *(key for made in tiles.values() for key in made)])
        names_of = {key: f"{folder}/{name}_{key}{number}.png" for key in keys}
        files.append(names_of)
        for at, made in (tiles or {0: baked.maps}).items():
            maps |= {names_of[key].replace(ANY, str(at)): texels for key, texels in made.items()}
        strengths.append(baked.emissive_strength)
        numbers.append(baked.numbers)
    base = f"/{root}/Materials/Base"
    parts = [material_text(master, base, files[0], strengths[0], numbers[0])]
    for cast, name, own, strength, given in zip(casts, names, files, strengths, numbers, strict=True):
        parts.append(_cast(cast.name, name, base, own, strength, given))
    text = (
        "#usda 1.0\n(\n"
        f'    defaultPrim = "{root}"\n    doc = "{quoted(master.title)}, written by Fair Texel"\n'
        '    metersPerUnit = 1\n    upAxis = "Y"\n)\n\n'
        f'def Xform "{root}" (\n    kind = "component"\n)\n{{'
        + _SQUARE.replace("BOUND", f"/{root}/Materials/{names[0]}")
        + '\n    def Scope "Materials"\n    {\n'
        + "\n".join(parts)
        + "    }\n}\n"
    )
    return WrittenUsd(text, maps, tuple(lost))


class BakedForUsd(NamedTuple):
    """maps: by what they hold ("base_color", "pack", "normal", "emissive"). lost: what UsdPreviewSurface cannot say.
    numbers: inputs that are one number, by UsdPreviewSurface's names."""

    maps: dict[str, Texels]
    emissive_strength: float
    lost: tuple[str, ...]
    numbers: dict[str, float]


def baked_for_usd(
    master: Master, cast: FilledCast, side: int, vertex: tuple[float, float, float, float] = BLACK
) -> BakedForUsd:
    """A cast's maps as UsdPreviewSurface reads them. side: texels; vertex: the vertex colour in them.

    Raises BadDocument for a size out of range.
    """
    lost = [*lost_by_fixing(master, ()), *lost_opacity(master)]
    lost += [
        f"{INPUTS[one].label}: it is not written; displacement differs between readers"
        for one in ("height", "height_scale") if one in master.inputs
    ]  # fmt: skip
    lost += [
        f"{INPUTS[one].label}: only what is baked into maps is written"
        for one in INPUTS if INPUTS[one].on_demand and not INPUTS[one].usd and one in master.inputs
    ]  # fmt: skip
    made = bake(master, cast.maps, cast.changes, side, side, vertex=vertex)
    lost += lost_by_baking(master, cast.changes, _WRITTEN, vertex)
    numbers, varying = _numbers(master, cast)
    lost += varying
    return BakedForUsd(dict(gltf_maps(master, made)), made.emissive_strength, tuple(dict.fromkeys(lost)), numbers)


def _numbers(master: Master, cast: FilledCast) -> tuple[dict[str, float], list[str]]:
    """Inputs that UsdPreviewSurface has beyond its maps, as numbers; and what of them varies, in sentences."""
    trees = fixed_inputs(master, cast)
    numbers = {"opacityThreshold": master.cut_off} if master.opacity_mode == "cut_out" else {}
    lost = []
    for name, one in INPUTS.items():
        if not one.usd or name not in master.inputs or (name == "cut_off" and not numbers):
            continue
        value = constants_of(trees[name])
        if value is None:
            lost.append(f"{one.label}: it is one number in UsdPreviewSurface as we write it, and it varies")
        else:
            numbers[one.usd] = value[0]
    return numbers, lost


def material_text(
    master: Master, path: str, files: Mapping[str, str], strength: float, numbers: Mapping[str, float],
    title: str | None = None,
) -> str:  # fmt: skip
    """The whole network of a material at ``path``; its maps are inputs of it, so that one that specialises it gives
    nothing but others. files: of the maps, by what they hold. strength: of the emissive map. numbers: as in
    BakedForUsd. title: to be shown."""
    name = path.rsplit("/", 1)[-1]
    shown = [f'            displayName = "{quoted(title)}"'] if title is not None else []
    lines = [
        f'        def Material "{name}"' + (" (" if shown else ""),
        *shown,
        *(["        )"] if shown else []),
        "        {",
    ]
    lines += [f"            asset inputs:{key}_map = @{file}@" for key, file in files.items()]
    if "emissive" in files:
        lines.append(f"            float4 inputs:emissive_scale = {_scale(strength)}")
    lines += _given_numbers(numbers)
    lines += [
        f"            token outputs:surface.connect = <{path}/Surface.outputs:surface>", "",
        '            def Shader "Surface"', "            {",
        '                uniform token info:id = "UsdPreviewSurface"',
    ]  # fmt: skip
    for key in files:
        for name, kind, output in _MAPS[key].inputs:
            lines.append(f"                {kind} inputs:{name}.connect = <{path}/{_shader(key)}.outputs:{output}>")
    if master.opacity_mode != "opaque" and "base_color" in files:
        lines.append(f"                float inputs:opacity.connect = <{path}/{_shader('base_color')}.outputs:a>")
    lines += [f"                float inputs:{name}.connect = <{path}.inputs:{name}>" for name in numbers]
    lines += [
        "                token outputs:surface", "            }", "",
        '            def Shader "Coordinates"', "            {",
        '                uniform token info:id = "UsdPrimvarReader_float2"',
        '                string inputs:varname = "st"', "                float2 outputs:result", "            }",
    ]  # fmt: skip
    for key in files:
        lines += _texture(path, key)
    return "\n".join([*lines, "        }", ""])


def _given_numbers(numbers: Mapping[str, float]) -> list[str]:
    return [f"            float inputs:{name} = {value:.9g}" for name, value in numbers.items()]


def _texture(path: str, key: str) -> list[str]:
    one = _MAPS[key]
    lines = [
        "", f'            def Shader "{_shader(key)}"', "            {",
        '                uniform token info:id = "UsdUVTexture"',
        f"                float4 inputs:fallback = {one.fallback}",
        f"                asset inputs:file.connect = <{path}.inputs:{key}_map>",
        f'                token inputs:sourceColorSpace = "{one.colour_space}"',
        f"                float2 inputs:st.connect = <{path}/Coordinates.outputs:result>",
        '                token inputs:wrapS = "repeat"', '                token inputs:wrapT = "repeat"',
    ]  # fmt: skip
    if key == "normal":
        # Stored 0 to 1 becomes a vector of -1 to 1.
        lines += ["                float4 inputs:scale = (2, 2, 2, 1)",
                  "                float4 inputs:bias = (-1, -1, -1, 0)"]  # fmt: skip
    if key == "emissive":
        lines.append(f"                float4 inputs:scale.connect = <{path}.inputs:emissive_scale>")
    outputs = {output for _, _, output in one.inputs} | ({"a"} if key == "base_color" else set())
    lines += [
        f"                {'float3' if output == 'rgb' else 'float'} outputs:{output}" for output in sorted(outputs)
    ]
    return [*lines, "            }"]


def _cast(
    title: str, name: str, base: str, files: Mapping[str, str], strength: float, numbers: Mapping[str, float]
) -> str:
    lines = [
        f'        def Material "{name}" (', f'            displayName = "{quoted(title)}"',
        f"            prepend specializes = <{base}>", "        )", "        {",
    ]  # fmt: skip
    lines += [f"            asset inputs:{key}_map = @{file}@" for key, file in files.items()]
    if "emissive" in files:
        lines.append(f"            float4 inputs:emissive_scale = {_scale(strength)}")
    return "\n".join([*lines, *_given_numbers(numbers), "        }", ""])


def _scale(strength: float) -> str:
    return f"({strength:.9g}, {strength:.9g}, {strength:.9g}, 1)"


def _shader(key: str) -> str:
    return "".join(part.capitalize() for part in key.split("_"))


def identifier(text: str) -> str:
    """A prim's name: letters, digits and underscores, no digit first.

    >>> identifier("2nd floor"), identifier("fern-wall")
    ('n2nd_floor', 'fern_wall')
    """
    name = re.sub(r"[^A-Za-z0-9_]+", "_", text).strip("_") or "material"
    return f"n{name}" if name[0].isdigit() else name


def quoted(text: str) -> str:
    return text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", " ")
