"""Pack maps into the channels of one picture, and take them out again. Bit-exact where nothing asks for a change."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache, partial
from typing import Any

import cv2
import numpy as np

from texel.channels.layout import Layout, Source
from texel.errors import MismatchedMaps
from texel.image import Pixels, Texels, full_scale, narrow, widen
from texel.roles import Role, Transfer, facts
from texel.strips import filled

__all__ = ["bend", "invert", "pack", "unpack"]

_CHANNELS = {1: "y", 2: "rg", 3: "rgb", 4: "rgba"}


def invert(pixels: Pixels) -> Pixels:
    """Full scale minus value: exact for integers, 1 - value for floats."""
    if np.issubdtype(pixels.dtype, np.unsignedinteger):
        return np.bitwise_not(pixels)  # the same number, by the fastest way to it
    made: Pixels = np.subtract(np.asarray(full_scale(pixels.dtype), pixels.dtype), pixels)
    return made


def bend(plane: Pixels, source: Source) -> Pixels:
    """clip((v - black) / (white - black), 0, 1) ^ power, full scale 1, rounded once to the plane's own depth."""
    span = source.white - source.black
    if np.issubdtype(plane.dtype, np.integer):
        return _bent(source.black, span, source.power, plane.dtype)[plane]
    return (np.clip((plane - source.black) / span, 0, 1) ** source.power).astype(np.float32)


@lru_cache(maxsize=16)
def _bent(black: float, span: float, power: float, dtype: np.dtype[np.generic]) -> Pixels:
    """What each stored number becomes."""
    steps = np.arange(int(full_scale(dtype)) + 1, dtype=np.float64) / full_scale(dtype)
    return narrow(np.clip((steps - black) / span, 0, 1) ** power, dtype)


def pack(layout: Layout, maps: Mapping[Role, Texels]) -> Texels:
    """One picture whose channels come from ``maps`` as ``layout`` says.

    Depth is that of the deepest map (8-bit values widen exactly), 8 bits when all channels are constants of 1 x 1.
    Stored numbers are copied, whatever colour tag a source carries. Only an alpha channel may be left out.
    Where all four channels are masks of one map, its alpha may be missing. Raises MismatchedMaps when sizes differ or
    a source lacks another channel that is asked for.
    """
    layout = _without_lacking_alpha(layout, maps)
    used = {role: maps[role] for role in layout.roles if role in maps}
    height, width = _common_size(used)
    dtype = max((t.pixels.dtype for t in used.values()), key=lambda d: d.itemsize, default=np.dtype(np.uint8))
    planes = [
        partial(_plane, source, used, width, dtype)
        for source in layout.channels.values()
        if source.missing is not None or (source.role is not None and source.role in used)
    ]
    pixels = _as_it_is(layout, used)
    if pixels is None and len(planes) > 1 and all(_is_copied(one, used, dtype) for one in layout.channels.values()):
        pixels = _merged([plane(slice(0, height)) for plane in planes])
    if pixels is None:
        pixels = filled((height, width, len(planes)), dtype, lambda rows: _merged([plane(rows) for plane in planes]))
    # One role in three channels is that map itself, in its own colour space; anything else is data.
    alone = {s.role for letter, s in layout.channels.items() if letter != "a"}
    role = next(iter(alone)) if len(alone) == 1 and len(planes) >= 3 else None
    transfer = used[role].transfer if role in used else Transfer.LINEAR
    green = used[role].green if role in used else None
    return Texels(pixels, _CHANNELS[len(planes)], transfer, role, green, name=layout.name)


def _without_lacking_alpha(layout: Layout, maps: Mapping[Role, Texels]) -> Layout:
    """A layout of four masks in one map takes what is missing for the alpha of a map that has none."""
    sources = layout.channels
    roles = {source.role for source in sources.values()}
    role = next(iter(roles))
    if len(sources) < 4 or len(roles) > 1 or role is None or role not in maps:
        return layout
    if maps[role].has_alpha or facts(role).channels > 1:
        return layout
    same = {letter: source for letter, source in sources.items() if source.channel != "a"}
    constant = Source(None, missing=sources["a"].missing or 0.0)
    return replace(layout, channels={letter: same.get(letter, constant) for letter in sources})


