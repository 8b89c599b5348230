"""A vector at length 1; one of length 0 becomes (0, 0, 1)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from texel.materials.operations.operation import Operation
from texel.materials.operations.parts import normalised, unit, unit_planes

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _nodes(g: Graph, v: Value) -> Value:
    length = g.add("magnitude", "float", **{"in": v})
    by = g.standard("maximum", length, g.constant(1e-6))
    made = g.add("divide", "vector3", in1=v, in2=g.wide(by, 3))
    return g.greater(length, g.constant(1e-6), made, g.constant(0, 0, 1))


_GLSL = "vec3 ft_normalise(vec3 v) { float l = length(v); return l > 1e-6 ? v / l : vec3(0.0, 0.0, 1.0); }\n"

OPERATION = Operation(
    "normalise", "Normalise", ("value",), unit, "Normals", shape="3", fits=(3,), meaning="normal",
    help="at length 1", example="normalise(mix(bumps, grain, 0.5))",
    apply=normalised,
    planes=lambda planes, given: unit_planes(planes, given[0]),
    glsl="ft_normalise({0})",
    helpers=lambda _: _GLSL,
    nodes=_nodes,
)  # fmt: skip
