"""A map laid onto a surface from three sides, by where it is and where it looks: no coordinates are needed."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows
from texel.materials.operations.operation import MAP

_ROWS = (
    ("facing", "power(absolute(world_normal), sharpness)"),
    ("share", "facing / dot(facing, 1)"),
    ("side", "read(vector(value.b, -value.g), map)"),
    ("top", "read(vector(value.r, value.b), map)"),
    ("front", "read(vector(value.r, -value.g), map)"),
)

OPERATION = from_rows(
    "triplanar", "Triplanar", ("value", "map", "sharpness"), "side * share.r + top * share.g + front * share.b", "Maps",
    rows=_ROWS, fits=(3, MAP, 1), shape="map", meaning="map", bounds=lambda at, values, sharpness: values, reads=3,
    help="a map laid on from three sides, at a place in the world; one picture a unit",
    first=("", "4"), example="triplanar(world_position / 2, rock, 4)",
)  # fmt: skip
