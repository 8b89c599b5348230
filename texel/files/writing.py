"""Encode Texels into a container. The same texels give the same bytes."""

from __future__ import annotations

import io
import os
import struct
import tempfile
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import OpenImageIO as oiio
from numpy.typing import NDArray

from texel.errors import Unwritable
from texel.files import png
from texel.image import REC709, Pixels, Texels, primaries_code, to_unit
from texel.roles import Transfer, facts

__all__ = ["WRITABLE", "encode", "write", "write_bytes"]

WRITABLE = {".png": "png", ".tga": "tga", ".exr": "exr", ".tif": "tiff", ".tiff": "tiff"}
_SRGB_TRANSFER = 13
_PERCEPTUAL_INTENT = b"\0"


def encode(texels: Texels, container: str, pack: bool = True) -> bytes:
    """The file's bytes for ``container``: "png" (8 and 16 bits), "tga" (8 bits), "exr" (16 becomes float;
    float) or "tiff" (8, 16, float).

    sRGB colour in PNG gets cICP and sRGB chunks, colour in OpenEXR its chromaticities; colours in other primaries are
    tagged as such. Data gets no colour tag at all, so that no reader applies a gamma to it.
    pack: without it a PNG is not compressed, for pictures that are looked at once.
    Raises Unwritable when the container cannot hold the pixels exactly.
    """
    if container == "png":
        # Unlike what is joined, it is held once.
        stream = io.BytesIO()
        stream.writelines(_png(texels) if pack else [_loose_png(texels)])
        return stream.getvalue()
    if container == "tga":
        return _tga(texels)
    if container == "exr":
        return _exr(texels)
    if container == "tiff":
        return _tiff(texels)
    raise Unwritable("{container!r} is not a container that can be written (png, tga, exr, tiff)", container=container)


def write(texels: Texels, path: Path) -> None:
    """Encode by the path's suffix, write beside it and rename into place. Raises Unwritable, OSError."""
    path = Path(path)
    container = WRITABLE.get(path.suffix.lower())
    if container is None:
        raise Unwritable("{path}: write to a name that ends in .png, .tga, .exr or .tif", path=path.name)
    write_bytes(_png(texels) if container == "png" else encode(texels, container), path)


