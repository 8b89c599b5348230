"""The levels t as t t (3 - 2 t)."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Operation
from texel.materials.operations.parts import componentwise, levels, step

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _apply(x: Array, low: Array, high: Array) -> Array:
    t = levels(x, low, high)
    return np.asarray(t * t * (3 - 2 * t))


def _nodes(g: Graph, x: Value, low: Value, high: Value) -> Value:
    t = g.own("levels", x.size, x, low, high)
    inner = g.standard("subtract", g.constant(3), g.standard("multiply", t, g.constant(2)))
    return g.standard("multiply", g.standard("multiply", t, t), inner)


OPERATION = Operation(
    "smoothstep", "Smooth step", ("value", "low", "high"), lambda *_: (0.0, 1.0), each=True,
    help="0 below low, 1 above high, a smooth curve between", example="smoothstep(slope, 0.4, 0.6)",
    apply=_apply,
    planes=step(opcodes.SMOOTH),
    glsl="ft_smooth({0}, {1}, {2})",
    helpers=componentwise(
        "$ ft_smooth($ x, $ low, $ high) { $ t = ft_levels(x, low, high); return t * t * (3.0 - 2.0 * t); }\n"
    ),
    needs=(("levels", 0),),
    nodes=_nodes,
)  # fmt: skip
