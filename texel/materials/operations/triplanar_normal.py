"""A normal map laid onto a surface from three sides; the vectors are turned into the world by the side that they lie
on (as "UDN" and "whiteout" blends do, common practice), and from there onto the surface."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows
from texel.materials.operations.operation import MAP
from texel.materials.operations.parts import unit

_ROWS = (
    ("facing", "power(absolute(world_normal), sharpness)"),
    ("share", "facing / dot(facing, 1)"),
    ("side", "read(vector(value.b, -value.g), map).rgb"),
    ("top", "read(vector(value.r, value.b), map).rgb"),
    ("front", "read(vector(value.r, -value.g), map).rgb"),
    ("from_side", "vector(world_normal.r * side.b, world_normal.g + side.g, world_normal.b + side.r)"),
    ("from_top", "vector(world_normal.r + top.r, world_normal.g * top.b, world_normal.b - top.g)"),
    ("from_front", "vector(world_normal.r + front.r, world_normal.g + front.g, world_normal.b * front.b)"),
)

OPERATION = from_rows(
    "triplanar_normal", "Triplanar normal", ("value", "map", "sharpness"),
    "to_surface(from_side * share.r + from_top * share.g + from_front * share.b)", "Maps", rows=_ROWS,
    fits=(3, MAP, 1), shape="3", meaning="normal", bounds=unit, reads=3,
    help="a normal map laid on from three sides", first=("", "4"),
    example="triplanar_normal(world_position / 2, rock_bumps, 4)",
)  # fmt: skip
