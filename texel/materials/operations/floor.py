"""The next lower whole number."""

from __future__ import annotations

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Operation, StandardNode

OPERATION = Operation(
    "floor", "Round down", ("value",), lambda a: (float(np.floor(a[0])), float(np.floor(a[1]))), each=True,
    help="the next lower whole number", example="floor(pack.r * 4) / 4",
    apply=np.floor,
    planes=lambda planes, given: [
        planes.do(opcodes.SUBTRACT, part, planes.do(opcodes.FRACTION, part)) for part in given[0]
    ],
    glsl="floor({0})",
    nodes=StandardNode("floor", ("in",)),
)  # fmt: skip
