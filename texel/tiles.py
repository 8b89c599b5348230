"""Surfaces in several tiles: sets that lie beside each other in a mesh's coordinates, each with its number.

A tile's number is 1001 + u + 10 v, where u and v are the whole parts of the coordinates, v upwards (MaterialX
Specification 1.39, "Filename Substitutions", <UDIM>; OpenUSD, UsdPreviewSurface proposal 2.6, UsdUVTexture, which goes
to 1100). Files of one surface are named alike but for the number, and ``<UDIM>`` stands for it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

__all__ = ["ANY", "Tiled", "files_of", "named_tile", "tiled", "tiled_by_name"]

# What stands for the number in names of files.
ANY = "<UDIM>"
_FIRST, _LAST = 1001, 1100
_NUMBERED = re.compile(r"^(?P<base>.*[^\s._-])[\s._-](?P<number>1\d{3})$")


@dataclass(frozen=True)
class Tiled:
    """A surface in tiles. tiles: names of sets by number, the lowest first; at least two."""

    name: str
    tiles: Mapping[int, str]


def named_tile(name: str) -> tuple[str, int] | None:
    """A set's name without its tile's number, and the number; None for a name without one.

    >>> named_tile("wall.1002"), named_tile("wall_1920"), named_tile("1001")
    (('wall', 1002), None, None)
    """
    found = _NUMBERED.match(name)
    if found is None or not _FIRST <= int(found["number"]) <= _LAST:
        return None
    return found["base"], int(found["number"])


def tiled(names: Iterable[str]) -> list[Tiled]:
    """The surfaces in tiles among sets. One tile alone is none, and neither are numbers without the first, 1001.

    >>> tiled(["wall.1001", "wall.1011", "deck.1001", "rope"])
    [Tiled(name='wall', tiles={1001: 'wall.1001', 1011: 'wall.1011'})]
    """
    found: dict[str, dict[int, str]] = {}
    for name in names:
        tile = named_tile(name)
        if tile is not None:
            found.setdefault(tile[0], {}).setdefault(tile[1], name)
    return [
        Tiled(base, dict(sorted(tiles.items())))
        for base, tiles in sorted(found.items())
        if len(tiles) > 1 and _FIRST in tiles
    ]


def tiled_by_name(names: Iterable[str]) -> dict[str, Tiled]:
    """The surface in tiles that each set is a part of, by the set's name; sets that are none are left out."""
    return {name: one for one in tiled(names) for name in one.tiles.values()}


def files_of(path: Path) -> dict[int, Path]:
    """The files that a name with ``<UDIM>`` stands for, by number, the lowest first; none without it."""
    if ANY not in path.name:
        return {}
    before, _, after = path.name.partition(ANY)
    numbers = range(_FIRST, _LAST + 1)
    there = {number: path.with_name(f"{before}{number}{after}") for number in numbers}
    return {number: one for number, one in there.items() if one.is_file()}
