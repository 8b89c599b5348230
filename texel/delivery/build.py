"""Build the files of a plan: bytes from sources and recipes. The same plan gives the same bytes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from texel.blocks import BlockTexture
from texel.blocks.encoding import encode_texture
from texel.channels.layout import Layout
from texel.channels.packing import pack
from texel.colour import srgb_to_unit_linear, store_srgb
from texel.delivery.plan import PlannedFile, PlannedSource
from texel.dither import dithered
from texel.errors import Unwritable
from texel.files import encode
from texel.files.dds import build_dds
from texel.files.ktx2 import build_ktx2
from texel.image import ColourTags, Texels, to_unit, widen
from texel.library import Library
from texel.mips import Chain, level_sizes, right_chain
from texel.recipes import apply_recipe
from texel.roles import Role, Transfer, facts
from texel.threads import may_use

__all__ = ["block_texture", "build_map", "packed_chain", "packed_texels"]

# Zstandard: beyond it files hardly shrink, and packing takes several times as long.
_ZSTD_LEVEL = 10

_DTYPES: dict[int, np.dtype[Any]] = {8: np.dtype(np.uint8), 16: np.dtype(np.uint16), 32: np.dtype(np.float32)}


def packed_texels(planned: PlannedFile, library: Library) -> Texels:
    """The pixels of a planned map, at its depth and in its colour space. Raises TexelError."""
    if planned.layout is None:
        raise Unwritable("{path} is no map", path=planned.path)
    maps = {source.role: _in_space(_made(source, library), source.role, planned) for source in planned.sources}
    return _packed(planned, planned.layout, maps)


def _made(source: PlannedSource, library: Library) -> Texels:
    """A source's map with all its steps, in the role that it serves: inverted gloss is roughness."""
    texels = apply_recipe(library.source(source.ref), source.recipe, library.context(source.ref))
    return replace(texels, role=source.role)


def _packed(planned: PlannedFile, layout: Layout, maps: Mapping[Role, Texels]) -> Texels:
    packed = pack(layout, maps)
    deeper = planned.encoding.dither and packed.bits > planned.bits
    pixels = dithered(packed.pixels) if deeper else widen(packed.pixels, _DTYPES[planned.bits])
    tags = ColourTags(chromaticities=_primaries(maps.values()))
    return Texels(pixels, packed.channels, planned.colour_space, packed.role, planned.green, tags, planned.path)


def packed_chain(planned: PlannedFile, library: Library) -> Chain:
    """The levels of a planned map, each channel filtered as its role asks for. Raises TexelError.

    A colour with alpha is filtered as one; all else map by map, and packed level by level.
    """
    whole = packed_texels(planned, library)
    if planned.layout is None or planned.colour_space is Transfer.SRGB:
        return right_chain(whole)
    normals = _made(planned.normals, library) if planned.normals else None
    chains: dict[Role, Chain] = {}
    for source in planned.sources:
        texels = _in_space(_made(source, library), source.role, planned)
        chains[source.role] = right_chain(texels, normals)
    count = len(level_sizes(whole.width, whole.height))
    levels = ({role: chain[number] for role, chain in chains.items()} for number in range(1, count))
    return [whole, *(_packed(planned, planned.layout, level) for level in levels)]


def block_texture(planned: PlannedFile, library: Library, threads: int | None = None) -> BlockTexture:
    """A planned map of a container for graphics hardware, encoded; over all cores unless told. Raises TexelError."""
    encoding = planned.encoding
    if encoding.format is None:
        raise Unwritable("{path} has no format of graphics hardware", path=planned.path)
    chain = packed_chain(planned, library) if encoding.mips else [packed_texels(planned, library)]
    count = threads or may_use()
    return encode_texture(chain[0], encoding.format, encoding.quality, encoding.mips, count, chain)


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
        # Dithered later, it must not be rounded here.
        pixels = store_srgb(to_unit(colour), _DTYPES[16 if planned.encoding.dither else planned.bits])
    else:
        pixels = srgb_to_unit_linear(colour)
    if texels.has_alpha:
        pixels = np.concatenate([pixels, widen(texels.pixels[:, :, count:], pixels.dtype)], axis=2)
    return replace(texels, pixels=pixels, transfer=planned.colour_space)


def build_map(planned: PlannedFile, library: Library) -> bytes:
    """The bytes of a planned map. Raises TexelError."""
    if planned.encoding.format is None:
        return encode(packed_texels(planned, library), planned.container)
    texture = block_texture(planned, library)
    if planned.container == "dds":
        return build_dds(texture)
    return build_ktx2(texture, _ZSTD_LEVEL if planned.encoding.zstd else None)
