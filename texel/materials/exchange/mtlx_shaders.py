"""What a sheet gives, in the surfaces of MaterialX's library: the glTF surface, and OpenPBR's.

OpenPBR: Academy Software Foundation, OpenPBR Surface 1.1; its node as MaterialX 1.39 defines it.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import MaterialX as mx

from texel.materials.exchange.fixed import uniform_number
from texel.materials.exchange.mtlx_nodes import TYPES, Definitions, Graph, Value, number
from texel.materials.exchange.mtlx_surfaces import NITS
from texel.materials.master import INPUTS, Input, Master

__all__ = [
    "GLTF_SURFACE", "OPACITY_MODES", "OPEN_PBR", "SHADERS", "output_name", "output_type", "take",
]  # fmt: skip

GLTF_SURFACE, OPEN_PBR = "gltf_pbr", "open_pbr_surface"
OPACITY_MODES = ("opaque", "cut_out", "blend")
# Written into the glTF surface whether the sheet sets them or not.
_ALWAYS = ("specular", "coat", "coat_roughness", "sheen")
# Inputs that OpenPBR takes in other words, or split in two.
_OTHERWISE = ("opacity", "emissive", "sheen")


def output_name(name: str) -> str:
    """The output for an input of the surface; never the name of a slot or parameter, which have no capitals.

    >>> output_name("base_color")
    'outBaseColor'
    """
    return "out" + "".join(part.capitalize() for part in name.split("_"))


def output_type(one: Input) -> str:
    """The type of the output of a sheet's node for an input of the surface."""
    return "color3" if one.meaning == "colour" else TYPES[one.size]


def take(master: Master, name: str, given: mx.Input) -> None:
    """Give an input what the sheet says of an input of the surface."""
    given.setNodeName("sheet")
    if len(master.inputs) > 1:
        given.setOutputString(output_name(name))


def _of(master: Master, body: mx.NodeGraph, name: str) -> Value:
    """What the sheet says of an input, or its neutral value, for nodes that compute with it."""
    one = INPUTS[name]
    kind = output_type(one)
    if name not in master.inputs:
        return Value(kind, text=", ".join(number(part) for part in one.neutral))
    if body.getNode(f"from_{name}") is None:
        take(master, name, body.addNode("dot", f"from_{name}", kind).addInput("in", kind))
    return Value(kind, node=f"from_{name}")


def _write_gltf(master: Master, body: mx.NodeGraph, definitions: Definitions) -> None:
    """The sheet's values in the glTF surface; normals turned from tangent space to the world's."""
    graph = Graph(body, definitions)
    surface = body.addNode("gltf_pbr", "surface", "surfaceshader")
    for name, one in INPUTS.items():
        if not one.materialx or (one.on_demand and one.name not in _ALWAYS and name not in master.inputs):
            continue
        if one.meaning == "normal" and name not in master.inputs:
            continue
        if one.uniform:
            _take_uniform(master, one, surface)
            continue
        given = surface.addInput(one.materialx, output_type(one))
        if name not in master.inputs:
            given.setValueString(", ".join(number(part) for part in one.neutral))
        elif one.meaning == "normal":
            given.setNodeName(_world_normal(master, body, graph, name))
        elif name == "anisotropy_rotation":
            # Turns, where the glTF surface takes radians.
            radians = graph.add("multiply", "float", in1=_of(master, body, name), in2=Value.of(2 * math.pi))
            given.setNodeName(radians.node)
        else:
            take(master, name, given)
    if "emissive_strength" in master.inputs and "emissive" in master.inputs:
        # The surface takes the strength as a uniform only; the sheet may compute it.
        glow = body.addNode("multiply", "glow", "color3")
        for key, kind, name in (("in1", "color3", "emissive"), ("in2", "float", "emissive_strength")):
            take(master, name, glow.addInput(key, kind))
        emissive = surface.getInput("emissive")
        emissive.setNodeName("glow")
        emissive.removeAttribute("output")
    surface.addInput("alpha_mode", "integer").setValueString(str(OPACITY_MODES.index(master.opacity_mode)))
    if surface.getInput("alpha_cutoff") is None:
        surface.addInput("alpha_cutoff", "float").setValueString(number(master.cut_off))
    body.addOutput("out", "surfaceshader").setNodeName("surface")


