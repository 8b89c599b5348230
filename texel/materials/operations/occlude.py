"""A colour darkened where occlusion is below 1."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Interval, Operation
from texel.materials.operations.parts import mixed, mixed_bounds, times

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value
    from texel.materials.planes import Planes


def _apply(c: Array, occlusion: Array, strength: Array) -> Array:
    return c * mixed(np.ones(1, np.float32), occlusion, strength)


def _bounds(c: Interval, occlusion: Interval, strength: Interval) -> Interval:
    return times(c, mixed_bounds((1.0, 1.0), occlusion, strength))


def _planes(planes: Planes, given: Sequence[list[int]]) -> list[int]:
    colour, (shade,), (strength,) = given
    by = planes.do(opcodes.MIX, planes.constant(1), shade, strength)
    return [planes.do(opcodes.MULTIPLY, part, by) for part in colour]


def _nodes(g: Graph, c: Value, occlusion: Value, strength: Value) -> Value:
    return g.standard("multiply", c, g.standard("mix", g.constant(1), occlusion, strength))


OPERATION = Operation(
    "occlude", "Occlusion into colour", ("value", "occlusion", "strength"), _bounds, "Colour", shape="first",
    fits=(0, 1, 1), meaning="first", help="darkens where occlusion is below 1",
    example="occlude(colour, pack.r, 0.5)",
    apply=_apply,
    planes=_planes,
    glsl="({0} * ft_mix(1.0, {1}, {2}))",
    needs=(("mix", 1),),
    nodes=_nodes,
)  # fmt: skip
