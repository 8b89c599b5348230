"""How bright a colour is, by the weights of Rec. ITU-R BT.709."""

from __future__ import annotations

from texel.colour import LUMINANCE
from texel.materials.operations.operation import Operation
from texel.materials.operations.parts import dot_nodes, dot_planes, luminance

OPERATION = Operation(
    "luminance", "Luminance", ("value",), lambda c: c, "Colour", shape="1", fits=(3,), meaning="data",
    help="how bright a colour is", example="luminance(colour)",
    apply=luminance,
    planes=lambda planes, given: [dot_planes(planes, given[0], [planes.constant(weight) for weight in LUMINANCE])],
    glsl="ft_luminance({0})",
    helpers=lambda _: "float ft_luminance(vec3 c) { return dot(c, vec3(0.2126, 0.7152, 0.0722)); }\n",
    nodes=lambda g, c: dot_nodes(g, c, g.constant(0.2126, 0.7152, 0.0722)),
)  # fmt: skip
