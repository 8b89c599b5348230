"""KTX 2.0 containers, read and written byte by byte (Khronos KTX File Format Specification 2.0).

The data format descriptor follows the Khronos Data Format Specification 1.3, basic descriptor block.
"""

from __future__ import annotations

import math
import struct
import zlib
from typing import NamedTuple

import zstandard

from texel.blocks.formats import FORMATS, Format
from texel.blocks.texture import BlockTexture
from texel.errors import UnreadableImage
from texel.roles import Transfer

__all__ = ["HEAD_BYTES", "SIGNATURE", "KtxHead", "build_ktx2", "read_head", "read_texture"]

SIGNATURE = b"\xabKTX 20\xbb\r\n\x1a\n"
_HEADER = struct.Struct("<12s9I4I2Q")
_LEVEL = struct.Struct("<3Q")
_BY_VK: dict[int, tuple[Format, Transfer]] = {}
for _format in FORMATS.values():
    _BY_VK[_format.vk[0]] = (_format, Transfer.LINEAR)
    if _format.vk[1] is not None:
        _BY_VK[_format.vk[1]] = (_format, Transfer.SRGB)
# A header with its index and descriptor, however many levels it has.
HEAD_BYTES = _HEADER.size + 32 * _LEVEL.size
_SCHEMES = {0: "none", 1: "BasisLZ", 2: "Zstandard", 3: "ZLIB"}
_UNIVERSAL_MODELS = (163, 166)
_MAX_LEVELS = 32
_WRITER = b"KTXwriter\0Fair Texel\0"
_LINEAR, _SRGB = 1, 2
_BT709 = 1
# Bits of a sample's qualifiers (Khronos Data Format, table of sample flags).
_FLOAT, _SIGNED, _STAYS_LINEAR = 0x80, 0x40, 0x10
_ALPHA = 15


class KtxHead(NamedTuple):
    """levels: offset, stored bytes and unpacked bytes of each, largest first. scheme: of supercompression."""

    format: Format
    transfer: Transfer
    width: int
    height: int
    scheme: int
    levels: tuple[tuple[int, int, int], ...]


def read_head(data: bytes, name: str) -> KtxHead:
    """The header and level index from a file's first bytes (HEAD_BYTES are enough).

    Raises UnreadableImage for everything but one flat picture in a known format.
    """
    if len(data) < _HEADER.size or not data.startswith(SIGNATURE):
        raise UnreadableImage(name, "the KTX2 file ends within its header")
    (_, vk, _, width, height, depth, layers, faces, count, scheme, dfd_at, dfd_size, *_) = _HEADER.unpack_from(data)
    if depth > 1 or layers > 1 or faces != 1:
        raise UnreadableImage(name, "a KTX2 with several faces, layers or slices; only flat textures are read")
    if scheme not in _SCHEMES:
        raise UnreadableImage(name, "a KTX2 with the unknown supercompression scheme {scheme}", scheme=scheme)
    model = data[dfd_at + 12] if dfd_size > 0 and dfd_at + 12 < len(data) else 0
    if vk == 0 and (scheme == 1 or model in _UNIVERSAL_MODELS):
        raise UnreadableImage(name, "a universal (Basis) KTX2, which is not read; convert it to BC7 or ASTC first")
    if vk not in _BY_VK:
        raise UnreadableImage(name, "a KTX2 of the VkFormat {vk}, which is not read", vk=vk)
    count = max(1, count)
    if not 0 < width <= 1 << 20 or not 0 < height <= 1 << 20 or count > _MAX_LEVELS:
        raise UnreadableImage(
            name,
            "a KTX2 header that makes no sense: {width} x {height}, {count} levels",
            width=width,
            height=height,
            count=count,
        )
    if len(data) < _HEADER.size + count * _LEVEL.size:
        raise UnreadableImage(name, "the KTX2 file ends within its level index")
    index = tuple(_LEVEL.unpack_from(data, _HEADER.size + at * _LEVEL.size) for at in range(count))
    format_, transfer = _BY_VK[vk]
    return KtxHead(format_, transfer, width, height, scheme, index)


def read_texture(data: bytes, name: str, most_levels: int = _MAX_LEVELS) -> BlockTexture:
    """The levels of a file, unpacked but not decoded. Raises UnreadableImage when one is cut off or damaged."""
    head = read_head(data, name)
    levels = []
    for at, (offset, stored, unpacked) in enumerate(head.levels[:most_levels]):
        wanted = head.format.bytes_of(max(1, head.width >> at), max(1, head.height >> at))
        if offset + stored > len(data):
            raise UnreadableImage(name, "the file is cut off inside level {at}", at=at)
        if unpacked not in (0, wanted):
            raise UnreadableImage(
                name,
                "level {at} should hold {wanted} bytes, and its index says {unpacked}",
                at=at,
                wanted=wanted,
                unpacked=unpacked,
            )
        levels.append(_unpacked(data[offset : offset + stored], head.scheme, wanted, name, at))
    return BlockTexture(head.format, head.width, head.height, tuple(levels), head.transfer)


