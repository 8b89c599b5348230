"""The higher of two values."""

from __future__ import annotations

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Operation, StandardNode
from texel.materials.operations.parts import step

OPERATION = Operation(
    "maximum", "Maximum", ("value", "limit"), lambda a, b: (max(a[0], b[0]), max(a[1], b[1])), each=True,
    help="never below the limit", example="maximum(height, 0.2)",
    apply=np.maximum,
    planes=step(opcodes.MAXIMUM),
    glsl="max({0}, {1})",
    nodes=StandardNode("max", ("in1", "in2")),
)  # fmt: skip
