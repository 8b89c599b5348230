"""A power; 0 for values of 0 or less, but 1 where the exponent is 0."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Interval, Operation
from texel.materials.operations.parts import INFINITE, each_component, hull, parts, step

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _apply(x: Array, e: Array) -> Array:
    base, exponent = np.broadcast_arrays(x, e)
    with np.errstate(over="ignore"):  # what is too large is infinite, as on graphics hardware
        made = np.power(np.maximum(base, np.float32(1e-30)), exponent)
    return np.where(base > 0, made, np.where(exponent == 0, np.float32(1), np.float32(0))).astype(np.float32)


def _bounds(x: Interval, e: Interval) -> Interval:
    base = (max(x[0], 0.0), max(x[1], 0.0))
    powers = [float(np.float64(b) ** f) if b > 0 or f > 0 else INFINITE for b in base for f in e]
    return hull(*powers, *([0.0] if x[0] <= 0 else []), *([1.0] if e[0] <= 0 <= e[1] else []))


@parts
def _nodes(g: Graph, x: Value, e: Value) -> Value:
    made = g.add("power", "float", in1=g.standard("maximum", x, g.constant(1e-30)), in2=e)
    return g.greater(x, g.constant(0), made, g.equal(e, g.constant(0), g.constant(1), g.constant(0)))


OPERATION = Operation(
    "power", "Power", ("value", "exponent"), _bounds, help="0 for values of 0 or less", each=True,
    example="power(pack.g, 1.4)",
    apply=_apply,
    planes=step(opcodes.POWER),
    glsl="ft_power({0}, {1})",
    helpers=each_component("ft_power", "x e", "(x@ > 0.0 ? pow(x@, e@) : e@ == 0.0 ? 1.0 : 0.0)"),
    nodes=_nodes,
)  # fmt: skip
