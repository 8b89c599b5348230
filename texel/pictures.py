"""Pictures of maps for people: a PNG at a given size, one channel alone, a cut-out; and exact stored values."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from texel.colour import encode_srgb
from texel.errors import MismatchedMaps
from texel.files import encode
from texel.image import Texels, full_scale, to_unit, widen
from texel.normals.sign import signed_from_stored
from texel.resize import fitted
from texel.roles import Transfer

__all__ = ["BASE_SIDE", "TILE_SIDE", "View", "histogram", "picture", "stored_values", "tile"]

# Longest side of a picture that the page shows whole; larger maps are shown reduced to it, with tiles over it.
BASE_SIDE = 2048
# Side of a tile in its own pixels; the page asks for tiles by column and row.
TILE_SIDE = 512
_EIGHT = np.dtype(np.uint8)


@dataclass(frozen=True)
class View:
    """What to show. side: longest side in texels, None for full size.

    channel: "r", "g", "b", "a", "over" for the colours with their alpha, or None for the colours alone.

    box: x, y, width, height of a cut-out in texels, cut before it is made smaller.

    pack: without it the PNG is made faster and larger, for pictures that are looked at once.
    """

    side: int | None = None
    channel: str | None = None
    box: tuple[int, int, int, int] | None = None
    pack: bool = True


def _cut(texels: Texels, box: tuple[int, int, int, int]) -> Texels:
    x, y, width, height = box
    if x >= texels.width or y >= texels.height:
        raise MismatchedMaps(
            "{texels} has {width} x {height} texels; the cut-out lies outside",
            texels=texels.name,
            width=texels.width,
            height=texels.height,
        )
    pixels = texels.pixels[max(0, y) : y + height, max(0, x) : x + width]
    if pixels.size == 0:
        raise MismatchedMaps(
            "{texels} has {width} x {height} texels; the cut-out lies outside",
            texels=texels.name,
            width=texels.width,
            height=texels.height,
        )
    return texels.with_pixels(np.ascontiguousarray(pixels))


def _shown(texels: Texels, channel: str | None) -> Texels:
    """The channels to show: one as grey, or the colours. Alpha never covers what lies below it."""
    if channel == "over":
        return texels if texels.channels in ("ya", "rgba") else _shown(texels, None)
    if channel is not None:
        return texels.with_pixels(np.ascontiguousarray(texels.channel(channel)[:, :, None]), "y")
    if texels.channels == "ya":
        return texels.with_pixels(texels.pixels[:, :, :1].copy(), "y")
    if texels.channels == "rg":
        blank = np.zeros_like(texels.pixels[:, :, :1])
        return texels.with_pixels(np.concatenate([texels.pixels, blank], axis=2), "rgb")
    return texels.with_pixels(np.ascontiguousarray(texels.pixels[:, :, :3]), "rgb") if texels.has_alpha else texels


def picture(texels: Texels, view: View = View()) -> bytes:
    """An 8-bit PNG of a map, untagged: stored numbers as they are, so that 128 looks like 128.

    Made smaller it is what texel.resize makes of it: colour in linear light, normals at unit length. Floats are clipped
    to 0 to 1; linear colour is sRGB-encoded first, as an eye would need it; data is not.
    Raises MismatchedMaps when the channel is not there or the cut-out lies outside.
    """
    if view.box is not None:
        texels = _cut(texels, view.box)
    shown = _shown(texels if view.side is None else fitted(texels, view.side), view.channel)
    pixels = shown.pixels
    colour = shown.role is not None and shown.transfer is Transfer.LINEAR and shown.pixels.dtype == np.float32
    if colour and shown.role in ("base_color", "emissive", "specular"):
        pixels = encode_srgb(np.clip(pixels, 0, 1))
    eight = widen(np.clip(pixels, 0, 1) if pixels.dtype == np.float32 else pixels, _EIGHT)
    return encode(Texels(eight, shown.channels, Transfer.LINEAR, name=texels.name), "png", view.pack)


def tile(texels: Texels, level: int, column: int, row: int, channel: str | None = None) -> bytes:
    """The PNG of one cell of the grid that a large picture is shown by: at most 512 pixels a side.

    level: each pixel is the mean of 2^level texels a side. Raises MismatchedMaps when there is no such cell.
    """
    if level < 0 or column < 0 or row < 0 or level > 16:
        raise MismatchedMaps("tiles have a level from 0 to 16, a column and a row from 0")
    span = TILE_SIDE << level
    x, y = column * span, row * span
    width, height = min(span, texels.width - x), min(span, texels.height - y)
    side = -(-max(width, height) >> level)
    return picture(texels, View(side=max(1, side), channel=channel, box=(x, y, width, height)))


def stored_values(texels: Texels, x: int, y: int, width: int, height: int) -> tuple[bytes, dict[str, str]]:
    """Stored numbers of a rectangle, little-endian, row by row, channels interleaved, and what they are.

    The rectangle is clipped to the picture. Facts: x, y, width, height, channels, type (uint8, uint16, float32), scale
    (the number that means 1).
    """
    left, top = max(0, min(x, texels.width - 1)), max(0, min(y, texels.height - 1))
    part = texels.pixels[top : min(texels.height, y + height), left : min(texels.width, x + width)]
    part = signed_from_stored(part) if texels.signed else part
    facts = {
        "x": str(left),
        "y": str(top),
        "width": str(part.shape[1]),
        "height": str(part.shape[0]),
        "channels": texels.channels,
        "type": part.dtype.name,
        "scale": f"{full_scale(part.dtype):g}",
    }
    return np.ascontiguousarray(part).astype(part.dtype.newbyteorder("<")).tobytes(), facts


def histogram(texels: Texels, bins: int = 256) -> dict[str, dict[str, Any]]:
    """By channel letter: counts over 0 to 1 in ``bins`` steps, and the shares at 0 and below, at 1 and above."""
    by_channel = {}
    for at, letter in enumerate(texels.channels):
        plane = np.ascontiguousarray(texels.pixels[:, :, at])
        if plane.dtype == np.uint8 and bins == 256:
            counts = np.bincount(plane.ravel(), minlength=256)
        else:
            counts = np.histogram(np.clip(to_unit(plane), 0, 1), bins, (0, 1))[0]
        top = full_scale(plane.dtype)
        by_channel[letter] = {
            "counts": counts.tolist(),
            "black": float(np.mean(plane <= 0)),
            "white": float(np.mean(plane >= top)),
        }
    return by_channel
