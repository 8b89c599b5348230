"""Regions of a set: named rectangles of its maps, the cells of an atlas or the strips of a trim sheet."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from texel.document_types import RegionDocument
from texel.errors import BadDocument
from texel.schemas import check_document

__all__ = [
    "MAX_REGIONS",
    "Region",
    "crop_of",
    "grid_regions",
    "parse_regions",
    "region_of",
    "regions_document",
    "regions_of",
]

MAX_REGIONS = 512
# Shares beyond the border that are rounding.
_ROUNDING = 1e-6


@dataclass(frozen=True)
class Region:
    """left, top, width, height: shares of the maps' sides, 0 to 1, from the upper left. metres: width and height of the
    surface that it shows, None while nobody said so."""

    name: str
    left: float
    top: float
    width: float
    height: float
    metres: tuple[float, float] | None = None

    @property
    def is_strip(self) -> bool:
        """Whether it goes over the whole width, so that it repeats sideways."""
        return self.width >= 1 and self.height < 1

    def document(self) -> RegionDocument:
        told: RegionDocument = {
            "name": self.name, "left": self.left, "top": self.top, "width": self.width, "height": self.height,
        }  # fmt: skip
        if self.metres is not None:
            told["metres"] = list(self.metres)
        return told


def regions_of(documents: Iterable[Mapping[str, Any]], where: str = "the regions") -> tuple[Region, ...]:
    """Regions from their documents. Raises BadDocument for one that reaches beyond the map, or for two of one name.

    >>> regions_of([{"name": "plank", "left": 0, "top": 0.25, "width": 1, "height": 0.125}])[0].is_strip
    True
    """
    given = list(documents)
    check_document(regions_document(given), "regions", where)
    made = []
    for one in given:
        name = " ".join(str(one["name"]).split())
        left, top, width, height = (float(one[key]) for key in ("left", "top", "width", "height"))
        if not name or left + width > 1 + _ROUNDING or top + height > 1 + _ROUNDING:
            raise BadDocument("{where}: {name} reaches beyond the map, or has no name", where=where, name=name or "one")
        metres = one.get("metres")
        made.append(Region(name, left, top, width, height, (metres[0], metres[1]) if metres else None))
    names = [one.name.lower() for one in made]
    twice = next((one for one in made if names.count(one.name.lower()) > 1), None)
    if twice is not None:
        raise BadDocument("{where}: two regions are called {name}", where=where, name=twice.name)
    return tuple(made)


def regions_document(documents: Iterable[Mapping[str, Any]]) -> dict[str, Any]:
    """The document that parse_regions reads. documents: of regions."""
    return {"format": "fair-texel/regions", "version": 1, "regions": [dict(one) for one in documents]}


def parse_regions(document: Any, where: str = "the regions") -> tuple[Region, ...]:
    """Regions from their JSON document. Raises BadDocument."""
    check_document(document, "regions", where)
    return regions_of(document["regions"], where)


def grid_regions(columns: int, rows: int, name: str = "cell") -> tuple[Region, ...]:
    """Regions of equal size, row by row. Raises BadDocument for none, or more than a set may have.

    >>> [one.name for one in grid_regions(2, 1, "leaf")], grid_regions(2, 1)[1].left
    (['leaf 1', 'leaf 2'], 0.5)
    """
    if columns < 1 or rows < 1 or columns * rows > MAX_REGIONS:
        raise BadDocument("a grid has 1 to {most} cells", most=MAX_REGIONS)
    return tuple(
        Region(f"{name} {row * columns + column + 1}", column / columns, row / rows, 1 / columns, 1 / rows)
        for row in range(rows) for column in range(columns)
    )  # fmt: skip


def crop_of(region: Region) -> dict[str, Any]:
    """The step that cuts a region out of a map.

    >>> step = crop_of(Region("plank", 0, 0.5, 1, 0.25))
    >>> step["upper_left_y"], step["lower_right_x"], step["lower_right_y"]
    (0.5, 1.0, 0.75)
    """
    right, bottom = min(1.0, region.left + region.width), min(1.0, region.top + region.height)
    return {
        "step": "straighten",
        "upper_left_x": region.left, "upper_left_y": region.top, "upper_right_x": right, "upper_right_y": region.top,
        "lower_right_x": right, "lower_right_y": bottom, "lower_left_x": region.left, "lower_left_y": bottom,
    }  # fmt: skip


def region_of(document: Mapping[str, Any]) -> Region:
    """One region from its document. Raises BadDocument as ``regions_of`` does."""
    return regions_of([document])[0]
