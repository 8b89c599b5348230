"""A colour times another, by an amount."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Operation
from texel.materials.operations.parts import mixed, mixed_bounds, times

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value
    from texel.materials.planes import Planes


def _apply(c: Array, colour: Array, amount: Array) -> Array:
    return mixed(c, c * colour, amount)


def _planes(planes: Planes, given: Sequence[list[int]]) -> list[int]:
    colour, tint, amount = given
    made = [planes.do(opcodes.MULTIPLY, *pair) for pair in zip(colour, tint, strict=True)]
    return [planes.do(opcodes.MIX, *three) for three in zip(colour, made, amount, strict=True)]


def _nodes(g: Graph, c: Value, colour: Value, amount: Value) -> Value:
    return g.standard("mix", c, g.standard("multiply", c, colour), amount)


OPERATION = Operation(
    "tint", "Tint", ("value", "colour", "amount"), lambda c, k, a: mixed_bounds(c, times(c, k), a), "Colour",
    fits=(3, 3, 3), meaning="first", help="times a colour, by an amount", example="tint(colour, shade, dirt)",
    apply=_apply,
    planes=_planes,
    glsl="ft_mix({0}, {0} * {1}, {2})",
    needs=(("mix", 3),),
    nodes=_nodes,
)  # fmt: skip
