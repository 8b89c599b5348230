"""1 where a value is above a limit, else 0."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Interval, Operation
from texel.materials.operations.parts import each_component, parts, step

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _apply(a: Array, b: Array) -> Array:
    return np.asarray(a > b, np.float32)


def _bounds(a: Interval, b: Interval) -> Interval:
    return float(a[0] > b[1]), float(a[1] > b[0])


@parts
def _nodes(g: Graph, a: Value, b: Value) -> Value:
    return g.greater(a, b, g.constant(1), g.constant(0))


OPERATION = Operation(
    "greater", "Greater", ("value", "limit"), _bounds, "Comparison", each=True, meaning="data",
    help="1 where the value is above the limit, else 0", first=("0.5",), example="greater(pack.r, threshold)",
    apply=_apply,
    planes=step(opcodes.GREATER),
    glsl="ft_greater({0}, {1})",
    helpers=each_component("ft_greater", "a b", "(a@ > b@ ? 1.0 : 0.0)"),
    nodes=_nodes,
)  # fmt: skip
