"""Nodes that MaterialX defines by code, said in the operations of a sheet.

Meanings from the MaterialX specification 1.39; where it leaves a case open, x / 0 for instance, the sheet's holds.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import MaterialX as mx

from texel.colour import LUMINANCE
from texel.materials.exchange.mtlx_nodes import SIZES
from texel.materials.simplify import component, constants_of, simplified
from texel.materials.tree import Constant, Node, call

__all__ = ["TRANSLATED", "Unsaid"]

Values = Callable[[str], Node]
Sizes = Callable[[str], int]
Translation = Callable[[Values, Sizes, mx.Node, str], Node]
# A difference of 32-bit numbers near 1, made large enough to decide a switch.
_TELLING = 1e6


class Unsaid(Exception):
    """A node that a sheet cannot say; the message says why."""


def _do(operation: str, *arguments: Node) -> Node:
    return simplified(call(operation, *arguments))


def _parts(node: Node, size: int) -> list[Node]:
    return [node] if size == 1 else [component(node, letter) for letter in "rgba"[:size]]


def _joined(parts: list[Node]) -> Node:
    return parts[0] if len(parts) == 1 else _do("rgb" if len(parts) == 3 else "vector", *parts)


def _plain(operation: str, *inputs: str) -> Translation:
    return lambda of, size, node, output: _do(operation, *(of(name) for name in inputs))


def _sum(parts: list[Node]) -> Node:
    found = parts[0]
    for part in parts[1:]:
        found = _do("add", found, part)
    return found


def _floor(value: Node) -> Node:
    return _do("subtract", value, _do("fraction", value))


def _wave(quarter: float) -> Translation:
    def made(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
        turns = _do("multiply", of("in"), Constant(round(1 / (2 * math.pi), 9)))
        return _do("sine", _do("add", turns, Constant(quarter)))

    return made


def _invert(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    amount = of("amount")
    return _do("invert", of("in")) if amount == Constant(1.0) else _do("subtract", amount, of("in"))


def _remap(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    share = _do("divide", _do("subtract", of("in"), of("inlow")), _do("subtract", of("inhigh"), of("inlow")))
    return _do("add", _do("multiply", share, _do("subtract", of("outhigh"), of("outlow"))), of("outlow"))


def _luminance(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    weights = constants_of(of("lumacoeffs")) or tuple(LUMINANCE)
    if all(abs(a - b) < 1e-3 for a, b in zip(weights, LUMINANCE, strict=False)):
        return _do("luminance", of("in"))
    parts = _parts(of("in"), 3)
    return _sum([_do("multiply", part, Constant(weight)) for part, weight in zip(parts, weights, strict=False)])


def _convert(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    given, wanted, value = size("in"), SIZES.get(node.getType(), 1), of("in")
    if given == wanted or (given == 1 and wanted < 4):
        return value
    if given == 1 or (given == 3 and wanted == 4):
        # Alpha of what had none is full; a number as vector4 is four times the number.
        full = Constant(1.0) if node.getType() == "color4" or given == 3 else value
        return _joined([*(_parts(value, given) * 3)[:3], full])
    if given > wanted:
        return component(value, "rgba"[:wanted])
    raise Unsaid("it widens a value")


def _combine(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    parts = []
    for name in ("in1", "in2", "in3", "in4")[: int(node.getCategory()[-1])]:
        parts += _parts(of(name), size(name)) if size(name) > 1 else [of(name)]
    return _joined(parts)


def _extract(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    index = constants_of(of("index"))
    if index is None:
        raise Unsaid("the channel that it takes is not fixed")
    return component(of("in"), "rgba"[int(index[0])])


def _separate(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    letter = {"x": "r", "y": "g", "z": "b", "w": "a"}.get(output[-1:], output[-1:])
    if letter not in tuple("rgba"):
        raise Unsaid(f"it has no output {output}")
    return component(of("in"), letter)


def _swizzle(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    channels = node.getInput("channels")
    letters = channels.getValueString() if channels is not None else ""
    parts: list[Node] = []
    for letter in letters:
        plain = {"x": "r", "y": "g", "z": "b", "w": "a"}.get(letter, letter)
        if plain in ("0", "1"):
            parts.append(Constant(float(plain)))
        elif plain in tuple("rgba"):
            parts.append(component(of("in"), plain) if size("in") > 1 else of("in"))
        else:
            raise Unsaid(f"it takes the channels {letters}")
    if not parts:
        raise Unsaid("it takes no channels")
    return _joined(parts)


def _dot(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    pairs = zip(_parts(of("in1"), size("in1")), _parts(of("in2"), size("in2")), strict=True)
    return _sum([_do("multiply", a, b) for a, b in pairs])


def _magnitude(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    return _do("root", _sum([_do("multiply", part, part) for part in _parts(of("in"), size("in"))]))


def _normalize(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    if size("in") != 3:
        raise Unsaid("only vectors of three can be normalised")
    return _do("normalise", of("in"))


def _modulo(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    return _do("multiply", of("in2"), _do("fraction", _do("divide", of("in1"), of("in2"))))


def _sign(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    value = _do("multiply", of("in"), Constant(_TELLING))
    return _do("clamp", value, Constant(-1.0), Constant(1.0))


def _greater(a: str, b: str, yes: str, no: str) -> Translation:
    def made(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
        apart = _do("multiply", _do("subtract", of(a), of(b)), Constant(_TELLING))
        return _do("choose", of(yes), _do("add", apart, Constant(0.5)), of(no))

    return made


def _equal(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    apart = _do("multiply", _do("absolute", _do("subtract", of("value1"), of("value2"))), Constant(_TELLING))
    return _do("choose", of("in2"), _do("add", apart, Constant(0.5)), of("in1"))


def _switch(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    count = max((int(one.getName()[2:]) for one in node.getInputs() if one.getName()[2:].isdigit()), default=1)
    first, *others = [of(f"in{at}") for at in range(1, count + 1)]
    return _do("pick", first, of("which"), *others) if others else first


def _rotate(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    """Clockwise, in degrees, as MaterialX's code has it."""
    degrees = constants_of(of("amount"))
    if degrees is None:
        raise Unsaid("its angle is not fixed")
    cos, sin = math.cos(math.radians(degrees[0])), math.sin(math.radians(degrees[0]))
    x, y = _parts(of("in"), 2)

    def weighed(a: float, b: float) -> Node:
        return _do("add", _do("multiply", x, Constant(round(a, 9))), _do("multiply", y, Constant(round(b, 9))))

    return _do("vector", weighed(cos, sin), weighed(-sin, cos))


