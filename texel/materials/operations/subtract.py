"""The difference of two values."""

from __future__ import annotations

from texel.materials import opcodes
from texel.materials.operations.operation import Operation, StandardNode
from texel.materials.operations.parts import step

OPERATION = Operation(
    "subtract", "Subtract", ("value", "less"), lambda a, b: (a[0] - b[1], a[1] - b[0]), symbol="-", each=True,
    example="pack.r - 0.1",
    apply=lambda a, b: a - b,
    planes=step(opcodes.SUBTRACT),
    glsl="({0} - {1})",
    nodes=StandardNode("subtract", ("in1", "in2")),
)  # fmt: skip
