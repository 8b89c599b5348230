"""Our operations in MaterialX: standard nodes where they mean the same, else nodes of our own made of standard ones.

A document brings the definitions that it uses with it, so that every reader of MaterialX 1.38 or newer can compute
them. Inside a sheet all values are float and vector2 to vector4; colours are vectors of linear light.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import MaterialX as mx

from texel.materials.defined import result_size, trees_of
from texel.materials.master import Slot
from texel.materials.operations import MAP, OPERATIONS, Operation, StandardNode
from texel.materials.operations.definition import Definition
from texel.materials.starts import STARTS, Start, flat_parts
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = [
    "ADDRESSING", "FILTERING", "FUNCTION", "PREFIX", "SIZES", "STANDARD", "TYPES", "Definitions", "Graph", "MapInput",
    "Value", "image_of", "number", "spec_of", "tree_value",
]  # fmt: skip

TYPES = {1: "float", 2: "vector2", 3: "vector3", 4: "vector4"}
SIZES = {name: size for size, name in TYPES.items()} | {"color3": 3, "color4": 4}
# Operations for which a standard node means exactly the same: the node, and its inputs in our order.
STANDARD: dict[str, tuple[str, tuple[str, ...]]] = {
    name: (one.nodes.category, one.nodes.inputs)
    for name, one in OPERATIONS.items()
    if isinstance(one.nodes, StandardNode)
}


def number(value: float) -> str:
    """A number with all its digits, so that it reads back as the same number.

    >>> number(0.1), number(2)
    ('0.1', '2')
    """
    short = f"{value:.9g}"
    return short if float(short) == value else repr(float(value))


class Value(NamedTuple):
    """What an input is given: the output of a node, an input of the definition around it, or numbers.

    kind: a type of MaterialX.
    """

    kind: str
    node: str = ""
    interface: str = ""
    text: str = ""

    @property
    def size(self) -> int:
        return SIZES[self.kind]

    @classmethod
    def of(cls, *parts: float) -> Value:
        return cls(TYPES[len(parts)], text=", ".join(number(part) for part in parts))


class MapInput(NamedTuple):
    """A slot's map, as operations that read one take it. file: a filename; default: what is read without a map.

    spec: how it is decoded, and what its bare name is: see ``spec_of``.
    """

    file: Value
    default: Value
    spec: str

    @property
    def size(self) -> int:
        return int(self.spec[-1])


class Graph:
    """Adds nodes to a graph (or to a document), each with a name of its own."""

    def __init__(self, holder: mx.GraphElement, definitions: Definitions):
        self.holder, self.definitions = holder, definitions
        self._count = 0
        self._starts: dict[str, Value] = {}

    def add(self, category: str, kind: str, name: str = "", /, **inputs: Value) -> Value:
        if not name:
            self._count += 1
            name = f"step_{self._count}"
        node = self.holder.addNode(category, name, kind)
        for key, value in inputs.items():
            given = node.addInput(key, value.kind)
            if value.node:
                given.setNodeName(value.node)
            elif value.interface:
                given.setInterfaceName(value.interface)
            else:
                given.setValueString(value.text)
        return Value(kind, node=name)

    def constant(self, *parts: float) -> Value:
        return Value.of(*parts)

    def own(self, operation: str | Operation, size: int, *arguments: Value | MapInput) -> Value:
        """One of our own nodes, or of a sheet's functions."""
        sizes = tuple(one.spec if isinstance(one, MapInput) else one.size for one in arguments)
        category, names = self.definitions.require(operation, size, sizes)
        inputs: dict[str, Value] = {}
        for name, one in zip(names, arguments, strict=True):
            inputs |= {name: one.file, f"{name}_default": one.default} if isinstance(one, MapInput) else {name: one}
        return self.add(category, TYPES[size], **inputs)

    def start(self, name: str) -> Value:
        """Where the surface is; MaterialX has no node for some of it, which is a number then."""
        one = STARTS[name]
        kind = TYPES[one.size]
        if name not in self._starts:
            self._starts[name] = self._start(one, kind)
        return self._starts[name]

    def _start(self, one: Start, kind: str) -> Value:
        if one.size == 2:
            index = Value("integer", text=str(int(one.name == "uv1")))
            raw = self.add("texcoord", "vector2", f"at_{one.name}_up", index=index)
            return self.own("flip", 2, raw)
        if one.name == "vertex":
            raw = self.add("geomcolor", "color4", "vertex_color")
            return self.add("convert", "vector4", "at_vertex", **{"in": raw})
        if not one.node:
            parts = [float(part) for part in flat_parts(one.name)]
            return self.add("constant", kind, f"at_{one.name}", value=Value.of(*parts))
        words = {key: Value("string", text=text) for key, text in one.inputs}
        if not one.negative:
            return self.add(one.node, kind, f"at_{one.name}", **words)
        raw = self.add(one.node, kind, f"at_{one.name}_raw", **words)
        turned = {"in1": raw, "in2": Value("float", text="-1")}
        return self.add("multiply", kind, f"at_{one.name}", **turned)

    def part(self, value: Value, index: int) -> Value:
        if value.size == 1:
            return value
        given = Value("integer", text=str(index))
        return self.add("extract", "float", **{"in": value, "index": given})

    def joined(self, *parts: Value, kind: str = "") -> Value:
        if len(parts) == 1:
            return parts[0]
        inputs = {f"in{at}": one for at, one in enumerate(parts, 1)}
        return self.add(f"combine{len(parts)}", kind or TYPES[len(parts)], **inputs)

    def wide(self, value: Value, size: int) -> Value:
        """A number as a vector of equal components."""
        if value.size == size:
            return value
        if value.text:
            return Value(TYPES[size], text=", ".join([value.text] * size))
        return self.add("convert", TYPES[size], **{"in": value})

    def standard(self, operation: str, *arguments: Value) -> Value:
        category, names = STANDARD[operation]
        size = max(one.size for one in arguments)
        wide = [self.wide(one, size) for one in arguments]
        return self.add(category, TYPES[size], **dict(zip(names, wide, strict=True)))

    def greater(self, value: Value, limit: Value, yes: Value, no: Value) -> Value:
        return self.add("ifgreater", yes.kind, value1=value, value2=limit, in1=yes, in2=no)

    def equal(self, value: Value, to: Value, yes: Value, no: Value) -> Value:
        return self.add("ifequal", yes.kind, value1=value, value2=to, in1=yes, in2=no)


