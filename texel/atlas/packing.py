"""Where each set lies on an atlas: rectangles packed with room around them, so that smaller mips stay clean.

Every cell with its room begins and ends at a multiple of the room's width. Down to the mip in which that width is one
texel, no texel mixes two cells, and reading between two texels at a cell's border finds the cell's own colour.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import rectpack

from texel.atlas.regions import MAX_REGIONS, Region
from texel.errors import BadDocument

__all__ = ["LARGEST", "PADDINGS", "AtlasPlan", "Cell", "clean_levels", "plan_atlas", "sides_of_density"]

# A side that still fits into memory with 16 bits a channel, as pixels and as a file.
LARGEST = 8192
# Maps of sets may be larger: they are made smaller.
_LARGEST_MAP = 65536
PADDINGS = (0, 2, 4, 8, 16, 32, 64)
# Cells begin at multiples of a block of block formats, at least.
_BLOCK = 4
# Halvings of the range in which the scale is looked for.
_STEPS = 14
Size = tuple[int, int]


@dataclass(frozen=True)
class Cell:
    """set: its name. x, y, width, height: texels of the atlas, room not counted."""

    set: str
    x: int
    y: int
    width: int
    height: int


@dataclass(frozen=True)
class AtlasPlan:
    """width, height: texels. padding: texels of room around each cell."""

    width: int
    height: int
    padding: int
    cells: tuple[Cell, ...]

    @property
    def used(self) -> float:
        """Share of the atlas that cells cover, room not counted."""
        return sum(one.width * one.height for one in self.cells) / (self.width * self.height)

    @property
    def block(self) -> int:
        return max(_BLOCK, self.padding)

    def regions(self) -> tuple[Region, ...]:
        """The cells as regions of the atlas, called after their sets."""
        return tuple(
            Region(one.set, one.x / self.width, one.y / self.height, one.width / self.width, one.height / self.height)
            for one in self.cells
        )


def clean_levels(padding: int) -> int:
    """Mips below the largest in which no cell reads its neighbour.

    >>> clean_levels(8), clean_levels(0)
    (3, 0)
    """
    return padding.bit_length() - 1 if padding > 1 else 0


def sides_of_density(
    own: Mapping[str, Size], unit: Mapping[str, float], density: float | None = None
) -> dict[str, Size]:  # fmt: skip
    """Texels of each cell so that all surfaces get the same texel density, none more texels than its own maps have.

    own: texels of each set's maps. unit: texels a metre on a map of one texel, by set (``SlotFacts.density``); sets
    that are not there keep their size. density: texels a metre; None for the most that no set's maps fall short of.
    Raises BadDocument for a density that is none.

    >>> sides_of_density({"hull": (1024, 1024), "bolt": (1024, 1024)}, {"hull": 1.0, "bolt": 4.0})
    {'hull': (1024, 1024), 'bolt': (256, 256)}
    """
    if density is not None and density <= 0:
        raise BadDocument("a texel density lies above 0")
    known = {name: one for name, one in unit.items() if name in own and one > 0}
    if not known:
        return dict(own)
    wanted = density or min(max(own[name]) * one for name, one in known.items())
    sides = dict(own)
    for name, one in known.items():
        factor = min(1.0, wanted / one / max(own[name]))
        width, height = own[name]
        sides[name] = max(1, round(width * factor)), max(1, round(height * factor))
    return sides


def plan_atlas(
    sizes: Mapping[str, Size], padding: int = 8, side: Size | None = None, largest: int = 8192
) -> AtlasPlan:  # fmt: skip
    """Place sets on an atlas whose sides are powers of two.

    sizes: texels of each set's cell. padding: texels of room around each, 0 or a power of two up to 64. side: of the
    atlas; cells are made smaller by one factor until all fit. None for the smallest up to ``largest`` that holds them
    as they are. Raises BadDocument where they do not fit, or for sizes out of range.
    """
    if not 2 <= len(sizes) <= MAX_REGIONS:
        raise BadDocument("an atlas holds 2 to {most} sets", most=MAX_REGIONS)
    if padding not in PADDINGS:
        raise BadDocument("the room around cells is one of {known} texels", known=", ".join(map(str, PADDINGS)))
    if any(not 1 <= one <= _LARGEST_MAP for size in sizes.values() for one in size):
        raise BadDocument("cells have 1 to {largest} texels a side", largest=_LARGEST_MAP)
    if side is None:
        return _smallest(sizes, padding, largest)
    if any(not _BLOCK <= one <= LARGEST or one & (one - 1) for one in side):
        raise BadDocument("the sides of an atlas are powers of two from {least} to {most}", least=_BLOCK, most=LARGEST)
    whole = _packed(sizes, padding, side, 1.0)
    if whole is not None:
        return whole
    low, high, best = 0.0, 1.0, None
    for _ in range(_STEPS):
        middle = (low + high) / 2
        made = _packed(sizes, padding, side, middle)
        low, high, best = (middle, high, made) if made is not None else (low, middle, best)
    if best is None:
        width, height = side
        raise BadDocument(
            "{count} sets do not fit on {width} x {height} texels with {padding} around each",
            count=len(sizes), width=width, height=height, padding=padding,
        )  # fmt: skip
    return best


def _smallest(sizes: Mapping[str, Size], padding: int, largest: int) -> AtlasPlan:
    area = sum((width + 2 * padding) * (height + 2 * padding) for width, height in sizes.values())
    sides = [2**power for power in range(2, LARGEST.bit_length()) if 2**power <= min(largest, LARGEST)]
    # Square, or twice as wide as high: what memory and block formats like.
    wanted = sorted({(a, b) for a in sides for b in sides if a in (b, 2 * b)}, key=lambda one: (one[0] * one[1], one))
    for side in wanted:
        if side[0] * side[1] >= area:
            made = _packed(sizes, padding, side, 1.0)
            if made is not None:
                return made
    raise BadDocument(
        "{count} sets need more than {largest} x {largest} texels as they are; give a size, and they are made smaller",
        count=len(sizes), largest=largest,
    )  # fmt: skip


def _packed(sizes: Mapping[str, Size], padding: int, side: Size, scale: float) -> AtlasPlan | None:
    """Cells at a scale, or None where they do not fit."""
    block = max(_BLOCK, padding)
    cells = {name: (_scaled(width, scale), _scaled(height, scale)) for name, (width, height) in sizes.items()}
    outer = {
        name: (math.ceil((width + 2 * padding) / block), math.ceil((height + 2 * padding) / block))
        for name, (width, height) in cells.items()
    }
    room = side[0] // block, side[1] // block
    if sum(width * height for width, height in outer.values()) > room[0] * room[1]:
        return None
    packer = rectpack.newPacker(rotation=False, sort_algo=rectpack.SORT_LSIDE)
    packer.add_bin(*room)
    for name in sorted(outer, key=lambda one: (outer[one], one)):
        packer.add_rect(*outer[name], rid=name)
    packer.pack()
    placed = packer.rect_list()
    if len(placed) < len(outer):
        return None
    at = {name: (x * block + padding, y * block + padding) for _, x, y, _, _, name in placed}
    return AtlasPlan(*side, padding, tuple(Cell(name, *at[name], *cells[name]) for name in sizes))


def _scaled(side: int, scale: float) -> int:
    """A side made smaller, a whole number of blocks where it is more than one."""
    if scale >= 1:
        return side
    texels = max(1.0, side * scale)
    return int(texels // _BLOCK * _BLOCK) if texels >= _BLOCK else int(texels)
