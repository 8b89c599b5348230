"""Slots that wear a region of a set: their first UVs are moved onto that cell or strip when the model is written."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from texel.atlas.regions import Region
from texel.meshes.facts import uv_unit
from texel.meshes.mesh import MeshFile

__all__ = ["UvPlace", "moved", "place_of", "places_of"]


class UvPlace(NamedTuple):
    """Where UVs come to lie: each times its scale, plus its offset."""

    scale_u: float
    scale_v: float
    offset_u: float
    offset_v: float

    def of(self, uvs: NDArray[np.float32]) -> NDArray[np.float32]:
        """UVs moved. uvs: shape (n, 2).

        >>> UvPlace(0.5, 0.25, 0.5, 0).of(np.array([[1, 1]], np.float32)).tolist()
        [[1.0, 0.25]]
        """
        scales, offsets = np.array([self.scale_u, self.scale_v]), np.array([self.offset_u, self.offset_v])
        return np.ascontiguousarray(uvs * scales + offsets, np.float32)


def place_of(region: Region, unit: tuple[float, float] | None) -> UvPlace:
    """Where the UVs of a slot lie that wears a region. unit: metres that one step of U and V goes over on the slot.

    A cell takes 0 to 1 in both directions. A strip takes 0 to 1 of V, and repeats along U: by its size in metres where
    that is known, so that nothing is stretched; else as if the map were square.

    >>> place_of(Region("plank", 0, 0.5, 1, 0.25, (2.0, 0.5)), (1.0, 0.5))
    UvPlace(scale_u=0.5, scale_v=0.25, offset_u=0.0, offset_v=0.5)
    """
    if not region.is_strip:
        return UvPlace(region.width, region.height, region.left, region.top)
    along = region.height
    if region.metres is not None and unit is not None:
        along = unit[0] / region.metres[0]
    return UvPlace(along, region.height, 0.0, region.top)


def places_of(mesh: MeshFile, regions: Mapping[int, Region], metres: float = 1.0) -> dict[int, UvPlace]:
    """Where the UVs of slots lie. mesh: slots split. regions: what they wear, by slot. metres: of one unit."""
    finest = mesh.levels()[0]
    return {at: place_of(region, uv_unit(mesh.of_slot(at, finest), metres)) for at, region in regions.items()}


def moved(mesh: MeshFile, places: Mapping[int, UvPlace]) -> MeshFile:
    """The mesh with the first UVs of these slots moved; other UV sets stay."""
    pieces = tuple(
        replace(one, uvs=(places[one.slot].of(one.uvs[0]), *one.uvs[1:])) if one.slot in places and one.uvs else one
        for one in mesh.pieces
    )
    return replace(mesh, pieces=pieces)
