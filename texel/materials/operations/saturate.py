"""How strong a colour is: 0 is grey, 1 leaves it as it is."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from texel.colour import LUMINANCE
from texel.materials import opcodes
from texel.materials.operations.operation import Array, Operation
from texel.materials.operations.parts import dot_planes, luminance, mixed, mixed_bounds

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value
    from texel.materials.planes import Planes


def _apply(c: Array, amount: Array) -> Array:
    return mixed(luminance(c), c, amount)


def _planes(planes: Planes, given: Sequence[list[int]]) -> list[int]:
    grey = dot_planes(planes, given[0], [planes.constant(weight) for weight in LUMINANCE])
    return [planes.do(opcodes.MIX, grey, part, amount) for part, amount in zip(*given, strict=True)]


def _nodes(g: Graph, c: Value, amount: Value) -> Value:
    return g.standard("mix", g.wide(g.own("luminance", 1, c), 3), c, amount)


OPERATION = Operation(
    "saturate", "Saturation", ("value", "amount"), lambda c, s: mixed_bounds(c, c, s), "Colour", shape="3", fits=(3, 3),
    meaning="first", help="0 is grey, 1 leaves it as it is", example="saturate(colour, 0.8)",
    apply=_apply,
    planes=_planes,
    glsl="ft_mix(vec3(ft_luminance({0})), {0}, {1})",
    needs=(("mix", 3), ("luminance", 3)),
    nodes=_nodes,
)  # fmt: skip