def _unpacked(packed: bytes, scheme: int, wanted: int, name: str, level: int) -> bytes:
    try:
        if scheme == 2:
            unpacked = zstandard.ZstdDecompressor().decompress(packed, max_output_size=wanted)
        elif scheme == 3:
            unpacked = zlib.decompressobj().decompress(packed, wanted)
        else:
            unpacked = packed
    except (zstandard.ZstdError, zlib.error) as error:
        raise UnreadableImage(name, "level {level} is damaged ({error})", level=level, error=error) from error
    if len(unpacked) != wanted:
        raise UnreadableImage(
            name,
            "level {level} holds {count} bytes; {wanted} are needed",
            level=level,
            count=len(unpacked),
            wanted=wanted,
        )
    return unpacked


def build_ktx2(texture: BlockTexture, zstd_level: int | None = None) -> bytes:
    """The file's bytes. zstd_level: 1 to 19 packs each level with Zstandard, None leaves them as they are.

    Levels lie smallest first in the file, as the specification asks; the same texture gives the same bytes.
    """
    format_ = texture.format
    srgb = texture.transfer is Transfer.SRGB and format_.vk[1] is not None
    stored = texture.levels
    if zstd_level is not None:
        packer = zstandard.ZstdCompressor(level=zstd_level, write_content_size=True)
        stored = tuple(packer.compress(level) for level in texture.levels)
    dfd = _descriptor(format_, srgb, zstd_level is not None)
    key_values = _key_values()
    dfd_at = _HEADER.size + len(stored) * _LEVEL.size
    kvd_at = dfd_at + len(dfd)
    end = kvd_at + len(key_values)
    align = 1 if zstd_level is not None else math.lcm(format_.size, 4)
    body: list[bytes] = []
    index = []
    for packed, level in zip(reversed(stored), reversed(texture.levels), strict=True):
        body.append(b"\0" * (-end % align))
        end += len(body[-1])
        index.append((end, len(packed), len(level)))
        body.append(packed)
        end += len(packed)
    header = _HEADER.pack(
        SIGNATURE, (format_.vk[1] if srgb else format_.vk[0]), _type_size(format_),
        texture.width, texture.height, 0, 0, 1, len(stored), 0 if zstd_level is None else 2,
        dfd_at, len(dfd), kvd_at, len(key_values), 0, 0,
    )  # fmt: skip
    return b"".join([header, *(_LEVEL.pack(*entry) for entry in reversed(index)), dfd, key_values, *body])


def _type_size(format_: Format) -> int:
    return 1 if format_.is_block else format_.size // len(format_.channels)


def _key_values() -> bytes:
    entry = struct.pack("<I", len(_WRITER)) + _WRITER
    return entry + b"\0" * (-len(entry) % 4)


def _samples(format_: Format, srgb: bool) -> list[tuple[int, int, int]]:
    """Bit offset, bit length and channel with qualifiers of each sample."""
    bits = format_.size * 8
    # Alpha is never sRGB-encoded; the qualifier says so.
    alpha = _ALPHA | (_STAYS_LINEAR if srgb else 0)
    by_key = {
        "bc1a": [(0, 64, 1)],
        "bc2": [(0, 64, alpha), (64, 64, 0)],
        "bc3": [(0, 64, alpha), (64, 64, 0)],
        "bc5": [(0, 64, 0), (64, 64, 1)],
        "bc6h": [(0, 128, _FLOAT)],
        "etc2": [(0, 64, 2)],
        "etc2a": [(0, 64, alpha), (64, 64, 2)],
        "eac_rg": [(0, 64, 0), (64, 64, 1)],
    }
    if format_.key in by_key:
        return by_key[format_.key]
    if format_.is_block:
        return [(0, bits, 0)]
    count = len(format_.channels)
    width = bits // count
    kind = _FLOAT | _SIGNED if format_.bits == 32 else 0
    ids = [0, 1, 2, alpha][:count]
    return [(width * at, width, ids[at] | kind) for at in range(count)]


def _limits(format_: Format, length: int) -> tuple[int, int]:
    """Lowest and highest number of a sample: those that mean 0 (or -1) and 1."""
    if format_.key == "bc6h":
        return 0, 0x3F800000
    if format_.bits == 32:
        return 0xBF800000, 0x3F800000
    return 0, 0xFFFFFFFF if format_.is_block else (1 << length) - 1


def _descriptor(format_: Format, srgb: bool, packed: bool) -> bytes:
    samples = _samples(format_, srgb)
    size = 24 + 16 * len(samples)
    plane = 0 if packed else format_.size
    descriptor = struct.pack("<I", size + 4)
    descriptor += struct.pack("<IHH", 0, 2, size)
    descriptor += struct.pack("<BBBB", format_.model, _BT709, _SRGB if srgb else _LINEAR, 0)
    descriptor += struct.pack("<4B", format_.block[0] - 1, format_.block[1] - 1, 0, 0)
    descriptor += struct.pack("<8B", plane, *(0,) * 7)
    for offset, length, channel in samples:
        low, high = _limits(format_, length)
        descriptor += struct.pack("<HBB4BII", offset, length - 1, channel, 0, 0, 0, 0, low, high)
    return descriptor
