"""One value while a switch is on, else another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from texel.materials import opcodes
from texel.materials.operations.operation import Array, Operation
from texel.materials.operations.parts import any_of, componentwise

if TYPE_CHECKING:
    from texel.materials.planes import Planes


def _apply(value: Array, switch: Array, otherwise: Array) -> Array:
    return np.where(switch > 0.5, value, otherwise).astype(np.float32)


def _planes(planes: Planes, given: Sequence[list[int]]) -> list[int]:
    value, (switch,), other = given
    return [planes.do(opcodes.CHOOSE, a, switch, b) for a, b in zip(value, other, strict=True)]


OPERATION = Operation(
    "choose", "Switch", ("value", "switch", "otherwise"), lambda v, s, o: any_of(v, o), "Choices", fits="switch",
    meaning="options", help="the value while the switch is on", example="choose(colour, worn, 0.5)",
    apply=_apply,
    planes=_planes,
    glsl="ft_choose({1}, {0}, {2})",
    helpers=componentwise("$ ft_choose(float on, $ a, $ b) { return on > 0.5 ? a : b; }\n"),
    nodes=lambda g, value, switch, otherwise: g.greater(switch, g.constant(0.5), value, otherwise),
)  # fmt: skip
