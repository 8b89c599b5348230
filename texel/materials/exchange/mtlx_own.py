"""Reading back the MaterialX that mtlx_write makes: the same master, exactly, and its casts."""

from __future__ import annotations

from typing import Any

import MaterialX as mx

from texel.errors import BadDocument, TexelError
from texel.materials.casts import document_value
from texel.materials.exchange.imported import Imported
from texel.materials.exchange.mtlx_nodes import ADDRESSING, FILTERING, FUNCTION, PREFIX, STANDARD
from texel.materials.exchange.mtlx_write import (
    OPACITY_MODES,
    PARAMETER_TYPES,
    CastOf,
    element_name,
    materialx_of,
    output_name,
)  # fmt: skip
from texel.materials.expression import text_of
from texel.materials.functions import operations_of, parse_functions
from texel.materials.master import INPUTS, Master, parse_master
from texel.materials.operations import OPERATIONS
from texel.materials.starts import STARTS
from texel.materials.tree import Call, Constant, Name, Node, Swizzle, call
from texel.roles import Transfer
from texel.schemas import load_json

__all__ = ["NotOurs", "read_own"]

_OPERATIONS = {category: (name, inputs) for name, (category, inputs) in STANDARD.items()}
# By a number that is not zero.
_OPERATIONS["divide"] = ("divide", ("in1", "in2"))
_NAMED = ("parameter_", "slot_", "bare_", "row_")
_KINDS = {kind: name for name, kinds in PARAMETER_TYPES.items() for kind in kinds}
# Nodes between a value and where it goes that change nothing in a sheet: names, and numbers made wide.
_PASSING = ("dot", "convert")
# Names of starts until 2026-11.
_OLD_STARTS = {"vertex": "vertex", "uv_0": "uv", "uv_1": "uv1"}
# Operations that read a map, the longest name first.
_READING = sorted(
    ("read_all", *(name for name, one in OPERATIONS.items() if one.maps)),
    key=len, reverse=True,
)  # fmt: skip
# More than the rows of any sheet can hold.
_MAX_NODES = 100_000


class NotOurs(Exception):
    """The document was not written by us, or was changed since into what a sheet of ours never holds."""


def read_own(document: mx.Document, definition: mx.NodeDef) -> Imported:
    """The master of one sheet definition. Raises NotOurs, BadDocument."""
    body = definition.getImplementation()
    if body is None or not body.isA(mx.NodeGraph):
        raise NotOurs(f"{definition.getName()} has no graph")
    sheet = _Sheet(document, definition, body).document()
    lost: list[str] = []
    if definition.hasAttribute("ft_layers"):
        sheet, lost = _with_layers(sheet, definition.getAttribute("ft_layers"))
    master = parse_master(sheet, definition.getAttribute("ft_name"))
    lost += _changed_functions(document, master)
    return Imported(sheet, tuple(_casts(document, definition, master)), tuple(lost), own=True)


def _changed_functions(document: mx.Document, master: Master) -> list[str]:
    """Functions whose nodes are not those that we would write: what was changed in them is not read."""
    if not master.functions:
        return []
    fresh = mx.createDocument()
    mx.readFromXmlString(fresh, materialx_of(master))
    written = [one for one in fresh.getNodeGraphs() if one.getName().startswith(f"NG_{PREFIX}{FUNCTION}")]
    changed = [one.getName() for one in written if document.getNodeGraph(one.getName()) != one]
    return [f"{one.removeprefix(f'NG_{PREFIX}')}: its nodes were changed since; read as it was" for one in changed]


def _with_layers(flat: dict[str, Any], text: str) -> tuple[dict[str, Any], list[str]]:
    """The document with its layers, where these still make the sheet that was read."""
    try:
        layered = load_json(text, "the layers")
        if parse_master(layered) == parse_master(flat):
            return layered, []
    except (ValueError, TexelError):
        pass
    return flat, ["Layers: the sheet was changed since it was written, and is read as rows"]


