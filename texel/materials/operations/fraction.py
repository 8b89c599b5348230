"""The value less the next lower whole number."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Operation
from texel.materials.operations.parts import step

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _nodes(g: Graph, x: Value) -> Value:
    return g.standard("subtract", x, g.standard("floor", x))


OPERATION = Operation(
    "fraction", "Fraction", ("value",), lambda a: (0.0, 1.0), each=True, example="fraction(time * 0.5)",
    help="what is left of the next lower whole number",
    apply=lambda a: a - np.floor(a),
    planes=step(opcodes.FRACTION),
    glsl="fract({0})",
    nodes=_nodes,
)  # fmt: skip
