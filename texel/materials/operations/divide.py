"""The quotient of two values; 0 where the divisor is 0."""

from __future__ import annotations

from typing import TYPE_CHECKING

from texel.materials import opcodes
from texel.materials.operations.operation import Interval, Operation
from texel.materials.operations.parts import INFINITE, divided, each_component, parts, step, times

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _bounds(a: Interval, b: Interval) -> Interval:
    if b[0] <= 0 <= b[1]:
        return (0.0, 0.0) if b == (0, 0) else (-INFINITE, INFINITE)
    return times(a, (1 / b[1], 1 / b[0]))


@parts
def _nodes(g: Graph, a: Value, b: Value) -> Value:
    zero, one = g.constant(0), g.constant(1)
    return g.equal(b, zero, zero, g.add("divide", "float", in1=a, in2=g.equal(b, zero, one, b)))


OPERATION = Operation(
    "divide", "Divide", ("value", "by"), _bounds, symbol="/", help="x / 0 is 0", each=True, example="height / steps",
    apply=divided,
    planes=step(opcodes.DIVIDE),
    glsl="ft_divide({0}, {1})",
    helpers=each_component("ft_divide", "a b", "(b@ == 0.0 ? 0.0 : a@ / b@)"),
    nodes=_nodes,
)  # fmt: skip