class _Sheet:
    def __init__(self, document: mx.Document, definition: mx.NodeDef, body: mx.NodeGraph):
        self._document, self._definition, self._body = document, definition, body
        self._read = 0
        written = definition.getAttribute("ft_functions")
        self._carried: list[dict[str, Any]] = load_json(written, "the functions") if written else []
        self._functions = operations_of(parse_functions(self._carried, definition.getName()).values())

    def document(self) -> dict[str, Any]:
        definition, body = self._definition, self._body
        rows = [node for node in body.getNodes() if node.getName().startswith("row_")]
        outputs = {output_name(name): name for name in INPUTS}
        inputs = {}
        for output in body.getOutputs():
            name = outputs.get(output.getName())
            if name is None:
                raise NotOurs(f"there is no input for the output {output.getName()}")
            tree = self._node(body.getNode(output.getNodeName()))
            if name == "normal":
                # Its strength goes out within it, and once more by itself.
                if not (isinstance(tree, Call) and tree.operation == "strengthen"):
                    raise NotOurs("the normal goes out without its strength")
                tree = tree.arguments[0]
            inputs[name] = text_of(tree)
        name = definition.getAttribute("ft_name")
        written = {
            "format": "fair-texel/master", "version": 1, "name": name, "title": definition.getAttribute("ft_title"),
            "help": definition.getAttribute("doc"),
            "slots": [self._slot(one) for one in definition.getInputs() if one.getType() == "filename"],
            "parameters": [_parameter(one) for one in definition.getInputs() if one.getType() != "filename"],
            "coordinates": [self._place(node) for node in body.getNodes() if node.getName().startswith("place_")],
            "rows": [
                {"name": node.getName().removeprefix("row_"), "expression": text_of(self._given(node, "in"))}
                for node in rows
            ],
            "inputs": {key: inputs[key] for key in INPUTS if key in inputs},
        }  # fmt: skip
        if self._carried:
            written["functions"] = self._carried
        surface = self._surface(element_name(name))
        if surface.getInput("alpha_mode") is None and definition.hasAttribute("ft_opacity"):
            mode_word, _, given = definition.getAttribute("ft_opacity").partition(" ")
            return written | {"opacity": {"mode": mode_word, "cut_off": float(given)}}
        mode, cut_off = surface.getInput("alpha_mode"), surface.getInput("alpha_cutoff")
        if mode is not None and cut_off is not None:
            written["opacity"] = {
                "mode": OPACITY_MODES[int(mode.getValueString())],
                "cut_off": float(cut_off.getAttribute("ft_cut_off") or cut_off.getValueString()),
            }
        return written

    def _surface(self, base: str) -> mx.Node:
        graph = self._document.getNodeGraph(f"NG_{base}_surface")
        node = graph.getNode("surface") if graph is not None else None
        if node is None:
            raise NotOurs("the surface around the sheet is missing")
        return node

    def _given(self, node: mx.Node, name: str) -> Node:
        given = node.getInput(name)
        if given is None:
            raise NotOurs(f"{node.getNamePath()} has no input {name}")
        if given.getNodeName():
            return self._node(self._body.getNode(given.getNodeName()))
        if not given.getValueString():
            raise NotOurs(f"{given.getNamePath()} is given nothing")
        return Constant(float(given.getValueString().split(",")[0]))

    def _node(self, node: mx.Node | None) -> Node:
        if node is None:
            raise NotOurs("a node is missing")
        self._read += 1
        if self._read > _MAX_NODES:
            raise NotOurs(f"its rows read more than {_MAX_NODES} nodes")
        name, category = node.getName(), node.getCategory()
        if name in _OLD_STARTS:
            return Name(_OLD_STARTS[name])
        if name.removeprefix("at_") in STARTS:
            return Name(name.removeprefix("at_"))
        prefix = next((one for one in _NAMED if name.startswith(one)), None)
        if prefix:
            return Name(name.removeprefix(prefix))
        if category in _PASSING:
            return self._given(node, "in")
        if category in _OPERATIONS:
            operation, inputs = _OPERATIONS[category]
            return Call(operation, tuple(self._given(node, one) for one in inputs))
        if not category.startswith(PREFIX):
            raise NotOurs(f"{node.getNamePath()} is a node that we do not write")
        if category == f"{PREFIX}flip":
            return self._uv(node)
        operation = category.removeprefix(PREFIX)
        given = [one for one in node.getInputs() if not one.getName().endswith("_default")]
        arguments = [
            Name(one.getInterfaceName()) if one.getType() == "filename" else self._given(node, one.getName())
            for one in given
        ]
        if operation.startswith(FUNCTION):
            return self._function(operation.removeprefix(FUNCTION), arguments)
        if any(one.getType() == "filename" for one in given):
            # Behind the operation stands how its maps are decoded.
            operation = next(one for one in _READING if operation.startswith(f"{one}_"))
            operation = "read" if operation == "read_all" else operation
        if operation.startswith("take_"):
            return Swizzle(arguments[0], operation.removeprefix("take_"))
        return call(operation, *arguments)

    def _function(self, written: str, arguments: list[Node]) -> Node:
        """A call of a function that the sheet carries. written: its name, and how its maps are decoded."""
        fitting = [name for name in self._functions if f"{written}_".startswith(f"{name}_")]
        if not fitting:
            raise NotOurs(f"there is no function {written}")
        name = max(fitting, key=len)
        return Call(name, tuple(arguments), function=self._functions[name])

    def _uv(self, node: mx.Node) -> Node:
        """Coordinates are turned upside down where they come in; nothing else is."""
        given = node.getInputs()[0].getNodeName()
        if given not in ("at_uv_up", "at_uv1_up"):
            raise NotOurs(f"{node.getNamePath()} turns what are no coordinates of the mesh")
        return Name(given.removeprefix("at_").removesuffix("_up"))

    def _slot(self, one: mx.Input) -> dict[str, Any]:
        read = self._body.getNode(f"map_{one.getName()}")
        place = read.getInput("texcoord") if read is not None else None
        if place is None:
            raise NotOurs(f"slot {one.getName()} is not read")
        # Until 2026-11 maps were decoded by their colour space, not by the graph.
        older = Transfer.SRGB if one.getColorSpace() == "srgb_texture" else Transfer.LINEAR
        space = Transfer(one.getAttribute("ft_colour_space") or older.value)
        slot = {
            "name": one.getName(), "title": one.getAttribute("uiname"), "help": one.getAttribute("doc"),
            "colour_space": space.value, "default": one.getAttribute("ft_default"),
            "coordinates": place.getNodeName().removeprefix("place_"),
        }  # fmt: skip
        for key, named, words in (("wrap", "uaddressmode", ADDRESSING), ("filter", "filtertype", FILTERING)):
            given = read.getInput(named)
            ours = {theirs: our for our, theirs in words.items()}
            slot[key] = ours.get(given.getValueString(), next(iter(words))) if given is not None else next(iter(words))
        for key in ("role", "layout", "green"):
            if one.hasAttribute(f"ft_{key}"):
                slot[key] = one.getAttribute(f"ft_{key}")
        return slot

    def _uv_set(self, name: str) -> int:
        node = self._body.getNode(name)
        if name in _OLD_STARTS or node is None:
            return int(name == "uv_1")
        return int(self._node(node) == Name("uv1"))

    def _place(self, node: mx.Node) -> dict[str, Any]:
        def given(name: str) -> Any:
            one = node.getInput(name)
            if one is None:
                raise NotOurs(f"{node.getNamePath()} has no input {name}")
            if one.getNodeName():
                return text_of(self._node(self._body.getNode(one.getNodeName())))
            parts = [float(part) for part in one.getValueString().split(",")]
            return parts if len(parts) > 1 else parts[0]

        uv = node.getInput("uv")
        return {
            "name": node.getName().removeprefix("place_"), "uv_set": self._uv_set(uv.getNodeName()),
            "tiling": given("tiling"), "offset": given("offset"), "rotation": given("degrees"),
        }  # fmt: skip