def _take_uniform(master: Master, one: Input, surface: mx.Node) -> None:
    """A number for the whole surface, or a parameter; as it is without the sheet where it is neither, which is told
    (texel.materials.exchange.lost)."""
    given = surface.addInput(one.materialx, "float")
    found = uniform_number(master, one.name)
    if isinstance(found, str):
        given.setInterfaceName(found)
    else:
        neutral = master.cut_off if one.name == "cut_off" else one.neutral[0]
        given.setValueString(number(neutral if found is None else found))
    if one.name == "cut_off":
        given.setAttribute("ft_cut_off", number(master.cut_off))


def _world_normal(master: Master, body: mx.NodeGraph, graph: Graph, name: str) -> str:
    """The node with a normal in the world, from the sheet's in the tangent's frame."""
    half = body.addNode("multiply", f"{name}_half", "vector3")
    take(master, name, half.addInput("in1", "vector3"))
    half.addInput("in2", "float").setValueString("0.5")
    packed = graph.add("add", "vector3", f"{name}_packed", in1=Value("vector3", node=f"{name}_half"), in2=Value.of(0.5))
    return graph.add("normalmap", "vector3", f"{name}_in_world", **{"in": packed}).node


def _write_open_pbr(master: Master, body: mx.NodeGraph, definitions: Definitions) -> None:
    """The sheet's values in OpenPBR's surface. What glTF tints light by that goes through is the base colour, and a
    sheen of some colour is a fuzz of as much weight as its strongest channel."""
    graph = Graph(body, definitions)
    surface = body.addNode(OPEN_PBR, "surface", "surfaceshader")

    def of(name: str) -> Value:
        return _of(master, body, name)

    def give(theirs: str, value: Value) -> None:
        given = surface.addInput(theirs, value.kind)
        given.setNodeName(value.node) if value.node else given.setValueString(value.text)

    for name, one in INPUTS.items():
        if not one.openpbr or name in _OTHERWISE or (one.on_demand and name not in master.inputs):
            continue
        if one.meaning != "normal":
            give(one.openpbr, of(name))
        elif name in master.inputs:
            give(one.openpbr, Value("vector3", node=_world_normal(master, body, graph, name)))
    if "emissive" in master.inputs:
        give("emission_color", of("emissive"))
        give("emission_luminance", graph.add("multiply", "float", in1=of("emissive_strength"), in2=Value.of(NITS)))
    if "sheen" in master.inputs:
        weight, colour = _weight_and_colour(graph, of("sheen"))
        give("fuzz_weight", weight)
        give("fuzz_color", colour)
    if "transmission" in master.inputs:
        give("transmission_color", of("base_color"))
    if "anisotropy_rotation" in master.inputs:
        give("geometry_tangent", _turned_tangent(graph, of("anisotropy_rotation")))
    if master.opacity_mode == "blend" and "opacity" in master.inputs:
        give("geometry_opacity", of("opacity"))
    if master.opacity_mode == "cut_out" and "opacity" in master.inputs:
        cut_off = of("cut_off") if "cut_off" in master.inputs else Value.of(master.cut_off)
        there = {"value1": of("opacity"), "value2": cut_off, "in1": Value.of(1), "in2": Value.of(0)}
        give("geometry_opacity", graph.add("ifgreatereq", "float", **there))
    body.addOutput("out", "surfaceshader").setNodeName("surface")


def _weight_and_colour(graph: Graph, sheen: Value) -> tuple[Value, Value]:
    """The strongest channel, and the colour that is left when it is divided by that."""
    vector = graph.add("convert", "vector3", **{"in": sheen})
    weight = graph.part(vector, 0)
    for at in (1, 2):
        weight = graph.add("max", "float", in1=weight, in2=graph.part(vector, at))
    by = graph.add("max", "float", in1=weight, in2=Value.of(1e-6))
    return weight, graph.add("divide", "color3", in1=sheen, in2=by)


def _turned_tangent(graph: Graph, turns: Value) -> Value:
    """The tangent turned as MaterialX's own glTF surface turns it: by the rotation, against its rotate3d."""
    space = {"space": Value("string", text="world")}
    tangent, axis = (graph.add(node, "vector3", **space) for node in ("tangent", "normal"))
    degrees = graph.add("multiply", "float", in1=turns, in2=Value.of(-360))
    turned = graph.add("rotate3d", "vector3", **{"in": tangent, "amount": degrees, "axis": axis})
    return graph.add("normalize", "vector3", **{"in": turned})


# How a sheet is given to a surface, by the surface's node.
SHADERS: dict[str, Callable[[Master, mx.NodeGraph, Definitions], None]] = {
    GLTF_SURFACE: _write_gltf, OPEN_PBR: _write_open_pbr,
}  # fmt: skip
