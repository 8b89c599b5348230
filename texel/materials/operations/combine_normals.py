"""A detail normal turned onto another, reoriented (Barré-Brisebois and Hill 2012), as texel.normals.combine."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Operation
from texel.materials.operations.parts import dot_nodes, dot_planes, normalised, unit, unit_planes

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value
    from texel.materials.planes import Planes


def _apply(base: Array, detail: Array) -> Array:
    t = normalised(base) + np.array([0, 0, 1], np.float32)
    u = normalised(detail) * np.array([-1, -1, 1], np.float32)
    along = (t * u).sum(axis=-1, keepdims=True, dtype=np.float32)
    return normalised(t * (along / np.maximum(t[..., 2:3], np.float32(1e-6))) - u)


def _planes(planes: Planes, given: Sequence[list[int]]) -> list[int]:
    do, constant = planes.do, planes.constant
    x, y, z = unit_planes(planes, given[0])
    t = [x, y, do(opcodes.ADD, z, constant(1))]
    signs = zip(unit_planes(planes, given[1]), (-1, -1, 1), strict=True)
    u = [do(opcodes.MULTIPLY, part, constant(sign)) for part, sign in signs]
    along = do(opcodes.DIVIDE, dot_planes(planes, t, u), do(opcodes.MAXIMUM, t[2], constant(1e-6)))
    turned = [do(opcodes.MULTIPLY, part, along) for part in t]
    return unit_planes(planes, [do(opcodes.SUBTRACT, *pair) for pair in zip(turned, u, strict=True)])


def _nodes(g: Graph, base: Value, detail: Value) -> Value:
    t = g.standard("add", g.own("normalise", 3, base), g.constant(0, 0, 1))
    u = g.standard("multiply", g.own("normalise", 3, detail), g.constant(-1, -1, 1))
    z = g.standard("maximum", g.part(t, 2), g.constant(1e-6))
    along = g.add("divide", "float", in1=dot_nodes(g, t, u), in2=z)
    return g.own("normalise", 3, g.standard("subtract", g.standard("multiply", t, along), u))


_GLSL = """\
vec3 ft_combine(vec3 base, vec3 detail) {
  vec3 t = ft_normalise(base) + vec3(0.0, 0.0, 1.0);
  vec3 u = ft_normalise(detail) * vec3(-1.0, -1.0, 1.0);
  return ft_normalise(t * (dot(t, u) / max(t.z, 1e-6)) - u);
}
"""

OPERATION = Operation(
    "combine_normals", "Combine normals", ("value", "detail"), unit, "Normals", shape="3", fits=(3, 3),
    meaning="normal", help="the detail turned onto the value", example="combine_normals(bumps, grain)",
    apply=_apply,
    planes=_planes,
    glsl="ft_combine({0}, {1})",
    helpers=lambda _: _GLSL,
    needs=(("normalise", 3),),
    nodes=_nodes,
)  # fmt: skip
