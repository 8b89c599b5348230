"""A normal's slopes times a strength."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Operation
from texel.materials.operations.parts import normalised, unit, unit_planes

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value
    from texel.materials.planes import Planes


def _apply(n: Array, strength: Array) -> Array:
    s = np.asarray(strength, np.float32)
    return normalised(n * np.concatenate([s, s, np.ones_like(s)], axis=-1))


def _planes(planes: Planes, given: Sequence[list[int]]) -> list[int]:
    (x, y, z), (strength,) = given
    return unit_planes(planes, [*(planes.do(opcodes.MULTIPLY, part, strength) for part in (x, y)), z])


def _nodes(g: Graph, n: Value, strength: Value) -> Value:
    x, y = (g.standard("multiply", g.part(n, at), strength) for at in (0, 1))
    return g.own("normalise", 3, g.joined(x, y, g.part(n, 2)))


OPERATION = Operation(
    "strengthen", "Normal strength", ("value", "strength"), unit, "Normals", shape="3", fits=(3, 1), meaning="normal",
    help="slopes times the strength", example="strengthen(bumps, 0.5)",
    apply=_apply,
    planes=_planes,
    glsl="ft_strengthen({0}, {1})",
    helpers=lambda _: "vec3 ft_strengthen(vec3 n, float s) { return ft_normalise(vec3(n.xy * s, n.z)); }\n",
    needs=(("normalise", 3),),
    nodes=_nodes,
)  # fmt: skip
