"""Two to four numbers as one value."""

from __future__ import annotations

from typing import TYPE_CHECKING

from texel.materials.operations.operation import Operation
from texel.materials.operations.parts import any_of, joined

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _nodes(g: Graph, *values: Value) -> Value:
    return g.joined(*(g.part(one, at) for one in values for at in range(one.size)))


OPERATION = Operation(
    "vector", "Vector", ("value", "and"), any_of, "Values", shape="count", fits="own", meaning="data", most=9,
    help="two to four numbers as one value", example="vector(uv.x, 1 - uv.y)",
    apply=joined,
    planes=lambda planes, given: [plane for one in given for plane in one],
    glsl="vec{n}({all})",
    nodes=_nodes,
)  # fmt: skip
