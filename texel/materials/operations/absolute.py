"""The value without its sign."""

from __future__ import annotations

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Interval, Operation, StandardNode
from texel.materials.operations.parts import step


def _bounds(a: Interval) -> Interval:
    nearest = 0.0 if a[0] <= 0 <= a[1] else min(abs(a[0]), abs(a[1]))
    return nearest, max(abs(a[0]), abs(a[1]))


OPERATION = Operation(
    "absolute", "Absolute", ("value",), _bounds, each=True, help="without its sign", example="absolute(bumps.r)",
    apply=np.abs,
    planes=step(opcodes.ABSOLUTE),
    glsl="abs({0})",
    nodes=StandardNode("absval", ("in",)),
)  # fmt: skip