Body = Callable[..., Value]
# Our words for what lies beyond a picture and between its texels, in MaterialX's.
ADDRESSING = {"repeat": "periodic", "clamp": "clamp", "mirror": "mirror"}
FILTERING = {"linear": "linear", "nearest": "closest"}


def spec_of(slot: Slot) -> str:
    """How a slot's map is decoded and how many components its bare name has, as a part of a node's name.

    The first word is "srgb" or "linear", the second "up" or "down" for a normal map; then how it is wrapped and
    filtered.
    """
    green = slot.green.value if slot.is_normal else "plain"
    return f"{slot.colour_space.value}_{green}_{slot.wrap}_{slot.filter}_{slot.size}"


def tree_value(graph: Graph, node: Node, known: Callable[[str, bool], Value], maps: Callable[[str], MapInput]) -> Value:
    """A tree as nodes. known: the value of a name, or all four channels of a slot; maps: a slot by its name."""
    if isinstance(node, Constant):
        return Value.of(node.value)
    if isinstance(node, Name):
        return known(node.name, False)
    if isinstance(node, Swizzle):
        if isinstance(node.of, Name):
            inner = known(node.of.name, True)
        elif isinstance(node.of, Call) and node.of.operation == "read":
            inner = _read_tree(graph, node.of, known, maps, whole=True)
        else:
            inner = tree_value(graph, node.of, known, maps)
        return graph.own(f"take_{node.letters}", len(node.letters), inner)
    if node.operation == "read":
        return _read_tree(graph, node, known, maps, whole=False)
    operation = node.called
    given = [
        maps(one.name) if at in operation.maps and isinstance(one, Name) else tree_value(graph, one, known, maps)
        for at, one in enumerate(node.arguments)
    ]
    sizes = operation.fitted([MAP if isinstance(one, MapInput) else one.size for one in given])
    wide = [one if isinstance(one, MapInput) else graph.wide(one, size) for one, size in zip(given, sizes, strict=True)]
    size = result_size(operation, sizes, [one.size for one in wide if isinstance(one, MapInput)])
    if node.operation == "divide" and isinstance(node.arguments[1], Constant) and node.arguments[1].value:
        # Never by zero: the standard node means the same.
        value, by = (one for one in wide if isinstance(one, Value))
        return graph.add("divide", value.kind, in1=value, in2=by)
    if isinstance(operation.nodes, StandardNode):
        return graph.standard(node.operation, *(one for one in wide if isinstance(one, Value)))
    return graph.own(node.function or node.operation, size, *wide)


def _read_tree(
    graph: Graph, node: Call, known: Callable[[str, bool], Value], maps: Callable[[str], MapInput], whole: bool
) -> Value:
    where, named = node.arguments
    assert isinstance(named, Name)
    one = maps(named.name)
    at = graph.wide(tree_value(graph, where, known, maps), 2)
    return graph.own("read_all" if whole else "read", 4 if whole else one.size, at, one)


