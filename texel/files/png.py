"""PNG chunks: header and colour tags, read and written byte by byte (W3C PNG Specification, third edition)."""

from __future__ import annotations

import struct
import zlib
from dataclasses import dataclass

from texel.errors import UnreadableImage
from texel.files.icc import inflate_profile, profile_primaries, profile_says
from texel.image import ColourTags

__all__ = ["SIGNATURE", "PngHead", "as_indices", "pixels_only", "read_head", "with_chunks"]

SIGNATURE = b"\x89PNG\r\n\x1a\n"
_CHANNELS = {0: "y", 2: "rgb", 3: "rgb", 4: "ya", 6: "rgba"}
_PALETTED = 3
_DEPTHS = {0: (1, 2, 4, 8, 16), 2: (8, 16), 3: (1, 2, 4, 8), 4: (8, 16), 6: (8, 16)}


@dataclass(frozen=True)
class PngHead:
    """channels: letters after palette and transparency are resolved; bits: 8 or 16 after expansion.

    palette: how many colours a palette has, when that is fewer than an index of ``depth`` bits can name; else None.
    """

    width: int
    height: int
    channels: str
    bits: int
    tags: ColourTags
    depth: int = 8
    palette: int | None = None


def _chunks(data: bytes, name: str):
    at = len(SIGNATURE)
    while at + 8 <= len(data):
        length, kind = struct.unpack_from(">I4s", data, at)
        if at + 12 + length > len(data):
            raise UnreadableImage(name, f"the file is cut off inside its {kind.decode('latin-1')} chunk")
        yield kind, data[at + 8 : at + 8 + length]
        if kind == b"IEND":
            return
        at += 12 + length
    raise UnreadableImage(name, "the file is cut off before its end chunk")


def _profile_name(body: bytes) -> str:
    return body.split(b"\0", 1)[0].decode("latin-1")[:79]


def read_head(data: bytes, name: str, whole: bool = True) -> PngHead:
    """Header and colour tags of a PNG.

    data: the file, or its first kilobytes with ``whole=False`` (then a missing end is no error).
    Raises UnreadableImage when the file is cut off or its header is not allowed by the specification.
    """
    width = height = depth = kind_of_colour = None
    transparency = False
    palette = None
    srgb = gamma = icc = icc_says = cicp = chromaticities = None
    try:
        for kind, body in _chunks(data, name):
            if width is None:
                if kind != b"IHDR" or len(body) != 13:
                    raise UnreadableImage(name, "a PNG that does not start with its header chunk")
                width, height, depth, kind_of_colour = struct.unpack(">IIBB", body[:10])
                if depth not in _DEPTHS.get(kind_of_colour, ()):
                    raise UnreadableImage(
                        name, f"a PNG of colour type {kind_of_colour} with {depth} bits is not allowed"
                    )
            elif kind == b"tRNS":
                transparency = True
            elif kind == b"PLTE" and kind_of_colour == _PALETTED and depth:
                palette = len(body) // 3 if len(body) // 3 < 1 << depth else None
            elif kind == b"sRGB" and len(body) == 1:
                srgb = body[0]
            elif kind == b"gAMA" and len(body) == 4:
                gamma = struct.unpack(">I", body)[0] / 100000
            elif kind == b"iCCP":
                icc = _profile_name(body)
                profile = inflate_profile(body)
                icc_says = profile_says(profile) if profile else "other"
                chromaticities = profile_primaries(profile) if profile else None
            elif kind == b"cICP" and len(body) == 4:
                cicp = (body[0], body[1], body[2], body[3])
    except UnreadableImage:
        if whole or width is None:
            raise
    if width is None or height is None or kind_of_colour is None or depth is None:
        raise UnreadableImage(name, "a PNG without a header")
    channels = _CHANNELS[kind_of_colour]
    if transparency and "a" not in channels:
        channels += "a"
    tags = ColourTags(srgb, gamma, icc, icc_says, cicp, chromaticities)
    return PngHead(width, height, channels, 16 if depth == 16 else 8, tags, depth, palette)


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


# What the pixels are made of. Everything else is read by ourselves, or not at all: decoders print their opinion of a
# damaged profile or note to standard error, where nobody knows which file is meant.
_OF_PIXELS = (b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND")


def pixels_only(data: bytes) -> bytes:
    """The same PNG with nothing but what its pixels need, byte for byte; cut off where ``data`` is cut off."""
    found = [data[: len(SIGNATURE)]]
    at = len(SIGNATURE)
    while at + 8 <= len(data):
        length, kind = struct.unpack_from(">I4s", data, at)
        end = at + 12 + length
        # An unknown chunk that says it is needed (a capital first letter) is the decoder's to refuse.
        if kind in _OF_PIXELS or not kind[0] & 0x20:
            found.append(data[at:end])
        if kind == b"IEND":
            break
        at = end
    return b"".join(found)


def as_indices(data: bytes, name: str) -> bytes:
    """A paletted PNG turned into a grey one of the same depth: decoders then give its indices, which they check
    against no palette and which they spread over 0 to 255."""
    found = SIGNATURE
    for kind, body in _chunks(data, name):
        if kind == b"IHDR":
            body = body[:9] + b"\0" + body[10:]
        if kind in (b"IHDR", b"IDAT", b"IEND"):
            found += _chunk(kind, body)
    return found


def with_chunks(png: bytes, chunks: list[tuple[bytes, bytes]]) -> bytes:
    """A PNG with ``chunks`` (type, body) put right behind its header."""
    after_header = len(SIGNATURE) + 25
    extra = b"".join(_chunk(kind, body) for kind, body in chunks)
    return png[:after_header] + extra + png[after_header:]
