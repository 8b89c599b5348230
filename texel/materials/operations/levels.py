"""0 at black and 1 at white, nothing beyond; 0 everywhere where both are one."""

from __future__ import annotations

from typing import TYPE_CHECKING

from texel.materials import opcodes
from texel.materials.operations.operation import Operation
from texel.materials.operations.parts import componentwise, levels, step

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value


def _nodes(g: Graph, x: Value, black: Value, white: Value) -> Value:
    share = g.own("divide", x.size, g.standard("subtract", x, black), g.standard("subtract", white, black))
    return g.standard("clamp", share, g.wide(g.constant(0), x.size), g.wide(g.constant(1), x.size))


OPERATION = Operation(
    "levels", "Levels", ("value", "black", "white"), lambda *_: (0.0, 1.0), each=True,
    help="black becomes 0, white becomes 1, nothing goes beyond", example="levels(mask.r, 0.2, worn)",
    apply=levels,
    planes=step(opcodes.LEVELS),
    glsl="ft_levels({0}, {1}, {2})",
    helpers=componentwise(
        "$ ft_levels($ x, $ black, $ white) { return clamp(ft_divide(x - black, white - black), 0.0, 1.0); }\n"
    ),
    needs=(("divide", 0),),
    nodes=_nodes,
)  # fmt: skip