def _common_size(maps: Mapping[Role, Texels]) -> tuple[int, int]:
    sizes = {(t.height, t.width) for t in maps.values()}
    if len(sizes) > 1:
        listed = ", ".join(f"{role.value} {t.width} x {t.height}" for role, t in maps.items())
        raise MismatchedMaps("maps of one pack must have one size: {listed}", listed=listed)
    return sizes.pop() if sizes else (1, 1)


def _as_it_is(layout: Layout, maps: Mapping[Role, Texels]) -> Pixels | None:
    """The pixels of the one map whose channels are the layout's, in order and unchanged; None where it is not so."""
    sources = list(layout.channels.values())
    only = maps.get(sources[0].role) if sources[0].role is not None else None
    if only is None or len(only.channels) != len(sources) or only.channels[0] == "y":
        return None
    same = all(
        source.role is sources[0].role and source.channel == letter and not source.bends and not source.invert
        for source, letter in zip(sources, only.channels, strict=True)
    )
    return only.pixels if same else None


def _is_copied(source: Source, maps: Mapping[Role, Texels], dtype: np.dtype[Any]) -> bool:
    """Whether a channel is a grey map as it lies there: then all of them are merged at once, without strips."""
    texels = maps.get(source.role) if source.role is not None else None
    plain = texels is not None and texels.channels == "y" and texels.pixels.dtype == dtype
    return plain and not source.bends and not source.invert and source.channel != "a"


def _merged(planes: list[Pixels]) -> Pixels:
    if len(planes) == 1:
        return planes[0][:, :, None]
    return np.asarray(cv2.merge([np.ascontiguousarray(one) for one in planes]))


def _plane(source: Source, maps: Mapping[Role, Texels], width: int, dtype: np.dtype[np.generic], rows: slice) -> Pixels:
    """Some rows of a channel, shape (rows, width)."""
    if source.role is not None and source.role in maps:
        plane = widen(maps[source.role].channel(source.channel)[rows], dtype)
        if source.bends:
            plane = bend(plane, source)
        return invert(plane) if source.invert else plane
    return np.full((rows.stop - rows.start, width), narrow(np.array(source.missing, np.float32), dtype), dtype)


def unpack(layout: Layout, packed: Texels) -> dict[Role, Texels]:
    """The maps that ``layout`` put into ``packed``, grey, at its depth; inverted channels are turned back.

    A role that fills several channels (a colour) comes back with those channels.
    Raises MismatchedMaps when the picture has fewer channels than the layout.
    """
    needed = [letter for letter, source in layout.channels.items() if source.role is not None]
    lacking = [letter for letter in needed if letter not in packed.channels and letter != "a"]
    if lacking:
        raise MismatchedMaps(
            "{packed} has the channels {channels}; the layout {layout} also needs {listed}",
            packed=packed.name,
            channels=packed.channels.upper(),
            layout=layout.name,
            listed=", ".join(lacking).upper(),
        )
    by_role: dict[Role, list[Pixels]] = {}
    for letter in needed:
        source = layout.channels[letter]
        if source.role is None or letter not in packed.channels:
            continue
        plane = packed.channel(letter)
        by_role.setdefault(source.role, []).append(invert(plane) if source.invert else plane)
    maps = {}
    for role, planes in by_role.items():
        pixels = np.ascontiguousarray(np.stack(planes, axis=2))
        channels = {1: "y", 2: "rg", 3: "rgb", 4: "rgba"}[len(planes)]
        maps[role] = Texels(pixels, channels, Transfer.LINEAR, name=f"{packed.name} {role.value}").as_role(role)
    return maps
