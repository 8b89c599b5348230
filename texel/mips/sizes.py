"""How many levels a mip chain has, and how large they are."""

from __future__ import annotations

__all__ = ["level_count", "level_sizes"]


def level_count(width: int, height: int) -> int:
    """Levels of a full chain: floor(log2(longest side)) + 1 (KTX 2.0, levelCount; Vulkan, image miplevel sizing).

    >>> level_count(1024, 512), level_count(1000, 1000), level_count(1, 1)
    (11, 10, 1)
    """
    return max(width, height).bit_length()


def level_sizes(width: int, height: int, mips: bool = True) -> list[tuple[int, int]]:
    """Sizes of every level, each side halved, rounded down, at least 1; of the first alone without ``mips``.

    >>> level_sizes(8, 3)
    [(8, 3), (4, 1), (2, 1), (1, 1)]
    """
    count = level_count(width, height) if mips else 1
    return [(max(1, width >> level), max(1, height >> level)) for level in range(count)]
