"""A direction in the world as a normal of the surface."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows
from texel.materials.operations.parts import unit

OPERATION = from_rows(
    "to_surface", "World to normal", ("value",),
    "normalise(vector(dot(value, world_tangent), dot(value, world_bitangent), dot(value, world_normal)))", "Normals",
    fits=(3,), shape="3", meaning="normal", bounds=unit, help="a direction in the world as a normal of the surface",
    example="to_surface(lean)",
)  # fmt: skip
