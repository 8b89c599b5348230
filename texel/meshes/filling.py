"""The step that fills a map between the UV islands of the slots that wear it."""

from __future__ import annotations

from collections.abc import Collection
from typing import cast

import numpy as np

from texel.document_types import StepDocument
from texel.errors import BadDocument
from texel.meshes.facts import MeshFacts
from texel.meshes.islands import coverage, layout_of
from texel.meshes.mesh import MeshFile
from texel.recipes.surfaces import FillBetweenIslands
from texel.repair.covered import covered_text

__all__ = ["filling_step"]

# Of the raster that a recipe keeps: larger maps are filled by the nearest texel of it.
_SIDE = 1024


def filling_step(mesh: MeshFile, facts: MeshFacts, slots: Collection[int]) -> StepDocument:
    """A step that fills what none of these slots covers; all levels of detail count. Raises BadDocument where a slot
    has no UVs, or its texture repeats, so that no texel is unused."""
    used = np.zeros((_SIDE, _SIDE), bool)
    for at in sorted(slots):
        slot = facts.slots[at]
        if slot.uv_area is None:
            raise BadDocument("{what} has no UVs", what=slot.name or f"slot {at + 1}")
        if slot.is_tiled:
            raise BadDocument(
                "the texture of {what} repeats: every texel of it is used", what=slot.name or f"slot {at + 1}"
            )
        layout = layout_of(mesh.of_slot(at, None))
        if layout is not None:
            used |= coverage(layout, _SIDE, _SIDE)[0] > 0
    if not used.any():
        raise BadDocument("its UVs cover no texel")
    return cast(StepDocument, {"step": FillBetweenIslands.step, "islands": covered_text(used)})
