"""Blocks back to pixels, by well-known decoders; lengths are checked first, since decoders trust them."""

from __future__ import annotations

from collections.abc import Callable

import imagecodecs
import numpy as np
import texture2ddecoder

from texel.blocks.formats import Format
from texel.errors import UnreadableImage
from texel.image import Pixels

__all__ = ["decode_level"]

# Numbers by which imagecodecs knows the formats of 4 x 4 texels that end in a plain decoder of their own.
_BCN = {"bc1": 1, "bc1a": 1, "bc2": 2, "bc3": 3, "bc4": 4, "bc5": 5, "bc6h": 6, "bc7": 7}
_BCN_CHANNELS = {4: 1, 5: 2, 6: 3}
_PLAIN_TYPES = {"rgba16f": "<f2", "r32f": "<f4", "rgba32f": "<f4"}
_OTHERS: dict[str, Callable[[bytes, int, int], bytes]] = {
    "etc2": texture2ddecoder.decode_etc2,
    "etc2a": texture2ddecoder.decode_etc2a8,
    "eac_r": texture2ddecoder.decode_eacr,
    "eac_rg": texture2ddecoder.decode_eacrg,
}
# How long an encoder would search, 0 to 100: of no matter for decoding, but asked for.
_ASTC_SPEED = 10
# texture2ddecoder gives blue, green, red, alpha.
_COLUMNS = {"y": [2], "rg": [2, 1], "rgb": [2, 1, 0], "rgba": [2, 1, 0, 3]}


def decode_level(data: bytes, format_: Format, width: int, height: int, name: str = "texture") -> Pixels:
    """One level as pixels, shape (height, width, channels): uint8, uint16 or, for BC6H and floats, float32.

    Raises UnreadableImage when ``data`` is not of the length that the format and size ask for.
    """
    wanted = format_.bytes_of(width, height)
    if len(data) != wanted:
        raise UnreadableImage(
            name,
            "{width} x {height} texels of {label} take {wanted} bytes, not {count}",
            width=width,
            height=height,
            label=format_.label,
            wanted=wanted,
            count=len(data),
        )
    if not format_.is_block:
        return _plain(data, format_, width, height)
    across, down = (-(-side // of) * of for side, of in zip((width, height), format_.block, strict=True))
    pixels = _blocks(data, format_, across, down)
    return np.ascontiguousarray(pixels[:height, :width])


def _plain(data: bytes, format_: Format, width: int, height: int) -> Pixels:
    kind = _PLAIN_TYPES.get(format_.key) or {8: "<u1", 16: "<u2"}[format_.bits]
    pixels = np.frombuffer(data, kind).reshape(height, width, -1)
    return pixels.astype(np.float32) if format_.bits == 32 else pixels.astype(pixels.dtype.newbyteorder("="))


def _blocks(data: bytes, format_: Format, width: int, height: int) -> Pixels:
    """width, height: multiples of the block's."""
    if format_.key in _BCN:
        number = _BCN[format_.key]
        shape = (height, width, _BCN_CHANNELS.get(number, 4))
        decoded = imagecodecs.bcn_decode(data, number, shape=shape if shape[2] > 1 else shape[:2])
        pixels = np.asarray(decoded).reshape(shape)[:, :, : len(format_.channels)]
        return pixels.astype(np.float32) if format_.bits == 32 else pixels
    if format_.family == "astc":
        return _astc(data, format_, width, height)
    raw = _OTHERS[format_.key](data, width, height)
    return np.frombuffer(raw, np.uint8).reshape(height, width, 4)[:, :, _COLUMNS[format_.channels]]


def _astc(data: bytes, format_: Format, width: int, height: int) -> Pixels:
    """By the format's reference codec: another one ends its process on blocks that no encoder writes."""
    # Loaded only when it is asked for: importing it probes the processor by running a program.
    import astc_encoder

    config = astc_encoder.ASTCConfig(astc_encoder.ASTCProfile.LDR, *format_.block, 1, _ASTC_SPEED)
    image = astc_encoder.ASTCImage(astc_encoder.ASTCType.U8, width, height, 1)
    decoded = astc_encoder.ASTCContext(config).decompress(data, image, astc_encoder.ASTCSwizzle.from_str("RGBA"))
    return np.frombuffer(decoded.data or b"", np.uint8).reshape(height, width, 4)[:, :, : len(format_.channels)]
