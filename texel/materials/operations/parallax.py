"""Coordinates moved along the view by a height map, as if the surface lay below itself: sixteen steps down, and
between the last two by a straight line (relief mapping in its simplest form, common practice)."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows
from texel.materials.operations.operation import MAP

_STEPS = 16
_ROWS = [
    ("seen", "vector(dot(view_direction, world_tangent), dot(view_direction, world_bitangent), "
             "dot(view_direction, world_normal))"),
    ("along", "vector(-seen.r, seen.g) * depth / maximum(seen.b, 0.1)"),
    ("gap0", "1 - read(value, map).r"),
]  # fmt: skip
for _at in range(1, _STEPS + 1):
    # How far the line of sight is still above the ground; below it where it is not above 0.
    _ROWS.append((f"gap{_at}", f"1 - read(value + along * {_at / _STEPS}, map).r - {_at / _STEPS}"))
_found = "1"
for _at in range(_STEPS, 0, -1):
    _ROWS.append((f"to{_at}", f"({_at - 1} + levels(0, -gap{_at - 1}, -gap{_at})) / {_STEPS}"))
    _ROWS.append((f"hit{_at}", f"choose({_found}, greater(gap{_at}, 0), to{_at})"))
    _found = f"hit{_at}"

OPERATION = from_rows(
    "parallax", "Parallax", ("value", "map", "depth"), "value + along * hit1", "Coordinates", rows=tuple(_ROWS),
    fits=(2, MAP, 1), shape="2", meaning="data", bounds=lambda *_: (-float("inf"), float("inf")), reads=_STEPS + 1,
    help="coordinates as seen through a surface that lies this deep, by a height map",
    first=("", "0.02"), example="read(parallax(uv, relief, 0.05), colour)",
)  # fmt: skip