TRANSLATED: dict[str, Translation] = {
    "constant": lambda of, size, node, output: of("value"),
    "dot": lambda of, size, node, output: of("in"),
    "add": _plain("add", "in1", "in2"),
    "subtract": _plain("subtract", "in1", "in2"),
    "multiply": _plain("multiply", "in1", "in2"),
    "divide": _plain("divide", "in1", "in2"),
    "modulo": _modulo,
    "invert": _invert,
    "mix": _plain("mix", "bg", "fg", "mix"),
    "clamp": _plain("clamp", "in", "low", "high"),
    "min": _plain("minimum", "in1", "in2"),
    "max": _plain("maximum", "in1", "in2"),
    "absval": _plain("absolute", "in"),
    "power": _plain("power", "in1", "in2"),
    "sqrt": _plain("root", "in"),
    "fract": _plain("fraction", "in"),
    "floor": lambda of, size, node, output: _floor(of("in")),
    "ceil": lambda of, size, node, output: _do("negate", _floor(_do("negate", of("in")))),
    "round": lambda of, size, node, output: _floor(_do("add", of("in"), Constant(0.5))),
    "sign": _sign,
    "sin": _wave(0.0),
    "cos": _wave(0.25),
    "smoothstep": _plain("smoothstep", "in", "low", "high"),
    "remap": _remap,
    "luminance": _luminance,
    "convert": _convert,
    "combine2": _combine, "combine3": _combine, "combine4": _combine,
    "separate2": _separate, "separate3": _separate, "separate4": _separate,
    "extract": _extract,
    "swizzle": _swizzle,
    "dotproduct": _dot,
    "magnitude": _magnitude,
    "normalize": _normalize,
    "ifgreater": _greater("value1", "value2", "in1", "in2"),
    "ifgreatereq": _greater("value2", "value1", "in2", "in1"),
    "ifequal": _equal,
    "switch": _switch,
    "rotate2d": _rotate,
}  # fmt: skip
