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

__all__ = ["PREFIX", "SIZES", "STANDARD", "TYPES", "Definitions", "Graph", "Value", "number"]

TYPES = {1: "float", 2: "vector2", 3: "vector3", 4: "vector4"}
SIZES = {name: size for size, name in TYPES.items()} | {"color3": 3, "color4": 4}
# Operations for which a standard node means exactly the same: the node, and its inputs in our order.
STANDARD: dict[str, tuple[str, tuple[str, ...]]] = {
    "multiply": ("multiply", ("in1", "in2")),
    "add": ("add", ("in1", "in2")),
    "subtract": ("subtract", ("in1", "in2")),
    "invert": ("invert", ("in",)),
    "mix": ("mix", ("bg", "fg", "mix")),
    "clamp": ("clamp", ("in", "low", "high")),
    "minimum": ("min", ("in1", "in2")),
    "maximum": ("max", ("in1", "in2")),
    "absolute": ("absval", ("in",)),
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


class Graph:
    """Adds nodes to a graph (or to a document), each with a name of its own."""

    def __init__(self, holder: mx.GraphElement, definitions: Definitions):
        self.holder, self.definitions = holder, definitions
        self._count = 0

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

    def own(self, operation: str, size: int, *arguments: Value) -> Value:
        """One of our own nodes."""
        category, names = self.definitions.require(operation, size, tuple(one.size for one in arguments))
        return self.add(category, TYPES[size], **dict(zip(names, arguments, strict=True)))

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


def _parts(body: Body) -> Body:
    """A body for numbers, for vectors component by component."""

    def each(graph: Graph, *arguments: Value) -> Value:
        size = max(one.size for one in arguments)
        return graph.joined(*(body(graph, *(graph.part(one, at) for one in arguments)) for at in range(size)))

    return each


def _divide(g: Graph, a: Value, b: Value) -> Value:
    by = g.equal(b, Value.of(0), Value.of(1), b)
    return g.equal(b, Value.of(0), Value.of(0), g.add("divide", "float", in1=a, in2=by))


def _power(g: Graph, x: Value, e: Value) -> Value:
    made = g.add("power", "float", in1=g.standard("maximum", x, Value.of(1e-30)), in2=e)
    return g.greater(x, Value.of(0), made, g.equal(e, Value.of(0), Value.of(1), Value.of(0)))


def _levels(g: Graph, x: Value, black: Value, white: Value) -> Value:
    span = g.standard("subtract", white, black)
    share = g.own("divide", x.size, g.standard("subtract", x, black), span)
    zero, one = (g.wide(Value.of(n), x.size) for n in (0, 1))
    return g.standard("clamp", share, zero, one)


def _smoothstep(g: Graph, x: Value, low: Value, high: Value) -> Value:
    t = g.own("levels", x.size, x, low, high)
    inner = g.standard("subtract", Value.of(3), g.standard("multiply", t, Value.of(2)))
    return g.standard("multiply", g.standard("multiply", t, t), inner)


def _negate(g: Graph, x: Value) -> Value:
    return g.standard("multiply", x, Value.of(-1))


def _root(g: Graph, x: Value) -> Value:
    return g.add("sqrt", x.kind, **{"in": g.standard("maximum", x, Value.of(0))})


def _fraction(g: Graph, x: Value) -> Value:
    return g.standard("subtract", x, g.add("floor", x.kind, **{"in": x}))


def _sine(g: Graph, x: Value) -> Value:
    return g.add("sin", x.kind, **{"in": g.standard("multiply", x, Value.of(2 * math.pi))})


def _dot(g: Graph, a: Value, b: Value) -> Value:
    return g.add("dotproduct", "float", in1=a, in2=b)


def _tint(g: Graph, c: Value, colour: Value, amount: Value) -> Value:
    return g.standard("mix", c, g.standard("multiply", c, colour), amount)


def _luminance(g: Graph, c: Value) -> Value:
    return _dot(g, c, Value.of(0.2126, 0.7152, 0.0722))


def _saturate(g: Graph, c: Value, amount: Value) -> Value:
    return g.standard("mix", g.wide(g.own("luminance", 1, c), 3), c, amount)


def _occlude(g: Graph, c: Value, occlusion: Value, strength: Value) -> Value:
    return g.standard("multiply", c, g.standard("mix", Value.of(1), occlusion, strength))


def _normalise(g: Graph, v: Value) -> Value:
    length = g.add("magnitude", "float", **{"in": v})
    by = g.standard("maximum", length, Value.of(1e-6))
    unit = g.add("divide", "vector3", in1=v, in2=g.wide(by, 3))
    return g.greater(length, Value.of(1e-6), unit, Value.of(0, 0, 1))


def _strengthen(g: Graph, n: Value, strength: Value) -> Value:
    x, y = (g.standard("multiply", g.part(n, at), strength) for at in (0, 1))
    return g.own("normalise", 3, g.joined(x, y, g.part(n, 2)))


def _combine_normals(g: Graph, base: Value, detail: Value) -> Value:
    t = g.standard("add", g.own("normalise", 3, base), Value.of(0, 0, 1))
    u = g.standard("multiply", g.own("normalise", 3, detail), Value.of(-1, -1, 1))
    z = g.standard("maximum", g.part(t, 2), Value.of(1e-6))
    along = g.add("divide", "float", in1=_dot(g, t, u), in2=z)
    return g.own("normalise", 3, g.standard("subtract", g.standard("multiply", t, along), u))


def _choose(g: Graph, value: Value, switch: Value, otherwise: Value) -> Value:
    return g.greater(switch, Value.of(0.5), value, otherwise)


def _pick(g: Graph, value: Value, choice: Value, *others: Value) -> Value:
    picked = value
    for at, other in enumerate(others, 1):
        picked = g.greater(choice, Value.of(at - 0.5), other, picked)
    return picked


def _vector(g: Graph, *values: Value) -> Value:
    return g.joined(*(g.part(one, at) for one in values for at in range(one.size)))


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
    "divide": _Own(("value", "by"), _parts(_divide), "A quotient; 0 where the divisor is 0."),
    "power": _Own(("value", "exponent"), _parts(_power), "0 for values of 0 or less, but 1 where the exponent is 0."),
    "levels": _Own(("value", "black", "white"), _levels, "0 at black, 1 at white, nothing beyond."),
    "smoothstep": _Own(("value", "low", "high"), _smoothstep, "t t (3 - 2 t) of the levels."),
    "negate": _Own(("value",), _negate, "The value with the other sign."),
    "root": _Own(("value",), _root, "Square root; 0 for values below 0."),
    "fraction": _Own(("value",), _fraction, "The value less the next lower whole number."),
    "sine": _Own(("value",), _sine, "Sine of whole turns."),
    "tint": _Own(("value", "colour", "amount"), _tint, "Times a colour, by an amount."),
    "saturate": _Own(("value", "amount"), _saturate, "0 is grey, 1 leaves it as it is."),
    "luminance": _Own(("value",), _luminance, "Luminance of Rec. ITU-R BT.709."),
    "occlude": _Own(("value", "occlusion", "strength"), _occlude, "Darker where occlusion is below 1."),
    "strengthen": _Own(("value", "strength"), _strengthen, "A normal's slopes times the strength."),
    "combine_normals": _Own(("value", "detail"), _combine_normals, "Reoriented (Barre-Brisebois and Hill 2012)."),
    "normalise": _Own(("value",), _normalise, "Of unit length; a vector of length 0 becomes 0, 0, 1."),
    "choose": _Own(("value", "switch", "otherwise"), _choose, "The value while the switch is on."),
    "pick": _Own(("value", "choice", "other"), _pick, "The value for choice 0, the others for the next."),
    "vector": _Own(("value", "and"), _vector, "Numbers as one value."),
    "rgb": _Own(("value", "green", "blue"), _vector, "A colour in linear light."),
    "flip": _Own(("uv",), _flip, "Coordinates with v the other way."),
    "place": _Own(("uv", "tiling", "offset", "degrees"), _place, "Scaled, turned and moved, v down; then v up."),
    "decode_srgb": _Own(("texel",), _decode_srgb, "Linear light from a texel in sRGB (IEC 61966-2-1)."),
    "unpack_normal": _Own(("texel", "green", "degrees"), _unpack_normal, "A normal map's texel as vector in Y+."),
}
PREFIX = "ft_"