def _of_definition(definition: Definition) -> Body:
    """The body of a node from the rows of an operation's definition."""

    def body(graph: Graph, *values: Value | MapInput) -> Value:
        names: dict[str, Value | MapInput] = dict(zip(definition.arguments, values, strict=True))

        def known(name: str, whole: bool) -> Value:
            given = names.get(name)
            return given if isinstance(given, Value) else graph.start(name)

        def maps(name: str) -> MapInput:
            given = names[name]
            assert isinstance(given, MapInput)
            return given

        made = Value.of(0)
        for name, tree in trees_of(definition):
            names[name] = made = tree_value(graph, tree, known, maps)
        # A definition gives what a node of its own makes, never its input as it came.
        return made if made.node else graph.add("dot", made.kind, **{"in": made})

    return body


def _read(whole: bool) -> Body:
    def body(graph: Graph, where: Value, one: MapInput) -> Value:
        texel = image_of(graph, one.file, one.default, graph.own("flip", 2, where), one.spec)
        space, green, *_ = one.spec.split("_")
        if space == "srgb":
            texel = graph.own("decode_srgb", 4, texel)
        if green != "plain":
            texel = graph.own("unpack_normal", 4, texel, Value.of(-1 if green == "down" else 1), Value.of(0))
        return texel if whole or one.size == 4 else graph.own(f"take_{'rgb'[: one.size]}", one.size, texel)

    return body


def image_of(graph: Graph, file: Value, default: Value, place: Value, spec: str, name: str = "") -> Value:
    """A map as it is stored, at coordinates of MaterialX, v up. spec: as ``spec_of`` says."""
    _, _, wrap, kind, _ = spec.split("_")
    mode, between = Value("string", text=ADDRESSING[wrap]), Value("string", text=FILTERING[kind])
    return graph.add(
        "image", "vector4", name, file=file, default=default, texcoord=place, uaddressmode=mode, vaddressmode=mode,
        filtertype=between,
    )  # fmt: skip


def _take(letters: str) -> Body:
    def body(g: Graph, value: Value) -> Value:
        taken = g.joined(*(g.part(value, "rgba".index(letter)) for letter in letters))
        # A definition gives what a node of its own makes, never its input as it came.
        return taken if taken.node else g.add("dot", taken.kind, **{"in": taken})

    return body


def _turn(g: Graph, x: Value, y: Value, degrees: Value) -> tuple[Value, Value]:
    angle = g.standard("multiply", degrees, Value.of(math.pi / 180))
    cos, sin = (g.add(name, "float", **{"in": angle}) for name in ("cos", "sin"))
    left = g.standard("subtract", g.standard("multiply", cos, x), g.standard("multiply", sin, y))
    return left, g.standard("add", g.standard("multiply", sin, x), g.standard("multiply", cos, y))


def _flip(g: Graph, uv: Value) -> Value:
    """v runs down in a sheet, as in glTF; up in MaterialX."""
    return g.joined(g.part(uv, 0), g.standard("invert", g.part(uv, 1)))


def _place(g: Graph, uv: Value, tiling: Value, offset: Value, degrees: Value) -> Value:
    """Scaled, turned, moved (see texel.materials.sampling), with v down; the result for an image, with v up."""
    scaled = g.standard("multiply", uv, tiling)
    x, y = _turn(g, g.part(scaled, 0), g.part(scaled, 1), degrees)
    moved = g.standard("add", g.joined(x, y), offset)
    return _flip(g, moved)


def _unpack_normal(g: Graph, texel: Value, green: Value, degrees: Value) -> Value:
    """A vector of -1 to 1 in Y+ and alpha, from a normal map's texel. green: 1 where green points up, -1 down."""
    x, y, z = (
        g.standard("subtract", g.standard("multiply", g.part(texel, at), Value.of(2)), Value.of(1)) for at in range(3)
    )
    turned = _turn(g, x, g.standard("multiply", y, green), degrees)
    return g.joined(*turned, z, g.part(texel, 3))


def _decode_one(g: Graph, x: Value) -> Value:
    """The curve of sRGB (IEC 61966-2-1)."""
    base = g.standard("multiply", g.standard("add", x, Value.of(0.055)), Value.of(1 / 1.055))
    curve = g.add("power", "float", in1=g.standard("maximum", base, Value.of(0)), in2=Value.of(2.4))
    return g.greater(x, Value.of(0.04045), curve, g.standard("multiply", x, Value.of(1 / 12.92)))


