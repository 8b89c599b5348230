"""The product of two values."""

from __future__ import annotations

from texel.materials import opcodes
from texel.materials.operations.operation import Operation, StandardNode
from texel.materials.operations.parts import step, times

OPERATION = Operation(
    "multiply", "Multiply", ("value", "by"), times, symbol="*", each=True, example="colour * shade",
    apply=lambda a, b: a * b,
    planes=step(opcodes.MULTIPLY),
    glsl="({0} * {1})",
    nodes=StandardNode("multiply", ("in1", "in2")),
)  # fmt: skip
