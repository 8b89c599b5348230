"""Pixels to blocks, by well-known encoders. The same pixels, format and quality give the same bytes."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import Any

import cv2
import etcpak
import ispc_texcomp
import numpy as np
import quicktex
from quicktex.s3tc import bc1, bc3, bc4, bc5

from texel.blocks.formats import WRITABLE_FORMATS, Format
from texel.blocks.texture import BlockTexture
from texel.colour import srgb_to_unit_linear
from texel.errors import MismatchedMaps, Unwritable
from texel.image import Pixels, Texels, full_scale, narrow, widen
from texel.mips import Chain, right_chain
from texel.normals.vectors import decode
from texel.roles import Role, Transfer
from texel.threads import each

__all__ = ["QUALITIES", "encode_level", "encode_texture"]

QUALITIES = ("quick", "normal", "best")
_QUICK, _NORMAL, _BEST = QUALITIES
# Presets of the encoders. On a slate of 1024 x 1024: BC7 48.8, 51.8, 51.9 dB at 7, 0.7 and 0.16 megapixels a second and
# core; what lies beyond "best" costs three times the time for a tenth of a decibel.
_BC7 = {_QUICK: "ultrafast", _NORMAL: "veryfast", _BEST: "basic"}
_BC6H = {_QUICK: "veryfast", _NORMAL: "fast", _BEST: "basic"}
_S3TC_LEVEL = {_NORMAL: 5, _BEST: 10}
_ASTC = {_QUICK: 0, _NORMAL: 60, _BEST: 98}
# Texels of a band that one thread encodes.
_BAND = 256 * 1024
_DEPTHS: dict[int, np.dtype[Any]] = {8: np.dtype(np.uint8), 16: np.dtype(np.uint16), 32: np.dtype(np.float32)}
_PLAIN_TYPES = {"rgba16f": "<f2", "r32f": "<f4", "rgba32f": "<f4"}


def encode_texture(
    texels: Texels, format_: Format, quality: str = _NORMAL, mips: bool = True, threads: int = 1,
    chain: Chain | None = None,
) -> BlockTexture:  # fmt: skip
    """A map as hardware takes it, with its whole mip chain unless ``mips`` is False.

    chain: its levels, where they were made already. Formats of 32 bits take linear light, so sRGB colour is decoded for
    them; formats without an sRGB code take the numbers as they are.
    Raises Unwritable (a format that is only read, an unknown quality) and MismatchedMaps (a channel is missing).
    """
    if format_.key not in WRITABLE_FORMATS:
        raise Unwritable(
            "{label} is read, but not written; formats are {listed}",
            label=format_.label,
            listed=", ".join(WRITABLE_FORMATS),
        )
    if quality not in QUALITIES:
        raise Unwritable(
            "{quality!r} is not a quality; there are {listed}", quality=quality, listed=", ".join(QUALITIES)
        )
    levels = (chain or right_chain(texels)) if mips else [texels]
    encoded = tuple(
        encode_level(_in_light(_with_blue(level, format_), format_), format_, quality, threads) for level in levels
    )
    srgb = texels.transfer is Transfer.SRGB and format_.vk[1] is not None
    return BlockTexture(
        format_, texels.width, texels.height, encoded, Transfer.SRGB if srgb else Transfer.LINEAR
    )  # fmt: skip


def _with_blue(texels: Texels, format_: Format) -> Texels:
    """Two channels with the third that the format holds: of a normal map what the vector's length leaves, else 0."""
    if texels.channels != "rg" or len(format_.channels) < 3:
        return texels
    if texels.role is Role.NORMAL:
        blue = narrow((decode(texels)[:, :, 2:] + 1) * np.float32(0.5), texels.pixels.dtype)
        return texels.with_pixels(np.concatenate([texels.pixels, blue], axis=2), "rgb")
    return texels.with_pixels(np.pad(texels.pixels, ((0, 0), (0, 0), (0, 1))), "rgb")


def _in_light(texels: Texels, format_: Format) -> Pixels:
    """The pixels in what the format holds: floats are linear light."""
    if format_.bits != 32 or texels.transfer is Transfer.LINEAR:
        return texels.pixels
    count = len(texels.channels) - (1 if texels.has_alpha else 0)
    linear = widen(texels.pixels, np.dtype(np.float32)).copy()
    linear[:, :, :count] = srgb_to_unit_linear(texels.pixels[:, :, :count])
    return linear


def encode_level(pixels: Pixels, format_: Format, quality: str = _NORMAL, threads: int = 1) -> bytes:
    """One picture, shape (height, width, channels) of uint8, uint16 or float32, as the format's bytes.

    Grey fills three channels; alpha that is missing is 1; channels that the format lacks are left out.
    """
    encode = _plain_bytes(format_)
    if format_.is_block:
        encode = _encoder(format_, quality, _has_alpha(pixels, format_))

    def encoded(rows: slice) -> bytes:
        fitted = _fitted(pixels[rows], format_, quality)
        return encode(np.ascontiguousarray(_padded(fitted, format_.block) if format_.is_block else fitted))

    return b"".join(each(encoded, _bands(pixels, format_.block[1]), threads))


def _plain_bytes(format_: Format) -> Callable[[Pixels], bytes]:
    return lambda p: p.astype(_PLAIN_TYPES.get(format_.key, p.dtype.newbyteorder("<"))).tobytes()


