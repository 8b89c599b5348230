"""1 less the value."""

from __future__ import annotations

from texel.materials import opcodes
from texel.materials.operations.operation import Operation, StandardNode

OPERATION = Operation(
    "invert", "Invert", ("value",), lambda a: (1 - a[1], 1 - a[0]), help="1 less the value", each=True,
    example="invert(gloss)",
    apply=lambda a: 1 - a,
    planes=lambda planes, given: [planes.do(opcodes.SUBTRACT, planes.constant(1), a) for a in given[0]],
    glsl="(1.0 - {0})",
    nodes=StandardNode("invert", ("in",)),
)  # fmt: skip
