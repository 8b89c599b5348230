"""The value with the other sign."""

from __future__ import annotations

from texel.materials import opcodes
from texel.materials.operations.operation import Operation

OPERATION = Operation(
    "negate", "Negate", ("value",), lambda a: (-a[1], -a[0]), symbol="-", each=True, example="-bumps.g",
    apply=lambda a: -a,
    planes=lambda planes, given: [planes.do(opcodes.MULTIPLY, a, planes.constant(-1)) for a in given[0]],
    glsl="(-{0})",
    nodes=lambda g, x: g.standard("multiply", x, g.constant(-1)),
)  # fmt: skip
