"""A vector of the surface's frame, as normal maps hold it, in the world's."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows
from texel.materials.operations.parts import unit

OPERATION = from_rows(
    "to_world", "Normal to world", ("value",),
    "normalise(value.r * world_tangent + value.g * world_bitangent + value.b * world_normal)", "Normals", fits=(3,),
    shape="3", meaning="data", bounds=unit, help="a normal of the surface as a direction in the world, y up",
    example="to_world(bumps).g",
)  # fmt: skip
