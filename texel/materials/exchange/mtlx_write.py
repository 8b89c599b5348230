"""Masters and casts as MaterialX: a sheet is a node definition with a functional graph, a cast an instance of it.

The sheet ``fern_wall`` becomes the node ``fern_wall_sheet`` with an output for each input of the surface, and the node
``fern_wall_surface``, which gives them to the glTF surface of MaterialX's own library. A cast is one instance of the
latter with nothing but what it changes, and a material.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

import MaterialX as mx
import numpy as np

from texel.colour import encode_srgb
from texel.materials.exchange.mtlx_nodes import (
    TYPES,
    Definitions,
    Graph,
    MapInput,
    Value,
    image_of,
    number,
    spec_of,
    tree_value,
)
from texel.materials.exchange.mtlx_shaders import GLTF_SURFACE, OPACITY_MODES, SHADERS, output_name, output_type, take
from texel.materials.kinds import Kinds
from texel.materials.master import DEFAULTS, INPUTS, Coordinates, Input, Master, Parameter, Slot
from texel.materials.simplify import constants_of
from texel.materials.tree import Name, Node
from texel.roles import Green, Transfer

__all__ = [
    "ATTRIBUTES", "OPACITY_MODES", "PARAMETER_TYPES", "CastOf", "element_name", "materialx_of",
    "output_name",
]  # fmt: skip

# What our documents say beyond MaterialX's own attributes; each is declared in the document.
ATTRIBUTES = {
    "ft_name": "Name of the master.",
    "ft_title": "Title of the master.",
    "ft_role": "Role of the map that a slot takes.",
    "ft_layout": "Layout of the packed map that a slot takes.",
    "ft_colour_space": "Colour space of a slot's map, srgb or linear; the graph decodes it.",
    "ft_default": "What a slot reads without a map.",
    "ft_green": "Where green points in a slot's normal map.",
    "ft_order": "Place of a parameter in its group.",
    "ft_opacity": "Opacity mode and cut-off of the master.",
    "ft_cut_off": "Cut-off of the master where the sheet computes one.",
    "ft_options": "A choice's options as JSON, where one of them holds a comma.",
    "ft_unit": "Unit of a parameter.",
    "ft_functions": "The functions that the sheet calls, as JSON.",
    "ft_layers": "The document with the layers of which the sheet was made, as JSON.",
}
# The document's own space: nobody changes what is read.
_AS_IT_IS = "lin_rec709"
PARAMETER_TYPES = {
    "number": ("float",), "colour": ("color3",), "vector": ("vector2", "vector3", "vector4"), "switch": ("boolean",),
    "choice": ("integer",),
}  # fmt: skip


@dataclass(frozen=True)
class CastOf:
    """A cast for export. changes: components by parameter. files: what fills slots, as file names by slot."""

    name: str
    changes: Mapping[str, tuple[float, ...]] = field(default_factory=dict)
    files: Mapping[str, str] = field(default_factory=dict)


def element_name(text: str) -> str:
    """A name as MaterialX allows it: letters, digits and underscores, no digit first."""
    name = mx.createValidName(text)
    return f"n{name}" if not name or name[0].isdigit() else name


def parameter_type(parameter: Parameter) -> str:
    """The type of a parameter's input in MaterialX."""
    types = PARAMETER_TYPES[parameter.kind]
    return types[parameter.size - 2] if parameter.kind == "vector" else types[0]


def materialx_of(master: Master, casts: Iterable[CastOf] = (), surface: str = GLTF_SURFACE) -> str:
    """The document as XML. Without casts there is one material with the defaults. surface: of SHADERS, what the sheet
    is given to. Raises BadExpression."""
    document = mx.createDocument()
    document.setColorSpace("lin_rec709")
    for name, words in ATTRIBUTES.items():
        one = document.addChildOfCategory("attributedef", f"AD_{name}")
        for key, text in {"attrname": name, "type": "string", "elements": "nodedef,input", "doc": words}.items():
            one.setAttribute(key, text)
    definitions = Definitions(document)
    base = element_name(master.name)
    _SheetWriter(master, document, definitions, f"{base}_sheet").write()
    body = _write_shader(master, document, base, "surface")
    SHADERS[surface](master, body, definitions)
    if _is_lifted(master):
        _write_displacement(master, document, base)
    used: set[str] = set()
    for cast in list(casts) or [CastOf(master.title)]:
        _write_cast(master, document, base, cast, used)
    return str(mx.writeToXmlString(document))


