"""The value between two limits."""

from __future__ import annotations

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Interval, Operation, StandardNode
from texel.materials.operations.parts import step


def _apply(x: Array, low: Array, high: Array) -> Array:
    return np.minimum(np.maximum(x, low), high)


def _bounds(x: Interval, low: Interval, high: Interval) -> Interval:
    return min(max(x[0], low[0]), high[0]), min(max(x[1], low[1]), high[1])


OPERATION = Operation(
    "clamp", "Clamp", ("value", "low", "high"), _bounds, each=True, example="clamp(pack.g, 0.04, 1)",
    apply=_apply,
    planes=step(opcodes.CLAMP),
    glsl="min(max({0}, {1}), {2})",
    nodes=StandardNode("clamp", ("in", "low", "high")),
)  # fmt: skip
