"""Linear red, green and blue as one colour."""

from __future__ import annotations

from texel.materials.operations.operation import Operation
from texel.materials.operations.parts import any_of, joined

OPERATION = Operation(
    "rgb", "Colour of three", ("value", "green", "blue"), any_of, "Values", shape="3", fits=(1, 1, 1), meaning="colour",
    help="linear red, green and blue", example="rgb(0.5, 0.2, 0.1)",
    apply=joined,
    planes=lambda planes, given: [plane for one in given for plane in one],
    glsl="vec3({0}, {1}, {2})",
    nodes=lambda g, *values: g.joined(*values),
)  # fmt: skip