class _SheetWriter:
    def __init__(self, master: Master, document: mx.Document, definitions: Definitions, category: str):
        self._master, self._document, self._category = master, document, category
        self._kinds = Kinds(master)
        self._body = document.addNodeGraph(f"NG_{category}")
        self._graph = Graph(self._body, definitions)

    def write(self) -> None:
        definition = self._document.addChildOfCategory("nodedef", f"ND_{self._category}")
        definition.setAttribute("node", self._category)
        _describe(self._master, definition)
        _add_interface(self._master, definition)
        self._body.setNodeDefString(definition.getName())
        self._write_names()
        for name, tree in self._master.rows.items():
            self._named(f"row_{name}", self._value(tree), TYPES[self._kinds.of(tree).size])
        for one in self._written_inputs():
            kind = output_type(one)
            made = self._input(one)
            if kind == "color3" and not made.text:
                made = self._graph.add("convert", kind, f"surface_{one.name}", **{"in": made})
            else:
                made = self._named(f"surface_{one.name}", made._replace(kind=kind), kind)
            definition.addOutput(output_name(one.name), kind)
            self._body.addOutput(output_name(one.name), kind).setNodeName(made.node)

    def _written_inputs(self) -> list[Input]:
        """Strength is a part of the normal that goes out; it goes out by itself, too, to be read back."""
        return [one for one in INPUTS.values() if one.name in self._master.inputs]

    def _input(self, one: Input) -> Value:
        value = self._graph.wide(self._value(self._master.inputs[one.name]), one.size)
        if one.name == "normal":
            strength = self._master.inputs.get("normal_strength")
            given = self._value(strength) if strength is not None else Value.of(1)
            return self._graph.own("strengthen", 3, value, given)
        return value

    def _named(self, name: str, value: Value, kind: str) -> Value:
        return self._graph.add("dot", kind, name, **{"in": value})

    def _write_names(self) -> None:
        """Nodes for parameters, coordinates, slots, the vertex colour and uv, that everything else refers to."""
        master, graph = self._master, self._graph
        for parameter in master.parameters.values():
            kind, name = parameter_type(parameter), parameter.name
            given = Value(kind, interface=name)
            category = "dot" if kind.startswith(("float", "vector")) else "convert"
            graph.add(category, TYPES[parameter.size], f"parameter_{name}", **{"in": given})
        graph.start("uv")
        graph.start("uv1")
        for coordinates in master.coordinates.values():
            self._place(coordinates)
        for slot in master.slots.values():
            self._slot(slot)

    def _place(self, one: Coordinates) -> None:
        category, names = self._graph.definitions.require("place", 2, (2, 2, 2, 1))
        values = [
            self._graph.start("uv1" if one.uv_set else "uv"), self._uniform(one.tiling, 2),
            self._uniform(one.offset, 2), self._uniform(one.rotation, 1),
        ]  # fmt: skip
        self._graph.add(category, "vector2", f"place_{one.name}", **dict(zip(names, values, strict=True)))

    def _uniform(self, tree: Node, size: int) -> Value:
        """What is the same everywhere on a surface."""
        parts = constants_of(tree)
        value = Value.of(*parts) if parts is not None else self._value(tree)
        return self._graph.wide(value, size)

    def _slot(self, slot: Slot) -> None:
        """The map as it is read, colours decoded, a normal map's vectors unpacked; and its bare name, the channels
        that it means.

        The graph decodes by itself: MaterialX's own colour management, of version 1.39, passes over a map that a
        definition takes as its input, and ends its process where an instance has two of them in sRGB.
        """
        graph, srgb = self._graph, slot.colour_space is Transfer.SRGB
        file, default = Value("filename", interface=slot.name), _stored_default(slot)
        place = Value("vector2", node=f"place_{slot.coordinates}")
        read = image_of(graph, file, default, place, spec_of(slot), f"map_{slot.name}")
        if slot.is_normal:
            degrees = self._uniform(self._master.coordinates[slot.coordinates].rotation, 1)
            green = Value.of(-1 if slot.green is Green.DOWN else 1)
            if srgb:
                read = self._decoded(read)
            category, names = graph.definitions.require("unpack_normal", 4, (4, 1, 1))
            inputs = dict(zip(names, (read, green, degrees), strict=True))
            whole = graph.add(category, "vector4", f"slot_{slot.name}", **inputs)
        elif srgb:
            whole = self._decoded(read, f"slot_{slot.name}")
        else:
            whole = graph.add("dot", "vector4", f"slot_{slot.name}", **{"in": read})
        if slot.size < 4:
            category, (first,) = graph.definitions.require(f"take_{'rgb'[: slot.size]}", slot.size, (4,))
            graph.add(category, TYPES[slot.size], f"bare_{slot.name}", **{first: whole})
        else:
            graph.add("dot", "vector4", f"bare_{slot.name}", **{"in": whole})

    def _decoded(self, read: Value, name: str = "") -> Value:
        category, (first,) = self._graph.definitions.require("decode_srgb", 4, (4,))
        return self._graph.add(category, "vector4", name, **{first: read})

    def _value(self, node: Node) -> Value:
        return tree_value(self._graph, node, self._known, self._map)

    def _known(self, name: str, whole: bool) -> Value:
        master = self._master
        if name in master.slots:
            kind = "vector4" if whole else TYPES[master.slots[name].size]
            return Value(kind, node=f"{'slot' if whole else 'bare'}_{name}")
        kind = TYPES[self._kinds.of(Name(name)).size]
        if name in master.parameters or name in master.rows:
            return Value(kind, node=f"{'parameter' if name in master.parameters else 'row'}_{name}")
        return self._graph.start(name)

    def _map(self, name: str) -> MapInput:
        slot = self._master.slots[name]
        return MapInput(Value("filename", interface=name), _stored_default(slot), spec_of(slot))