def write_bytes(data: bytes | Iterable[bytes], path: Path) -> None:
    """All of ``data``, which may come in pieces, or nothing: written to a hidden neighbour first, then renamed.

    Raises Unwritable, OSError."""
    if not path.parent.is_dir():
        raise Unwritable("{path}: there is no folder {parent} to write it to", path=path, parent=path.parent)
    handle, temporary = tempfile.mkstemp(prefix=".", suffix=".part", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.writelines([data] if isinstance(data, bytes) else data)
        os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except BaseException:
        os.unlink(temporary)
        raise


def _png(texels: Texels) -> Iterator[bytes]:
    """The file piece by piece. Raises Unwritable before the first."""
    _check_png(texels)
    coloured = texels.transfer is Transfer.SRGB and texels.channels.startswith("rgb")
    return png.pieces(texels.pixels, _colour_chunks(texels) if coloured else [])


def _loose_png(texels: Texels) -> bytes:
    """Without compression, ten times as fast and 2.4 times as large: for pictures that are looked at once."""
    _check_png(texels)
    pixels = texels.pixels[:, :, 0] if texels.channels == "y" else texels.pixels
    return bytes(imagecodecs.png_encode(np.ascontiguousarray(pixels), out=_png_room(pixels), level=0, filter=0))


def _check_png(texels: Texels) -> None:
    if texels.pixels.dtype == np.float32:
        raise Unwritable(
            "{texels}: PNG holds 8 or 16 bits, not floats; write an .exr or narrow it first", texels=texels.name
        )
    if texels.channels == "rg":
        raise Unwritable("{texels}: PNG has no two-colour form; write three channels or an .exr", texels=texels.name)


def _png_room(pixels: NDArray[Any]) -> int | None:
    """Bytes that a narrow picture may take: the codec forgets the byte that each row begins with, which counts there.
    None leaves it to the codec."""
    row = pixels[0].nbytes
    return (row + 2) * len(pixels) * 2 + 4096 if row < 256 else None


def _colour_chunks(texels: Texels) -> list[tuple[bytes, bytes]]:
    """cICP (primaries, sRGB transfer, RGB, full range) and, for readers that do not know it, sRGB where that is true.

    W3C PNG Specification, third edition, 11.3.2; ITU-T H.273.
    """
    code = primaries_code(texels.tags.primaries or REC709)
    if code is None:
        return []
    chunks = [(b"cICP", bytes([code, _SRGB_TRANSFER, 0, 1]))]
    return [*chunks, (b"sRGB", _PERCEPTUAL_INTENT)] if code == 1 else chunks


def _tga(texels: Texels) -> bytes:
    """Uncompressed TGA 2.0, top row first: type 2 (colour) or 3 (grey)."""
    if texels.pixels.dtype != np.uint8:
        raise Unwritable(
            "{texels}: TGA holds 8 bits a channel; write a .png or .exr, or narrow it first", texels=texels.name
        )
    if texels.channels not in ("y", "rgb", "rgba"):
        raise Unwritable(
            "{texels}: TGA holds grey, RGB or RGBA; this picture has {channels}",
            texels=texels.name,
            channels=texels.channels.upper(),
        )
    count = len(texels.channels)
    alpha_bits = 8 if count == 4 else 0
    top_left = 0x20
    head = struct.pack(
        "<BBBHHBHHHHBB",
        *(0, 0, 3 if count == 1 else 2, 0, 0, 0, 0, 0),
        *(texels.width, texels.height, 8 * count, top_left | alpha_bits),
    )
    order = {1: [0], 3: [2, 1, 0], 4: [2, 1, 0, 3]}[count]
    extension = b"\0" * 8
    return head + texels.pixels[:, :, order].tobytes() + extension + b"TRUEVISION-XFILE.\0"


def _exr(texels: Texels) -> bytes:
    """Scan-line OpenEXR, 32-bit float, ZIP. Integers become floats with full scale 1."""
    if texels.transfer is Transfer.SRGB and texels.pixels.dtype != np.float32:
        raise Unwritable("{texels}: OpenEXR holds linear light; decode the sRGB numbers first", texels=texels.name)
    return _by_oiio(texels, to_unit(texels.pixels), ".exr", _chromaticities(texels))


def _chromaticities(texels: Texels) -> tuple[float, ...] | None:
    """What a colour's numbers are in; data has none."""
    is_colour = texels.role is not None and facts(texels.role).transfer is Transfer.SRGB
    return (texels.tags.primaries or REC709) if is_colour else None


def _tiff(texels: Texels) -> bytes:
    """TIFF of 8, 16 or 32-bit float, deflated, stored numbers as they are."""
    if texels.channels == "rg":
        raise Unwritable(
            "{texels}: two colours have no common meaning in TIFF; write three channels or an .exr", texels=texels.name
        )
    return _by_oiio(texels, texels.pixels, ".tif")


def _by_oiio(texels: Texels, pixels: Pixels, suffix: str, chromaticities: tuple[float, ...] | None = None) -> bytes:
    spec = oiio.ImageSpec(texels.width, texels.height, len(texels.channels), pixels.dtype.name.replace("32", ""))
    spec.channelnames = tuple(letter.upper() for letter in texels.channels)
    if texels.has_alpha:
        spec.alpha_channel = texels.channels.index("a")
    spec.attribute("oiio:UnassociatedAlpha", 1)
    spec.attribute("compression", "zip")
    if chromaticities is not None:
        spec.attribute("chromaticities", oiio.TypeDesc("float[8]"), chromaticities)
    # Without a fixed date the writer stamps the time, and the same input would not give the same bytes.
    spec.attribute("DateTime", "2000:01:01 00:00:00")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"out{suffix}"
        output = oiio.ImageOutput.create(str(path))
        if output is None:
            raise Unwritable("{texels}: {geterror}", texels=texels.name, geterror=oiio.geterror())
        if not output.open(str(path), spec) or not output.write_image(np.ascontiguousarray(pixels)):
            raise Unwritable("{texels}: {geterror}", texels=texels.name, geterror=output.geterror())
        output.close()
        return path.read_bytes()
