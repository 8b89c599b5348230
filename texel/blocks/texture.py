"""A texture as graphics hardware takes it: encoded levels, and what they are."""

from __future__ import annotations

from dataclasses import dataclass

from texel.blocks.decoding import decode_level
from texel.blocks.formats import Format
from texel.image import Texels
from texel.mips.sizes import level_sizes
from texel.roles import Transfer

__all__ = ["BlockTexture"]


@dataclass(frozen=True)
class BlockTexture:
    """levels: encoded bytes, largest first. transfer: None where a container says nothing of it."""

    format: Format
    width: int
    height: int
    levels: tuple[bytes, ...]
    transfer: Transfer | None

    @property
    def sizes(self) -> list[tuple[int, int]]:
        return level_sizes(self.width, self.height)[: len(self.levels)]

    @property
    def bytes(self) -> int:
        """Graphics memory that it takes."""
        return sum(len(level) for level in self.levels)

    def level(self, number: int, name: str = "texture") -> Texels:
        """One level decoded. Raises UnreadableImage when its length is not what its size asks for."""
        width, height = self.sizes[number]
        pixels = decode_level(self.levels[number], self.format, width, height, name)
        transfer = Transfer.LINEAR if self.format.bits == 32 else self.transfer or Transfer.SRGB
        return Texels(pixels, self.format.channels, transfer, name=name)