def _stored_default(slot: Slot) -> Value:
    """What a slot reads without a map, as a map would store it."""
    value = DEFAULTS[slot.default]
    if slot.colour_space is Transfer.SRGB:
        value = float(encode_srgb(np.array([value]))[0])
    return Value.of(0.5, 0.5, 1.0, 1.0) if slot.is_normal else Value.of(value, value, value, 1.0)


def _describe(master: Master, definition: mx.Element) -> None:
    definition.setAttribute("ft_name", master.name)
    definition.setAttribute("ft_title", master.title)
    definition.setAttribute("ft_opacity", f"{master.opacity_mode} {number(master.cut_off)}")
    if master.help:
        definition.setAttribute("doc", master.help)
    if "layers" in master.document:
        definition.setAttribute("ft_layers", json.dumps(master.document, ensure_ascii=False))
    if master.functions:
        documents = [one.document for one in master.functions.values()]
        definition.setAttribute("ft_functions", json.dumps(documents, ensure_ascii=False))


def _add_interface(master: Master, definition: mx.Element) -> None:
    for slot in master.slots.values():
        one = definition.addInput(slot.name, "filename")
        one.setAttribute("uniform", "true")
        one.setAttribute("uiname", slot.title)
        # As it is: what it means is for the graph.
        one.setColorSpace(_AS_IT_IS)
        one.setAttribute("ft_colour_space", slot.colour_space.value)
        one.setAttribute("ft_role" if slot.role else "ft_layout", slot.role.value if slot.role else str(slot.layout))
        one.setAttribute("ft_default", slot.default)
        if slot.is_normal:
            one.setAttribute("ft_green", slot.green.value)
        if slot.help:
            one.setAttribute("doc", slot.help)
    for at, parameter in enumerate(master.parameters.values()):
        _add_parameter(parameter, at, definition)


