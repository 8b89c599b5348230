"""What is refused before it is decoded."""

from __future__ import annotations

from dataclasses import dataclass

from texel.errors import TooLarge, UnreadableImage

__all__ = ["DEFAULT_LIMITS", "Limits"]


@dataclass(frozen=True)
class Limits:
    """max_side: texels a side; max_decoded: bytes that the decoded picture may take. Floats count half, 16 bits a
    channel as many files hold them: large ones are decoded into a temporary file, not into memory."""

    max_side: int = 16384
    max_decoded: int = 512 * 1024 * 1024

    def check(self, name: str, width: int, height: int, channels: int, bits: int) -> None:
        """Raise TooLarge, or UnreadableImage for an empty picture; sizes in texels, bits a channel."""
        if width < 1 or height < 1:
            raise UnreadableImage(
                name, "the header says {width} x {height} texels; there is nothing to read", width=width, height=height
            )
        if max(width, height) > self.max_side:
            raise TooLarge(
                name,
                "{width} x {height} texels; at most {max_side} a side are read",
                width=width,
                height=height,
                max_side=self.max_side,
            )
        decoded = width * height * channels * min(bits, 16) // 8
        if decoded > self.max_decoded:
            mib = 1024 * 1024
            raise TooLarge(
                name,
                "decoded it would take {decoded} MiB; at most {max_decoded} MiB are read",
                decoded=decoded // mib,
                max_decoded=self.max_decoded // mib,
            )


DEFAULT_LIMITS = Limits()
