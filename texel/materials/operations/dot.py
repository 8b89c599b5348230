"""The sum of the products of two values' components."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from texel.materials.operations.operation import Array, Interval, Operation
from texel.materials.operations.parts import dot_nodes, dot_planes, times

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _apply(a: Array, b: Array) -> Array:
    return np.asarray((a * b).sum(axis=-1, keepdims=True, dtype=np.float32))


def _bounds(a: Interval, b: Interval) -> Interval:
    low, high = times(a, b)
    return min(4 * low, low), max(4 * high, high)


def _nodes(g: Graph, a: Value, b: Value) -> Value:
    return g.standard("multiply", a, b) if a.size == 1 else dot_nodes(g, a, b)


OPERATION = Operation(
    "dot", "Dot product", ("value", "with"), _bounds, shape="1", meaning="data", group="Values",
    help="how far both point the same way, times their lengths", example="dot(world_normal, view_direction)",
    apply=_apply,
    planes=lambda planes, given: [dot_planes(planes, *given)],
    glsl="dot({0}, {1})",
    nodes=_nodes,
)  # fmt: skip
