"""The lower of two values."""

from __future__ import annotations

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Operation, StandardNode
from texel.materials.operations.parts import step

OPERATION = Operation(
    "minimum", "Minimum", ("value", "limit"), lambda a, b: (min(a[0], b[0]), min(a[1], b[1])), each=True,
    help="never above the limit", example="minimum(height, 0.8)",
    apply=np.minimum,
    planes=step(opcodes.MINIMUM),
    glsl="min({0}, {1})",
    nodes=StandardNode("min", ("in1", "in2")),
)  # fmt: skip