def _add_parameter(parameter: Parameter, at: int, definition: mx.Element) -> None:
    kind = parameter_type(parameter)
    one = definition.addInput(parameter.name, kind)
    one.setValueString(_value_text(parameter, parameter.default))
    words: dict[str, Any] = {
        "uiname": parameter.title, "uifolder": parameter.group, "doc": parameter.help, "ft_unit": parameter.unit,
        "ft_order": "" if parameter.order == at else str(parameter.order),
    }  # fmt: skip
    count = parameter.size
    limits = {
        "uimin": parameter.low, "uimax": parameter.high, "uisoftmin": parameter.soft_low,
        "uisoftmax": parameter.soft_high, "uistep": parameter.step,
    }  # fmt: skip
    if kind.startswith(("float", "color", "vector")):
        words |= {
            key: ", ".join([number(value)] * count)
            for key, value in limits.items()
            if value is not None and abs(value) != float("inf")
        }
    if parameter.kind == "choice":
        words["enum"] = ", ".join(option.replace(",", ";") for option in parameter.options)
        words["enumvalues"] = ", ".join(str(index) for index in range(len(parameter.options)))
        if any("," in option or option != option.strip() for option in parameter.options):
            words["ft_options"] = json.dumps(parameter.options, ensure_ascii=False)
    for key, text in words.items():
        if text != "":
            one.setAttribute(key, text)


def _value_text(parameter: Parameter, value: tuple[float, ...]) -> str:
    if parameter.kind == "switch":
        return "true" if value[0] > 0.5 else "false"
    if parameter.kind == "choice":
        return str(round(value[0]))
    return ", ".join(number(part) for part in value)


def _write_shader(master: Master, document: mx.Document, base: str, kind: str) -> mx.NodeGraph:
    """The definition of a shader with the sheet's interface; its graph holds the sheet so far. kind: of MaterialX's
    shaders, "surface" or "displacement"."""
    definition = document.addNodeDef(f"ND_{base}_{kind}", f"{kind}shader", f"{base}_{kind}")
    _add_interface(master, definition)
    body = document.addNodeGraph(f"NG_{base}_{kind}")
    body.setNodeDefString(definition.getName())
    sheet = body.addNode(f"{base}_sheet", "sheet", _sheet_type(master))
    for given in definition.getInputs():
        sheet.addInput(given.getName(), given.getType()).setInterfaceName(given.getName())
    return body


def _sheet_type(master: Master) -> str:
    """The type of an instance of the sheet: of its one output, or "multioutput" where it has several."""
    written = [INPUTS[name] for name in master.inputs]
    return output_type(written[0]) if len(written) == 1 else "multioutput"


def _is_lifted(master: Master) -> bool:
    """Without a scale a height moves nothing."""
    return {"height", "height_scale"} <= set(master.inputs)


def _write_displacement(master: Master, document: mx.Document, base: str) -> None:
    """The node that moves the surface by its height; a height of 0.5 stays where it is."""
    body = _write_shader(master, document, base, "displacement")
    centred = body.addNode("subtract", "centred", "float")
    height = centred.addInput("in1", "float")
    take(master, "height", height)
    centred.addInput("in2", "float").setValueString("0.5")
    moved = body.addNode("displacement", "moved", "displacementshader")
    moved.addInput("displacement", "float").setNodeName("centred")
    scale = moved.addInput("scale", "float")
    take(master, "height_scale", scale)
    body.addOutput("out", "displacementshader").setNodeName("moved")


def _write_cast(master: Master, document: mx.Document, base: str, cast: CastOf, used: set[str]) -> None:
    name = document.createValidChildName(element_name(cast.name))
    used.add(name)
    surface = document.addNode(f"{base}_surface", document.createValidChildName(f"{name}_cast"), "surfaceshader")
    _set_changes(master, surface, cast)
    material = document.addNode("surfacematerial", name, "material")
    material.addInput("surfaceshader", "surfaceshader").setNodeName(surface.getName())
    if _is_lifted(master):
        lift = document.createValidChildName(f"{name}_lift")
        displacement = document.addNode(f"{base}_displacement", lift, "displacementshader")
        _set_changes(master, displacement, cast)
        material.addInput("displacementshader", "displacementshader").setNodeName(lift)
    if name != cast.name:
        material.setAttribute("uiname", cast.name)


def _set_changes(master: Master, node: mx.Node, cast: CastOf) -> None:
    """What a cast changes, on an instance of one of the sheet's shaders."""
    for key, value in cast.changes.items():
        parameter = master.parameters[key]
        node.addInput(key, parameter_type(parameter)).setValueString(_value_text(parameter, value))
    for key, file in cast.files.items():
        given = node.addInput(key, "filename")
        given.setValueString(file)
        given.setColorSpace(_AS_IT_IS)
