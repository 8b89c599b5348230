"""DDS containers: written with the DX10 header, and read where they hold block formats (DDS programming guide)."""

from __future__ import annotations

import struct
from typing import NamedTuple

import numpy as np

from texel.blocks.formats import FORMATS, Format
from texel.blocks.texture import BlockTexture
from texel.errors import UnreadableImage, Unwritable
from texel.roles import Transfer

__all__ = ["HEAD_BYTES", "DdsHead", "build_dds", "read_head", "read_texture"]

_HEADER = struct.Struct("<4s7I44x8I5I")
_DX10 = struct.Struct("<5I")
HEAD_BYTES = _HEADER.size + _DX10.size
_CAPS, _HEIGHT, _WIDTH, _PITCH, _PIXELS, _LEVELS, _LINEAR_SIZE = 0x1, 0x2, 0x4, 0x8, 0x1000, 0x20000, 0x80000
_FOURCC = 0x4
_TEXTURE, _COMPLEX, _MIPS = 0x1000, 0x8, 0x400000
_CUBE, _VOLUME = 0x200, 0x200000
_FLAT = 3
_BY_FOURCC = {
    b"DXT1": "bc1", b"DXT3": "bc2", b"DXT5": "bc3", b"ATI1": "bc4", b"BC4U": "bc4", b"ATI2": "bc5", b"BC5U": "bc5",
}  # fmt: skip
_BY_DXGI: dict[int, tuple[Format, Transfer]] = {}
for _format in FORMATS.values():
    if _format.dxgi[0] is not None:
        _BY_DXGI[_format.dxgi[0]] = (_format, Transfer.LINEAR)
    if _format.dxgi[1] is not None:
        _BY_DXGI[_format.dxgi[1]] = (_format, Transfer.SRGB)


class DdsHead(NamedTuple):
    """transfer: None for headers before DX10, which say nothing of it. start: where the first level begins."""

    format: Format
    transfer: Transfer | None
    width: int
    height: int
    levels: int
    start: int


def read_head(data: bytes, name: str) -> DdsHead | None:
    """The header, or None for a form that is left to another reader (masks, palettes, luminance).

    Raises UnreadableImage for volumes, cubes and arrays.
    """
    if len(data) < _HEADER.size:
        raise UnreadableImage(name, "the DDS file ends within its header")
    fields = _HEADER.unpack_from(data)
    height, width, levels = fields[3], fields[4], max(1, fields[7])
    flags, fourcc, caps2 = fields[9], struct.pack("<I", fields[10]), fields[17]
    if caps2 & (_CUBE | _VOLUME):
        raise UnreadableImage(name, "a DDS with several faces or slices; only flat textures are read")
    if not flags & _FOURCC:
        return None
    if fourcc == b"DX10":
        if len(data) < HEAD_BYTES:
            raise UnreadableImage(name, "the DDS file ends within its header")
        code, dimension, misc, count, _ = _DX10.unpack_from(data, _HEADER.size)
        if dimension != _FLAT or misc & 0x4 or count > 1:
            raise UnreadableImage(name, "a DDS with several faces or slices; only flat textures are read")
        if code not in _BY_DXGI:
            return None
        return DdsHead(*_BY_DXGI[code], width, height, levels, HEAD_BYTES)
    if fourcc not in _BY_FOURCC:
        return None
    return DdsHead(FORMATS[_BY_FOURCC[fourcc]], None, width, height, levels, _HEADER.size)


def cuts_out(level: bytes) -> bool:
    """Whether a BC1 picture has texels that are see-through: the fourth colour of a block whose first colour is not
    the larger one (Khronos Data Format Specification 1.3, S3TC, BC1 with alpha)."""
    blocks = np.frombuffer(level, "<u2").reshape(-1, 4)
    punched = blocks[blocks[:, 0] <= blocks[:, 1], 2:]
    return bool(np.any(punched & (punched >> 1) & 0x5555))


def read_texture(data: bytes, name: str, most_levels: int = 32) -> BlockTexture | None:
    """The levels of a file, not decoded; None as in read_head. Raises UnreadableImage when one is cut off."""
    head = read_head(data, name)
    if head is None:
        return None
    at, levels = head.start, []
    for number in range(min(head.levels, most_levels, max(head.width, head.height).bit_length())):
        size = head.format.bytes_of(max(1, head.width >> number), max(1, head.height >> number))
        if at + size > len(data):
            raise UnreadableImage(name, "the file is cut off inside level {number}", number=number)
        levels.append(data[at : at + size])
        at += size
    if head.format.key == "bc1" and cuts_out(levels[0]):
        head = head._replace(format=FORMATS["bc1a"])
    return BlockTexture(head.format, head.width, head.height, tuple(levels), head.transfer)


def build_dds(texture: BlockTexture) -> bytes:
    """The file's bytes, with the DX10 header. Raises Unwritable for a format that DDS has no code for."""
    linear, encoded = texture.format.dxgi
    srgb = texture.transfer is Transfer.SRGB and encoded is not None
    code = encoded if srgb else linear
    if code is None:
        raise Unwritable("DDS has no code for {label}; write a .ktx2", label=texture.format.label)
    flags = _CAPS | _HEIGHT | _WIDTH | _PIXELS | _LEVELS | (_LINEAR_SIZE if texture.format.is_block else _PITCH)
    pitch = len(texture.levels[0]) if texture.format.is_block else texture.width * texture.format.size
    caps = _TEXTURE | (_COMPLEX | _MIPS if len(texture.levels) > 1 else 0)
    header = _HEADER.pack(
        b"DDS ", 124, flags, texture.height, texture.width, pitch, 0, len(texture.levels),
        32, _FOURCC, struct.unpack("<I", b"DX10")[0], 0, 0, 0, 0, 0, caps, 0, 0, 0, 0,
    )  # fmt: skip
    return header + _DX10.pack(code, _FLAT, 0, 1, 0) + b"".join(texture.levels)