def _decode_srgb(g: Graph, texel: Value) -> Value:
    """Linear light from a texel that is stored in sRGB; alpha stays as it is."""
    return g.joined(*(_decode_one(g, g.part(texel, at)) for at in range(3)), g.part(texel, 3))


@dataclass(frozen=True)
class _Own:
    inputs: tuple[str, ...]
    body: Body
    help: str


_OWN: dict[str, _Own] = {
    "read": _Own(("value", "map"), _read(False), "A slot's map at any coordinates, v down."),
    "read_all": _Own(("value", "map"), _read(True), "All channels of a slot's map at any coordinates, v down."),
    "flip": _Own(("uv",), _flip, "Coordinates with v the other way."),
    "place": _Own(("uv", "tiling", "offset", "degrees"), _place, "Scaled, turned and moved, v down; then v up."),
    "decode_srgb": _Own(("texel",), _decode_srgb, "Linear light from a texel in sRGB (IEC 61966-2-1)."),
    "unpack_normal": _Own(("texel", "green", "degrees"), _unpack_normal, "A normal map's texel as vector in Y+."),
}
PREFIX = "ft_"
# Behind it, in names of nodes, a sheet's function.
FUNCTION = "function_"


class Definitions:
    """The own nodes that a document uses, each defined once, by its standard nodes."""

    def __init__(self, document: mx.Document):
        self._document = document
        self._made: set[str] = set()
        self._functions: dict[str, list[Operation]] = {}

    def require(self, operation: str | Operation, size: int, sizes: tuple[int | str, ...]) -> tuple[str, list[str]]:
        """The category of an operation's node and the names of its inputs; defined when it is not yet.

        operation: of texel.materials.operations, or "take_" and letters, or one of ours, or a sheet's function. size:
        of the result. sizes: of the arguments; of a map how it is decoded (``spec_of``).
        """
        own = self._own(operation, tuple(MAP if isinstance(one, str) else one for one in sizes))
        kind = operation if isinstance(operation, str) else self._function(operation)
        names = list(own.inputs)
        names = names[: len(sizes)] + [f"{names[-1]}{at}" for at in range(2, len(sizes) - len(names) + 2)]
        specs = "".join(f"_{one}" for one in sizes if isinstance(one, str))
        category = PREFIX + kind + specs
        numbers = "".join(str(one) for one in sizes if isinstance(one, int))
        signature = f"{category}_{numbers}_{TYPES[size]}"
        if signature not in self._made:
            self._made.add(signature)
            self._define(own, category, signature, size, list(zip(names, sizes, strict=True)))
        return category, names

    def _function(self, function: Operation) -> str:
        """The word for a function in names; a number behind it where functions within others have the same name."""
        same = self._functions.setdefault(function.name, [])
        if function not in same:
            same.append(function)
        at = same.index(function)
        return f"{FUNCTION}{function.name}" + (f"_again{at}" if at else "")

    def _own(self, operation: str | Operation, sizes: tuple[int, ...]) -> _Own:
        if isinstance(operation, str):
            if operation.startswith("take_"):
                return _Own(("value",), _take(operation.removeprefix("take_")), "Channels.")
            if operation in _OWN:
                return _OWN[operation]
        one = OPERATIONS[operation] if isinstance(operation, str) else operation
        if one.definition is not None:
            definition = one.definition(sizes)
            return _Own(definition.arguments, _of_definition(definition), one.help)
        assert one.nodes is not None
        assert not isinstance(one.nodes, StandardNode)
        return _Own(one.arguments, one.nodes, one.help)

    def _define(self, own: _Own, category: str, signature: str, size: int, inputs: list[tuple[str, int | str]]) -> None:
        definition = self._document.addNodeDef(f"ND_{signature}", TYPES[size], category)
        definition.setDocString(own.help)
        given: list[Value | MapInput] = []
        for name, one in inputs:
            if isinstance(one, str):
                definition.addInput(name, "filename").setAttribute("uniform", "true")
                definition.addInput(f"{name}_default", "vector4").setValueString("0, 0, 0, 0")
                file = Value("filename", interface=name)
                given.append(MapInput(file, Value("vector4", interface=f"{name}_default"), one))
            else:
                definition.addInput(name, TYPES[one]).setValueString(", ".join(["0"] * one))
                given.append(Value(TYPES[one], interface=name))
        body = self._document.addNodeGraph(f"NG_{signature}")
        body.setNodeDefString(definition.getName())
        graph = Graph(body, self)
        made = own.body(graph, *given)
        body.addOutput("out", TYPES[size]).setNodeName(made.node)
