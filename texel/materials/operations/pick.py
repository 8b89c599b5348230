"""One of several values, by the number of the option."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Interval, Operation
from texel.materials.operations.parts import any_of

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value
    from texel.materials.planes import Planes


def _apply(value: Array, choice: Array, *others: Array) -> Array:
    picked = value
    for at, other in enumerate(others, 1):
        picked = np.where(choice > at - 0.5, other, picked)
    return np.asarray(picked, np.float32)


def _bounds(value: Interval, _: Interval, *others: Interval) -> Interval:
    return any_of(value, *others)


def _planes(planes: Planes, given: Sequence[list[int]]) -> list[int]:
    picked, (choice,), *others = given
    for at, other in enumerate(others, 1):
        # On where the choice is above at - 0.5.
        on = planes.do(opcodes.SUBTRACT, choice, planes.constant(at - 1))
        picked = [planes.do(opcodes.CHOOSE, a, on, b) for a, b in zip(other, picked, strict=True)]
    return picked


def _glsl(texts: Sequence[str]) -> str:
    picked, choice, *others = texts
    for at, other in enumerate(others, 1):
        picked = f"({choice} > {at}.0 - 0.5 ? {other} : {picked})"
    return picked


def _nodes(g: Graph, value: Value, choice: Value, *others: Value) -> Value:
    picked = value
    for at, other in enumerate(others, 1):
        picked = g.greater(choice, g.constant(at - 0.5), other, picked)
    return picked


OPERATION = Operation(
    "pick", "Choice", ("value", "choice", "others"), _bounds, "Choices", fits="switch", meaning="options", most=9,
    help="the value for the first option, the others for the next", example="pick(0.2, finish, 0.5, 0.8)",
    apply=_apply,
    planes=_planes,
    glsl=_glsl,
    nodes=_nodes,
)  # fmt: skip