def _parameter(one: mx.Input) -> dict[str, Any]:
    kind = _KINDS[one.getType()]
    size = int(one.getType()[-1]) if kind == "vector" else 2
    parameter: dict[str, Any] = {
        "name": one.getName(), "kind": kind, "title": one.getAttribute("uiname"),
        "group": one.getAttribute("uifolder"), "help": one.getAttribute("doc"), "unit": one.getAttribute("ft_unit"),
    }  # fmt: skip
    if size > 2:
        parameter["size"] = size
    if one.hasAttribute("ft_order"):
        parameter["order"] = int(one.getAttribute("ft_order"))
    limits = {"low": "uimin", "high": "uimax", "soft_low": "uisoftmin", "soft_high": "uisoftmax", "step": "uistep"}
    for key, attribute in limits.items():
        if one.hasAttribute(attribute):
            parameter[key] = float(one.getAttribute(attribute).split(",")[0])
    text = one.getValueString()
    if kind == "choice":
        options = one.getAttribute("ft_options")
        parameter["options"] = load_json(options, "the options") if options else one.getAttribute("enum").split(", ")
        parameter["default"] = parameter["options"][int(text)]
    elif kind == "switch":
        parameter["default"] = text == "true"
    else:
        parts = [float(part) for part in text.split(",")]
        parameter["default"] = parts if len(parts) > 1 else parts[0]
    return parameter


def _casts(document: mx.Document, definition: mx.NodeDef, master: Master) -> list[CastOf]:
    """What instances of the surface change, with the names of their materials."""
    category = definition.getNodeString().removesuffix("_sheet") + "_surface"
    casts = []
    for material in document.getMaterialNodes():
        given = material.getInput("surfaceshader")
        node = document.getNode(given.getNodeName()) if given is not None else None
        if node is None or node.getCategory() != category:
            continue
        changes, files = {}, {}
        for one in node.getInputs():
            if one.getName() in master.slots:
                files[one.getName()] = one.getValueString()
            elif one.getName() in master.parameters:
                changes[one.getName()] = _components(one, master)
        casts.append(CastOf(material.getAttribute("uiname") or material.getName(), changes, files))
    return casts


def _components(one: mx.Input, master: Master) -> tuple[float, ...]:
    kind, text = master.parameters[one.getName()].kind, one.getValueString()
    try:
        parts = (float(text == "true"),) if kind == "switch" else tuple(float(part) for part in text.split(","))
        document_value(master, one.getName(), parts)
    except (ValueError, IndexError):
        raise BadDocument(
            "{getNamePath}: {text!r} is no value for it", getNamePath=one.getNamePath(), text=text
        ) from None
    return parts
