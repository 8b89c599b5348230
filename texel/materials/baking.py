"""Sheets baked into maps, strip by strip over all cores: what formats get that cannot express a sheet."""

from __future__ import annotations

import os
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np

from texel.colour import store_srgb
from texel.errors import BadDocument
from texel.image import Pixels, Texels, narrow
from texel.materials.evaluate import Evaluation, Surface
from texel.materials.master import INPUTS, Master
from texel.roles import Green, Role, Transfer

__all__ = ["BAKED", "LARGEST", "bake"]

LARGEST = 16384
# Texels of a strip: a sheet holds a few dozen values for each at a time.
_STRIP = 128 * 1024
_DEPTHS: dict[int, np.dtype[Any]] = {8: np.dtype(np.uint8), 16: np.dtype(np.uint16)}


@dataclass(frozen=True)
class _Baked:
    """Which input becomes a map of the role, and how: "colour", "normal" or "data"."""

    input: str
    kind: str


BAKED: dict[Role, _Baked] = {
    Role.BASE_COLOR: _Baked("base_color", "colour"),
    Role.METALLIC: _Baked("metallic", "data"),
    Role.ROUGHNESS: _Baked("roughness", "data"),
    Role.NORMAL: _Baked("normal", "normal"),
    Role.OCCLUSION: _Baked("occlusion", "data"),
    Role.EMISSIVE: _Baked("emissive", "colour"),
    Role.OPACITY: _Baked("opacity", "data"),
    Role.HEIGHT: _Baked("height", "data"),
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
) -> dict[Role, Texels]:
    """A map of width x height texels for every role that the sheet sets, values beyond 0 to 1 cut off.

    bits: 8 or 16; heights get 16. green: of the normal map. Occlusion has its strength applied; emissive has not, since
    maps cannot hold more than 1. Raises BadDocument for sizes beyond 16384 texels, BadExpression.
    """
    if not (1 <= width <= LARGEST and 1 <= height <= LARGEST) or bits not in _DEPTHS:
        raise BadDocument(f"maps are baked from 1 to {LARGEST} texels a side, at 8 or 16 bits")
    wanted = [role for role, one in BAKED.items() if one.input in master.inputs]
    evaluation = Evaluation(master, maps, changes, width, height, vertex)
    found: dict[Role, Pixels] = {}
    for role in wanted:
        depth = _DEPTHS[16 if role is Role.HEIGHT else bits]
        found[role] = np.empty((height, width, INPUTS[BAKED[role].input].size), depth)
    rows = max(1, _STRIP // width)

    def strip(top: int) -> None:
        part = slice(top, min(top + rows, height))
        surface = evaluation.surface(part)
        for role in wanted:
            found[role][part] = _stored(surface, role, found[role].dtype, green)

    with ThreadPoolExecutor(threads or os.cpu_count() or 1) as pool:
        list(pool.map(strip, range(0, height, rows)))
    return {role: _map(pixels, role, green) for role, pixels in found.items()}


def _stored(surface: Surface, role: Role, depth: np.dtype[Any], green: Green) -> Pixels:
    one = BAKED[role]
    values = surface[one.input]
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
