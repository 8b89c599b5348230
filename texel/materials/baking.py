"""Sheets baked into maps, strip by strip over all cores: what formats get that cannot express a sheet."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import numpy as np

from texel.channels.layout import Layout, Source
from texel.channels.packing import pack
from texel.colour import store_srgb
from texel.errors import BadDocument
from texel.image import Pixels, Texels, narrow
from texel.materials.evaluate import Evaluation, Surface
from texel.materials.master import INPUTS, Master
from texel.roles import Green, Role, Transfer, facts
from texel.threads import each

__all__ = ["BAKED", "LARGEST", "Baked", "bake", "bake_input", "gltf_maps", "packed_maps"]

LARGEST = 16384
# Texels of a strip: a sheet holds a few dozen values for each at a time.
_STRIP = 32 * 1024
# Texels of a bake from which on compiled loops are worth loading.
_LARGE = 2048 * 2048
_STRENGTHS = {"normal_strength", "occlusion_strength", "emissive_strength"}
_DEPTHS: dict[int, np.dtype[Any]] = {8: np.dtype(np.uint8), 16: np.dtype(np.uint16)}


class Baked(NamedTuple):
    """maps: by role. emissive_strength: the factor, at least 1, on the emissive map."""

    maps: dict[Role, Texels]
    emissive_strength: float


@dataclass(frozen=True)
class _Way:
    """Which input becomes a map of the role, and how: "colour", "normal" or "data"."""

    input: str
    kind: str


BAKED: dict[Role, _Way] = {
    Role.BASE_COLOR: _Way("base_color", "colour"),
    Role.METALLIC: _Way("metallic", "data"),
    Role.ROUGHNESS: _Way("roughness", "data"),
    Role.NORMAL: _Way("normal", "normal"),
    Role.OCCLUSION: _Way("occlusion", "data"),
    Role.EMISSIVE: _Way("emissive", "colour"),
    Role.OPACITY: _Way("opacity", "data"),
    Role.HEIGHT: _Way("height", "data"),
}


def bake(
    master: Master,
    maps: Mapping[str, Texels],
    changes: Mapping[str, tuple[float, ...]],
    width: int,
    height: int,
    bits: int = 8,
    green: Green = Green.UP,
    vertex: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 1.0),
    threads: int | None = None,
) -> Baked:
    """A map of width x height texels for every role that the sheet sets, values beyond 0 to 1 cut off.

    bits: 8 or 16; heights get 16. green: of the normal map. Occlusion and emissive have their strengths applied.
    Raises BadDocument for sizes beyond 16384 texels, BadExpression.
    """
    if not (1 <= width <= LARGEST and 1 <= height <= LARGEST) or bits not in _DEPTHS:
        raise BadDocument("maps are baked from 1 to {largest} texels a side, at 8 or 16 bits", largest=LARGEST)
    wanted = [role for role, one in BAKED.items() if one.input in master.inputs]
    surface_of, strip = _evaluation(master, maps, changes, width, height, vertex)
    baked: dict[Role, Pixels] = {}
    for role in wanted:
        depth = _DEPTHS[16 if role is Role.HEIGHT else bits]
        baked[role] = np.empty((height, width, INPUTS[BAKED[role].input].size), depth)
    rows = max(1, strip // width)

    tops = range(0, height, rows)

    def surface(top: int) -> tuple[slice, Surface]:
        part = slice(top, min(top + rows, height))
        return part, surface_of(part)

    def brightest(top: int) -> float:
        return float(_glow(surface(top)[1]).max())

    def store(top: int) -> None:
        part, made = surface(top)
        for role in wanted:
            baked[role][part] = _stored(made, role, baked[role].dtype, green, strength)

    # A map holds no more than 1: what is brighter is kept as a factor on all of it.
    strength = max([1.0, *each(brightest, tops, threads)]) if Role.EMISSIVE in wanted else 1.0
    each(store, tops, threads)
    return Baked({role: _map(pixels, role, green) for role, pixels in baked.items()}, strength)


def bake_input(
    master: Master, maps: Mapping[str, Texels], changes: Mapping[str, tuple[float, ...]], side: int, name: str,
    vertex: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 1.0),
) -> Texels:  # fmt: skip
    """A map of side x side texels of 8 bits of any input of the surface, cut off at 0 and 1; colours in sRGB, normals
    in Y+. Raises BadDocument for sizes beyond 16384 texels, BadExpression."""
    if not 1 <= side <= LARGEST:
        raise BadDocument("maps are baked from 1 to {largest} texels a side, at 8 or 16 bits", largest=LARGEST)
    one = INPUTS[name]
    surface_of, strip = _evaluation(master, maps, changes, side, side, vertex, {name, *_STRENGTHS, "normal"})
    made = np.empty((side, side, one.size), np.uint8)
    rows = max(1, strip // side)

    def store(top: int) -> None:
        part = slice(top, min(top + rows, side))
        values = surface_of(part)[name]
        if one.meaning == "colour":
            made[part] = store_srgb(np.ascontiguousarray(np.nan_to_num(values), np.float32), made.dtype)
            return
        if one.meaning == "normal":
            values = (values + 1) * np.float32(0.5)
        made[part] = narrow(np.ascontiguousarray(np.clip(values, 0, 1), np.float32), made.dtype)

    each(store, range(0, side, rows))
    transfer = Transfer.SRGB if one.meaning == "colour" else Transfer.LINEAR
    return Texels(made, "rgb" if one.size == 3 else "y", transfer, name=name)


def _evaluation(
    master: Master, maps: Mapping[str, Texels], changes: Mapping[str, tuple[float, ...]], width: int, height: int,
    vertex: tuple[float, float, float, float], inputs: Collection[str] | None = None,
) -> tuple[Callable[[slice], Surface], int]:  # fmt: skip
    """What gives the surface of some rows, and how many texels it is best asked for at a time: compiled loops for what
    is large, since they take a second to load."""
    if width * height >= _LARGE:
        from texel.materials.compiled import STRIP, CompiledEvaluation, can_be_compiled

        if not can_be_compiled(maps):
            return Evaluation(master, maps, changes, width, height, vertex).surface, _STRIP
        wanted = inputs or {one.input for one in BAKED.values()} | _STRENGTHS
        return CompiledEvaluation(master, maps, changes, width, height, vertex, wanted).surface, STRIP
    return Evaluation(master, maps, changes, width, height, vertex).surface, _STRIP


def _glow(surface: Surface) -> Pixels:
    """Emitted light, strength applied; what is no finite number emits none."""
    glow = np.nan_to_num(np.maximum(surface["emissive"] * surface["emissive_strength"], 0), posinf=0.0)
    made: Pixels = glow.astype(np.float32, copy=False)
    return made


def _stored(surface: Surface, role: Role, depth: np.dtype[Any], green: Green, strength: float) -> Pixels:
    one = BAKED[role]
    values = surface[one.input]
    if role is Role.EMISSIVE:
        values = (_glow(surface) / np.float32(strength)).astype(np.float32)
    if role is Role.OCCLUSION:
        values = 1 + (values - 1) * surface["occlusion_strength"]
    if one.kind == "colour":
        return store_srgb(values, depth)
    if one.kind == "normal":
        flip = np.array([1, -1 if green is Green.DOWN else 1, 1], np.float32)
        values = (values * flip + 1) * np.float32(0.5)
    return narrow(np.ascontiguousarray(np.clip(values, 0, 1), np.float32), depth)


def _map(pixels: Pixels, role: Role, green: Green) -> Texels:
    transfer = Transfer.SRGB if BAKED[role].kind == "colour" else Transfer.LINEAR
    letters = "rgb" if pixels.shape[2] == 3 else "y"
    return Texels(pixels, letters, transfer, role, green if role is Role.NORMAL else None, name=role.value)


def packed_maps(baked: Baked, layouts: Sequence[Layout]) -> dict[str, Texels]:
    """Baked maps packed by layouts, by the layouts' names; maps that no layout takes, by their roles'.

    A channel whose role the sheet does not set gets what the layout says is missing. Raises BadDocument where a
    layout takes nothing that was baked.
    """
    packed: dict[str, Texels] = {}
    taken: set[Role] = set()
    for one in layouts:
        held = [role for role in one.roles if role in baked.maps]
        if not held:
            raise BadDocument("layout {one}: the sheet sets none of its roles", one=one.name)
        packed[one.name] = pack(one, baked.maps)
        taken |= set(held)
    return packed | {role.value: texels for role, texels in baked.maps.items() if role not in taken}


def gltf_maps(master: Master, baked: Baked) -> dict[str, Texels]:
    """Baked maps as glTF 2.0 takes them: "base_color" with opacity in alpha, "normal", "pack", "emissive".

    baked: with normals in Y+. What the sheet leaves out stands there as glTF's neutral value.
    """
    maps, by_key = baked.maps, {}
    channels = {letter: Source(Role.BASE_COLOR, letter, missing=0.5) for letter in "rgb"}
    if master.opacity_mode != "opaque" and Role.OPACITY in maps:
        channels["a"] = Source(Role.OPACITY)
    if Role.BASE_COLOR in maps or "a" in channels:
        by_key["base_color"] = replace(pack(Layout("colour", channels), maps), transfer=Transfer.SRGB)
    roles = (Role.OCCLUSION, Role.ROUGHNESS, Role.METALLIC)
    if any(role in maps for role in roles):
        sources = {letter: Source(role, missing=facts(role).neutral) for letter, role in zip("rgb", roles, strict=True)}
        by_key["pack"] = pack(Layout("pack", sources), maps)
    named = {"normal": Role.NORMAL, "emissive": Role.EMISSIVE}
    return by_key | {name: maps[role] for name, role in named.items() if role in maps}
