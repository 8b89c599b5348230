"""From one value to another by a share; beyond 0 and 1 it goes on."""

from __future__ import annotations

from texel.materials import opcodes
from texel.materials.operations.operation import Operation, StandardNode
from texel.materials.operations.parts import componentwise, mixed, mixed_bounds, step

OPERATION = Operation(
    "mix", "Mix", ("value", "with", "share"), mixed_bounds, help="the value at share 0, the other at 1", each=True,
    meaning="first two", example="mix(colour, dust, up)",
    apply=mixed,
    planes=step(opcodes.MIX),
    glsl="ft_mix({0}, {1}, {2})",
    helpers=componentwise("$ ft_mix($ a, $ b, $ t) { return a * (1.0 - t) + b * t; }\n"),
    nodes=StandardNode("mix", ("bg", "fg", "mix")),
)  # fmt: skip
