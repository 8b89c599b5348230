"""PNG chunks: header and colour tags, read and written byte by byte (W3C PNG Specification, third edition)."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from io import BufferedReader
from typing import Any

import numpy as np
from numpy.typing import NDArray
from zlib_ng import zlib_ng

from texel.errors import UnreadableImage
from texel.files.icc import inflate_profile, profile_primaries, profile_says
from texel.image import ColourTags, Pixels
from texel.threads import each, may_use

__all__ = ["SIGNATURE", "PngHead", "as_indices", "pieces", "read_file", "read_head"]

SIGNATURE = b"\x89PNG\r\n\x1a\n"
_CHANNELS = {0: "y", 2: "rgb", 3: "rgb", 4: "ya", 6: "rgba"}
_PALETTED = 3
# Filter type 1 of a line; bytes of a band before they are compressed; zlib: deflate, a window of 32 KiB, fastest.
_SUB, _BAND, _ZLIB_HEAD, _ADLER = 1, 1 << 20, b"\x78\x01", 65521
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


def _chunks(data: bytes | bytearray, name: str) -> Iterator[Any]:
    at = len(SIGNATURE)
    while at + 8 <= len(data):
        length, kind = struct.unpack_from(">I4s", data, at)
        if at + 12 + length > len(data):
            raise UnreadableImage(name, "the file is cut off inside its {decode} chunk", decode=kind.decode("latin-1"))
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
    srgb = gamma = icc = icc_transfer = cicp = chromaticities = None
    try:
        for kind, body in _chunks(data, name):
            if width is None:
                if kind != b"IHDR" or len(body) != 13:
                    raise UnreadableImage(name, "a PNG that does not start with its header chunk")
                width, height, depth, kind_of_colour = struct.unpack(">IIBB", body[:10])
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
                icc_transfer = profile_says(profile) if profile else "other"
                chromaticities = profile_primaries(profile) if profile else None
            elif kind == b"cICP" and len(body) == 4:
                cicp = (body[0], body[1], body[2], body[3])
    except UnreadableImage:
        if whole or width is None:
            raise
    if width is None or height is None or kind_of_colour is None or depth is None:
        raise UnreadableImage(name, "a PNG without a header")
    if depth not in _DEPTHS.get(kind_of_colour, ()):
        raise UnreadableImage(
            name,
            "a PNG of colour type {kind_of_colour} with {depth} bits is not allowed",
            kind_of_colour=kind_of_colour,
            depth=depth,
        )
    channels = _CHANNELS[kind_of_colour]
    if transparency and "a" not in channels:
        channels += "a"
    tags = ColourTags(srgb, gamma, icc, icc_transfer, cicp, chromaticities)
    return PngHead(width, height, channels, 16 if depth == 16 else 8, tags, depth, palette)


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib_ng.crc32(kind + body))


# What the pixels are made of. Everything else is read by ourselves, or not at all: decoders print their opinion of a
# damaged profile or note to standard error, where nobody knows which file is meant.
_OF_PIXELS = (b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND")
_ABOUT = (b"sRGB", b"gAMA", b"iCCP", b"cICP")


def read_file(stream: BufferedReader, name: str) -> tuple[PngHead, bytearray]:
    """The header of a PNG, and the same PNG with nothing but what its pixels need, byte for byte.

    Read chunk by chunk, so that it is held once. Raises UnreadableImage when it is cut off or its header is wrong.
    """
    size = stream.seek(0, 2)
    stream.seek(0)
    # As large as it can get, and filled in place: what grows is copied.
    needed, end = bytearray(size), len(SIGNATURE)
    needed[:end] = stream.read(end)
    about = bytearray(needed[:end])
    kind = b""
    while kind != b"IEND":
        start = stream.read(8)
        if len(start) < 8:
            raise UnreadableImage(name, "the file is cut off before its end chunk")
        length, kind = struct.unpack(">I4s", start)
        if stream.tell() + length + 4 > size:
            raise UnreadableImage(name, "the file is cut off inside its {decode} chunk", decode=kind.decode("latin-1"))
        # An unknown chunk that says it is needed (a capital first letter) is the decoder's to refuse.
        wanted = kind in _OF_PIXELS or not kind[0] & 0x20
        if not wanted and kind not in _ABOUT:
            stream.seek(length + 4, 1)
            continue
        body = memoryview(needed)[end : end + 12 + length]
        body[:8] = start
        stream.readinto(body[8:])
        if kind != b"IDAT":
            about += body
        end += len(body) if wanted else 0
        body.release()
    del needed[end:]
    return read_head(bytes(about), name), needed


def as_indices(data: bytes | bytearray, name: str) -> bytes:
    """A paletted PNG turned into a grey one of the same depth: decoders then give its indices, which they check
    against no palette and which they spread over 0 to 255."""
    written = SIGNATURE
    for kind, body in _chunks(data, name):
        if kind == b"IHDR":
            body = body[:9] + b"\0" + body[10:]
        if kind in (b"IHDR", b"IDAT", b"IEND"):
            written += _chunk(kind, body)
    return written


def pieces(pixels: Pixels, chunks: list[tuple[bytes, bytes]]) -> Iterator[bytes]:
    """A PNG piece by piece: pixels of 8 or 16 bits, shape (h, w, 1 to 4), ``chunks`` (type, body) behind its header.

    Bands of rows are filtered (Sub) and compressed over all cores, each going on behind the one before (a flushed
    deflate block, RFC 1951), so that no more than a few bands are held at a time. The same pixels give the same bytes.
    """
    height, width, count = pixels.shape
    yield SIGNATURE
    depth = 8 * pixels.dtype.itemsize
    yield _chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, depth, {1: 0, 2: 4, 3: 2, 4: 6}[count], 0, 0, 0))
    for kind, body in chunks:
        yield _chunk(kind, body)
    rows = max(1, _BAND // (width * count * pixels.dtype.itemsize))
    tops = range(0, height, rows)
    together = 2 * may_use()
    check = 1
    for start in range(0, len(tops), together):
        some = tops[start : start + together]
        for top, (packed, sum_, size) in zip(some, each(lambda top: _packed(pixels, top, rows), some), strict=True):
            check = _adler_of_both(check, sum_, size)
            head = _ZLIB_HEAD if top == 0 else b""
            tail = struct.pack(">I", check) if top + rows >= height else b""
            yield _chunk(b"IDAT", head + packed + tail)
    yield _chunk(b"IEND", b"")


def _packed(pixels: Pixels, top: int, rows: int) -> tuple[bytes, int, int]:
    """A band, compressed; and the checksum and the length of what it was before."""
    lines = _filtered(pixels[top : top + rows])
    # The bytes of Python's zlib, in 3/5 of its time (pinned in tests/core/test_png.py).
    # Runs of one value alone are looked for: level 6 takes ten times as long for a file 8 % smaller.
    packer = zlib_ng.compressobj(1, zlib_ng.DEFLATED, -zlib_ng.MAX_WBITS, 9, zlib_ng.Z_RLE)
    packed = packer.compress(lines.data) + packer.flush(
        zlib_ng.Z_FINISH if top + rows >= len(pixels) else zlib_ng.Z_SYNC_FLUSH
    )
    return packed, zlib_ng.adler32(lines.data), lines.size


def _filtered(band: Pixels) -> NDArray[np.uint8]:
    """Lines of bytes, each behind its filter's number: what a byte differs from the same of the texel before."""
    texel = band.shape[2] * band.dtype.itemsize
    # A PNG holds the higher byte first.
    line = np.ascontiguousarray(band if band.dtype == np.uint8 else band.astype(">u2")).view(np.uint8)
    line = line.reshape(len(band), -1)
    lines = np.empty((len(band), 1 + line.shape[1]), np.uint8)
    lines[:, 0] = _SUB
    lines[:, 1 : 1 + texel] = line[:, :texel]
    np.subtract(line[:, texel:], line[:, :-texel], out=lines[:, 1 + texel :])
    return lines


def _adler_of_both(first: int, second: int, length: int) -> int:
    """Adler-32 (RFC 1950) of two parts, the second of ``length`` bytes, from those of each."""
    low = (first & 0xFFFF) + (second & 0xFFFF) - 1
    high = (first >> 16) + (second >> 16) + length * ((first & 0xFFFF) - 1)
    return high % _ADLER << 16 | low % _ADLER
