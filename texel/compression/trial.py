"""Try formats on a map: memory, file size and the error that each adds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import zstandard

from texel.blocks import BlockTexture, Format, memory
from texel.blocks.encoding import encode_texture
from texel.errors import TexelError
from texel.image import Texels, to_unit
from texel.measures import Kind, compare, kind_of
from texel.mips import Chain
from texel.roles import Role

__all__ = ["Subject", "Trial", "sample_of", "sort_of", "try_format", "whole_trial"]

_TILE = 512
_TILES = 2
_PACKING = 3


@dataclass(frozen=True)
class Subject:
    """What is to be compressed. texels: the map, or a sample of it; width, height: of the whole map; sort: one of
    texel.compression.table.SORTS."""

    texels: Texels
    width: int
    height: int
    sort: str
    mips: bool = True

    @property
    def kind(self) -> Kind:
        """How its errors are measured."""
        if self.sort == "normal":
            return Kind.NORMAL
        return Kind.COLOUR if self.sort in ("colour", "colour_alpha", "light") else Kind.MASK


def sort_of(texels: Texels) -> str:
    """What a picture is as far as its format goes, from its role, channels and depth.

    Alpha that is plain white does not count. A grey picture is a mask; more channels, of no one role, are packed data.
    """
    if texels.role is Role.NORMAL:
        return "normal"
    if kind_of(texels.role) is Kind.COLOUR:
        if texels.bits == 32:
            return "light"
        return "colour_alpha" if _uses_alpha(texels) else "colour"
    if texels.channels == "y":
        return "height" if texels.role is Role.HEIGHT else "mask"
    return "packed"


def _uses_alpha(texels: Texels) -> bool:
    return texels.has_alpha and bool(to_unit(texels.channel("a")).min() < 1 - 1 / 255)


def sample_of(texels: Texels) -> Texels:
    """A large map's sample: four tiles of 512 texels a side, a million texels in all, blocks kept whole."""
    if texels.width * texels.height <= (_TILE * _TILES) ** 2:
        return texels
    rows = []
    for y in _starts(texels.height):
        tiles = [texels.pixels[y : y + _TILE, x : x + _TILE] for x in _starts(texels.width)]
        rows.append(np.concatenate(tiles, axis=1))
    return texels.with_pixels(np.ascontiguousarray(np.concatenate(rows, axis=0)))


def _starts(side: int) -> list[int]:
    """First texels of tiles in the middle of each half; multiples of 4 and of 12, so that blocks stay whole."""
    if side <= _TILE:
        return [0]
    return [max(0, (side * (2 * half + 1) // 4 - _TILE // 2) // 12 * 12) for half in range(_TILES)]


@dataclass(frozen=True)
class Trial:
    """memory: bytes of the whole map, with mips where it has them. size: of the file packed with Zstandard, None where
    only a sample was encoded. error: as texel.measures.compare gives it."""

    format: Format
    memory: int
    error: dict[str, Any]
    size: int | None = None

    @property
    def bits_per_texel(self) -> float:
        return self.format.bits_per_texel

    def document(self) -> dict[str, Any]:
        return {
            "format": self.format.key, "label": self.format.label, "bits_per_texel": self.format.bits_per_texel,
            "memory": self.memory, "size": self.size, "error": self.error,
        }  # fmt: skip


def _error(subject: Subject, texture: BlockTexture) -> dict[str, Any]:
    decoded = texture.level(0, subject.texels.name)
    role = subject.texels.role
    return compare(subject.texels, decoded if role is None else decoded.as_role(role), subject.kind)


def try_format(subject: Subject, format_: Format, quality: str = "normal") -> Trial:
    """Encode, decode and measure. Raises Unwritable, MismatchedMaps."""
    texture = encode_texture(subject.texels, format_, quality, mips=False)
    taken = memory(format_, subject.width, subject.height, subject.mips)
    return Trial(format_, taken, _error(subject, texture))


def whole_trial(
    subject: Subject, format_: Format, quality: str, threads: int, chain: Chain | None = None
) -> tuple[Trial, Texels]:
    """A trial of the whole map, its file's size included, and the decoded first level. Raises TexelError."""
    if (subject.texels.width, subject.texels.height) != (subject.width, subject.height):
        raise TexelError("{texels}: only a whole map has a file size", texels=subject.texels.name)
    texture = encode_texture(subject.texels, format_, quality, subject.mips, threads, chain)
    packed = sum(len(zstandard.ZstdCompressor(level=_PACKING).compress(level)) for level in texture.levels)
    trial = Trial(format_, texture.bytes, _error(subject, texture), packed)
    return trial, texture.level(0, subject.texels.name)
