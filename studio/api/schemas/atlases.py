"""Schemas of atlases and of regions of sets."""

from __future__ import annotations

from ninja import Schema

from studio.api.documents import Region


class AtlasIn(Schema):
    """sets: ids, at least two. models: ids of those whose slots come to wear the atlas. padding: texels of room around
    each cell: 0, 2, 4, 8, 16, 32 or 64. side: width and height, null for the smallest that holds all. by_density: cells
    get the same texels a metre on these models; density: how many, null for the most that no set falls short of."""

    name: str = "atlas"
    sets: list[int]
    models: list[int] = []
    padding: int = 8
    side: list[int] | None = None
    by_density: bool = False
    density: float | None = None


class RegionsIn(Schema):
    """regions: all that the set shall have."""

    regions: list[Region]


class CutIn(Schema):
    """regions: names of those that become sets; none for all."""

    regions: list[str] = []