class Definitions:
    """The own nodes that a document uses, each defined once, by its standard nodes."""

    def __init__(self, document: mx.Document):
        self._document = document
        self._made: set[str] = set()

    def require(self, operation: str, size: int, sizes: tuple[int, ...]) -> tuple[str, list[str]]:
        """The category of an operation's node and the names of its inputs; defined when it is not yet.

        operation: of texel.materials.operations, or "take_" and letters. size: of the result. sizes: of the arguments.
        """
        letters = operation.removeprefix("take_")
        own = _Own(("value",), _take(letters), "Channels.") if letters != operation else _OWN[operation]
        names = list(own.inputs)
        names = names[: len(sizes)] + [f"{names[-1]}{at}" for at in range(2, len(sizes) - len(names) + 2)]
        category = PREFIX + operation
        signature = f"{category}_{''.join(map(str, sizes))}_{TYPES[size]}"
        if signature not in self._made:
            self._made.add(signature)
            self._define(own, category, signature, size, list(zip(names, sizes, strict=True)))
        return category, names

    def _define(self, own: _Own, category: str, signature: str, size: int, inputs: list[tuple[str, int]]) -> None:
        definition = self._document.addNodeDef(f"ND_{signature}", TYPES[size], category)
        definition.setDocString(own.help)
        for name, one in inputs:
            definition.addInput(name, TYPES[one]).setValueString(", ".join(["0"] * one))
        body = self._document.addNodeGraph(f"NG_{signature}")
        body.setNodeDefString(definition.getName())
        graph = Graph(body, self)
        made = own.body(graph, *(Value(TYPES[one], interface=name) for name, one in inputs))
        body.addOutput("out", TYPES[size]).setNodeName(made.node)
