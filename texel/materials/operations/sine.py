"""The sine of whole turns."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Operation
from texel.materials.operations.parts import step, unit

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _apply(x: Array) -> Array:
    made: Array = np.sin(x * np.float32(2 * np.pi)).astype(np.float32)
    return made


def _nodes(g: Graph, x: Value) -> Value:
    return g.add("sin", x.kind, **{"in": g.standard("multiply", x, g.constant(2 * math.pi))})


OPERATION = Operation(
    "sine", "Sine", ("value",), unit, each=True, help="of whole turns", example="sine(time) * 0.5 + 0.5",
    apply=_apply,
    planes=step(opcodes.SINE),
    glsl="sin({0} * 6.2831853)",
    nodes=_nodes,
)  # fmt: skip
