"""Build the files of a plan: bytes from sources and recipes. The same plan gives the same bytes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

import numpy as np

from texel.channels.packing import pack
from texel.colour import srgb_to_unit_linear, store_srgb
from texel.delivery.plan import PlannedFile
from texel.errors import Unwritable
from texel.files import encode
from texel.image import ColourTags, Texels, to_unit, widen
from texel.library import Library
from texel.recipes import apply_recipe
from texel.roles import Role, Transfer, facts

__all__ = ["build_map", "packed_texels"]

_DTYPES: dict[int, np.dtype[Any]] = {8: np.dtype(np.uint8), 16: np.dtype(np.uint16), 32: np.dtype(np.float32)}


def packed_texels(planned: PlannedFile, library: Library) -> Texels:
    """The pixels of a planned map, at its depth and in its colour space. Raises TexelError."""
    if planned.layout is None:
        raise Unwritable(f"{planned.path} is no map")
    maps = {}
    for source in planned.sources:
        texels = apply_recipe(library.source(source.ref), source.recipe, library.context(source.ref))
        maps[source.role] = _in_space(texels, source.role, planned)
    packed = pack(planned.layout, maps)
    pixels = widen(packed.pixels, _DTYPES[planned.bits])
    tags = ColourTags(chromaticities=_primaries(maps.values()))
    return Texels(pixels, packed.channels, planned.colour_space, packed.role, planned.green, tags, planned.path)


def _primaries(maps: Iterable[Texels]) -> tuple[float, ...] | None:
    """What the colours among the maps are in, where a file said so and no step brought them over."""
    told = (one.tags.primaries for one in maps if one.role is not None and facts(one.role).transfer is Transfer.SRGB)
    return next((one for one in told if one is not None), None)


def _in_space(texels: Texels, role: Role, planned: PlannedFile) -> Texels:
    """A colour map's numbers in the output's colour space; data stays as it is."""
    is_colour = facts(role).transfer is Transfer.SRGB and facts(role).channels == 3
    if not is_colour or texels.transfer is planned.colour_space:
        return texels
    count = len(texels.channels.removesuffix("a"))
    colour = texels.pixels[:, :, :count]
    if planned.colour_space is Transfer.SRGB:
        pixels = store_srgb(to_unit(colour), _DTYPES[planned.bits])
    else:
        pixels = srgb_to_unit_linear(colour)
    if texels.has_alpha:
        pixels = np.concatenate([pixels, widen(texels.pixels[:, :, count:], pixels.dtype)], axis=2)
    return replace(texels, pixels=pixels, transfer=planned.colour_space)


def build_map(planned: PlannedFile, library: Library) -> bytes:
    """The bytes of a planned map. Raises TexelError."""
    return encode(packed_texels(planned, library), planned.container)