def _fitted(pixels: Pixels, format_: Format, quality: str) -> Pixels:
    """The channels and the depth that the format's encoder takes.

    Encoders that take four channels and look at one or two are given what is there: taking it apart costs more.
    """
    depth = _DEPTHS[format_.bits]
    values = widen(np.clip(pixels, 0, 1) if format_.bits != 32 and pixels.dtype.kind == "f" else pixels, depth)
    count, wanted = values.shape[2], len(format_.channels)
    if wanted <= 2:
        if count < wanted:
            raise MismatchedMaps("{label} takes two channels; this map has one", label=format_.label)
        takes_four = format_.family == "etc2" or (format_.is_block and quality != _QUICK)
        return values if takes_four else np.ascontiguousarray(values[:, :, :wanted])
    colours = values[:, :, :3] if count >= 3 else np.repeat(values[:, :, :1], 3, axis=2)
    if wanted == 3 and not format_.is_block:
        return np.ascontiguousarray(colours)
    if wanted == 4 and count in (2, 4):
        alpha = values[:, :, -1:]
    else:
        alpha = np.full((*values.shape[:2], 1), full_scale(values.dtype), values.dtype)
    return np.concatenate([colours, alpha], axis=2)


def _padded(pixels: Pixels, block: tuple[int, int]) -> Pixels:
    """Whole blocks, the last texels repeated."""
    height, width = pixels.shape[:2]
    right, down = -width % block[0], -height % block[1]
    return np.pad(pixels, ((0, down), (0, right), (0, 0)), mode="edge") if right or down else pixels


def _bands(pixels: Pixels, block_height: int) -> list[slice]:
    rows = max(1, _BAND // pixels.shape[1] // block_height) * block_height
    return [slice(top, min(top + rows, len(pixels))) for top in range(0, len(pixels), rows)]


def _has_alpha(pixels: Pixels, format_: Format) -> bool:
    """Whether the format keeps alpha and the picture has some that shows: less than 1 once it is stored."""
    if len(format_.channels) < 4 or pixels.shape[2] not in (2, 4):
        return False
    return bool(np.any(widen(pixels[:, :, -1], _DEPTHS[format_.bits]) != full_scale(_DEPTHS[format_.bits])))


def _surface(pixels: Pixels) -> Any:
    height, width = pixels.shape[:2]
    return ispc_texcomp.RGBASurface(pixels.tobytes(), width, height, pixels.strides[0])


def _trimmed(data: bytes, pixels: Pixels, format_: Format) -> bytes:
    """Some encoders hand back a longer buffer than they filled."""
    return bytes(data[: format_.bytes_of(pixels.shape[1], pixels.shape[0])])


def _encoder(format_: Format, quality: str, alpha: bool) -> Callable[[Pixels], bytes]:
    if format_.family == "astc":
        return lambda p: _encode_astc(p, format_, quality)
    if format_.family == "etc2":
        return lambda p: _trimmed(_ETC[format_.key](_four(p).tobytes(), p.shape[1], p.shape[0]), p, format_)
    if format_.key == "bc7":
        profile = ("alpha_" if alpha else "") + _BC7[quality]
        seven = ispc_texcomp.BC7EncSettings.from_profile(profile)
        return lambda p: ispc_texcomp.compress_blocks_bc7(_surface(p), seven)
    if format_.key == "bc6h":
        six = ispc_texcomp.BC6HEncSettings.from_profile(_BC6H[quality])
        return lambda p: ispc_texcomp.compress_blocks_bc6h(_surface(np.maximum(p, 0).astype(np.float16)), six)
    if quality == _QUICK:
        return lambda p: _trimmed(_ISPC[format_.key](_surface(p)), p, format_)
    encoder = _quicktex_encoder(format_.key, quality)
    return lambda p: encoder.encode(quicktex.RawTexture.frombytes(_four(p).tobytes(), p.shape[1], p.shape[0])).tobytes()


_ISPC = {
    "bc1": ispc_texcomp.compress_blocks_bc1,
    "bc3": ispc_texcomp.compress_blocks_bc3,
    "bc4": ispc_texcomp.compress_blocks_bc4,
    "bc5": ispc_texcomp.compress_blocks_bc5,
}
_ETC = {
    "etc2": etcpak.compress_etc2_rgb,
    "etc2a": etcpak.compress_etc2_rgba,
    "eac_r": etcpak.compress_eac_r,
    "eac_rg": etcpak.compress_eac_rg,
}


@lru_cache
def _quicktex_encoder(key: str, quality: str) -> Any:
    if key == "bc4":
        return bc4.BC4Encoder(0)
    if key == "bc5":
        return bc5.BC5Encoder(0, 1)
    return (bc1.BC1Encoder if key == "bc1" else bc3.BC3Encoder)(_S3TC_LEVEL[quality])


def _four(pixels: Pixels) -> Pixels:
    """Four channels for encoders that take nothing else; those that are missing are full."""
    count = pixels.shape[2]
    if count == 4:
        return pixels
    if count == 3:
        return cv2.cvtColor(pixels, cv2.COLOR_RGB2RGBA)
    full = np.full(pixels.shape[:2], 255, np.uint8)
    return cv2.merge([*cv2.split(pixels), *(full,) * (4 - count)])


def _encode_astc(pixels: Pixels, format_: Format, quality: str) -> bytes:
    # Loaded only when it is asked for: importing it probes the processor by running a program.
    import astc_encoder

    profile = astc_encoder.ASTCProfile.LDR
    config = astc_encoder.ASTCConfig(profile, *format_.block, 1, _ASTC[quality])
    image = astc_encoder.ASTCImage(astc_encoder.ASTCType.U8, pixels.shape[1], pixels.shape[0], 1, pixels.tobytes())
    return bytes(astc_encoder.ASTCContext(config).compress(image, astc_encoder.ASTCSwizzle.from_str("RGBA")))
