"""The square root; 0 for values below 0."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Operation
from texel.materials.operations.parts import step

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _nodes(g: Graph, x: Value) -> Value:
    return g.add("sqrt", x.kind, **{"in": g.standard("maximum", x, g.constant(0))})


OPERATION = Operation(
    "root", "Square root", ("value",), lambda a: (max(a[0], 0.0) ** 0.5, max(a[1], 0.0) ** 0.5), each=True,
    help="0 for values below 0", example="root(pack.g)",
    apply=lambda a: np.sqrt(np.maximum(a, np.float32(0))),
    planes=step(opcodes.ROOT),
    glsl="sqrt(max({0}, 0.0))",
    nodes=_nodes,
)  # fmt: skip
