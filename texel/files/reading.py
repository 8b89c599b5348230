"""Decode a file into Texels, or say exactly why not."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import imagecodecs
import numpy as np
import OpenImageIO as oiio

from texel.errors import ChangedWhileRead, UnreadableImage
from texel.files import png
from texel.files.exr import layer_named, layers_of
from texel.files.limits import DEFAULT_LIMITS, Limits
from texel.files.probing import Probe, container_of, describe, open_with_oiio, read_block_texture
from texel.files.refusing import in_words
from texel.files.tiff import check_whole
from texel.image import Pixels, Texels
from texel.roles import Transfer

__all__ = ["read"]

# Bytes of floats that are decoded into memory; more go into a temporary file, some rows at a time.
_IN_MEMORY, _ROWS = 256 * 1024 * 1024, 256
_JPEG_END = b"\xff\xd9"


@contextmanager
def _unchanged(path: Path) -> Iterator[os.stat_result]:
    before = path.stat()
    try:
        yield before
    except UnreadableImage:
        if _moved(before, path):
            raise ChangedWhileRead(path.name) from None
        raise
    if _moved(before, path):
        raise ChangedWhileRead(path.name)


def _moved(before: os.stat_result, path: Path) -> bool:
    now = path.stat()
    return (now.st_size, now.st_mtime_ns) != (before.st_size, before.st_mtime_ns)


def read(path: Path, limits: Limits = DEFAULT_LIMITS, layer: str | None = None) -> Texels:
    """The picture in a file, with the file's own colour tags, at its own depth.

    layer: which picture of an OpenEXR that holds several; the first when None.

    Integers keep their stored numbers; half floats become float32. Alpha stays as it is stored, never multiplied in.
    Raises UnreadableImage (not a picture, cut off, broken), TooLarge (before decoding), ChangedWhileRead, OSError.
    """
    path = Path(path)
    with _unchanged(path) as status, in_words(path):
        container = container_of(path)
        if container == "png":
            if layer is not None:
                raise UnreadableImage(path.name, "a PNG has no layers")
            return _read_png(path, limits)
        head = describe(path, container, status.st_size).of_layer(layer, path.name)
        limits.check(path.name, head.width, head.height, len(head.channels), head.bits)
        pixels = _decode_exr(path, layer) if container == "exr" else _decode(path, head)
    return _texels(pixels, head.channels, path.name, head)


def _texels(pixels: Pixels, channels: str, name: str, found: Probe) -> Texels:
    transfer = Transfer.LINEAR if pixels.dtype == np.float32 else Transfer.SRGB
    return Texels(pixels, channels, transfer, tags=found.tags, name=name)


def _read_png(path: Path, limits: Limits) -> Texels:
    with path.open("rb") as stream:
        head = png.read_head(stream.read(64 * 1024), path.name, whole=False)
    limits.check(path.name, head.width, head.height, len(head.channels), head.bits)
    with path.open("rb") as stream:
        head, data = png.read_file(stream, path.name)
    pixels = _decode_png(data, path.name)
    if head.palette is not None:
        # Decoders make black of an index beyond the palette and say nothing.
        highest = int(_decode_png(png.as_indices(data, path.name), path.name).max()) * ((1 << head.depth) - 1) // 255
        if highest >= head.palette:
            raise UnreadableImage(
                path.name,
                "a texel asks for colour {highest}, but the palette has {palette} colours",
                highest=highest,
                palette=head.palette,
            )
    pixels = pixels.reshape(pixels.shape[0], pixels.shape[1], -1)
    channels = {1: "y", 2: "ya", 3: "rgb", 4: "rgba"}[pixels.shape[2]]
    transfer = Transfer.LINEAR if head.tags.declared_transfer == "linear" else Transfer.SRGB
    return Texels(pixels, channels, transfer, tags=head.tags, name=path.name)


def _decode_png(data: bytes | bytearray, name: str) -> Pixels:
    try:
        return np.asarray(imagecodecs.png_decode(data))
    except Exception as error:  # the codec raises its own types, and ValueError for some broken streams
        raise UnreadableImage(name, "the PNG is damaged ({error})", error=error) from error


def _decode(path: Path, found: Probe) -> Pixels:
    if found.format:
        texture = read_block_texture(path, found.container, 1)
        assert texture is not None, "probed as blocks"
        return texture.level(0, path.name).pixels
    if found.container == "jpeg":
        _check_jpeg_end(path)
    if found.container == "tiff":
        check_whole(path)
    opened = open_with_oiio(path)
    try:
        if _too_wide(found.width, found.height, len(found.channels), found.bits):
            order = list(range(len(found.channels)))
            return _by_bands(opened, path, 0, order, (found.height, found.width))
        kind = {8: "uint8", 16: "uint16", 32: "float"}[found.bits]
        pixels = _sound(opened.read_image(kind), opened, path)
    finally:
        opened.close()
    return np.ascontiguousarray(pixels.reshape(found.height, found.width, -1))


def _sound(pixels: Pixels | None, opened: oiio.ImageInput, path: Path) -> Pixels:
    if pixels is None:
        reason = " ".join(opened.geterror().split())[:200] or "no reason given"
        raise UnreadableImage(path.name, "cut off or damaged ({reason})", reason=reason)
    return pixels


def _too_wide(width: int, height: int, channels: int, bits: int) -> bool:
    """Whether floats are too many for memory, and are laid in a file."""
    return bits == 32 and width * height * channels * 4 > _IN_MEMORY


def _by_bands(
    opened: oiio.ImageInput, path: Path, part: int, columns: list[int], size: tuple[int, int]
) -> Pixels:  # fmt: skip
    """The channels ``columns`` of one part as floats in a temporary file, some rows, or a row of tiles, at a time."""
    height, width = size
    first, last = min(columns), max(columns) + 1
    order = [at - first for at in columns]
    opened.seek_subimage(part, 0)
    spec = opened.spec()
    rows = spec.tile_height or _ROWS
    # The mapping keeps the file open, which has no name and is gone with it.
    with tempfile.TemporaryFile(prefix="texels-") as file:
        pixels: Pixels = np.memmap(file, np.float32, "w+", shape=(height, width, len(order)))
    for top in range(0, height, rows):
        end = min(top + rows, height)
        begin, until = spec.y + top, spec.y + end
        if spec.tile_width:
            x = spec.x
            band = opened.read_tiles(part, 0, x, x + width, begin, until, spec.z, spec.z + 1, first, last, "float")
        else:
            band = opened.read_scanlines(part, 0, begin, until, spec.z, first, last, "float")
        pixels[top:end] = _sound(band, opened, path).reshape(end - top, width, -1)[:, :, order]
    return pixels


def _decode_exr(path: Path, name: str | None) -> Pixels:
    opened = open_with_oiio(path)
    try:
        layer = layer_named(layers_of(opened), name, path.name)
        if _too_wide(layer.width, layer.height, len(layer.columns), layer.bits):
            return _by_bands(opened, path, layer.part, list(layer.columns), (layer.height, layer.width))
        first, last = min(layer.columns), max(layer.columns) + 1
        order = [at - first for at in layer.columns]
        pixels = _sound(opened.read_image(layer.part, 0, first, last, "float"), opened, path)
    finally:
        opened.close()
    pixels = pixels.reshape(layer.height, layer.width, last - first)
    return np.ascontiguousarray(pixels[:, :, order])


def _check_jpeg_end(path: Path) -> None:
    """Decoders fill a cut-off JPEG with grey and say nothing, so its end marker is looked for here."""
    with path.open("rb") as stream:
        stream.seek(max(0, path.stat().st_size - 64 * 1024))
        if _JPEG_END not in stream.read():
            raise UnreadableImage(path.name, "the JPEG is cut off before its end marker")
