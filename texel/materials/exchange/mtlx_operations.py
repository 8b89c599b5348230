"""Nodes that MaterialX defines by code, said in the operations of a sheet.

Meanings from the MaterialX specification 1.39; where it leaves a case open, x / 0 for instance, the sheet's holds.
"""

from __future__ import annotations

import math

import MaterialX as mx

from texel.colour import LUMINANCE
from texel.materials.exchange.mtlx_blends import BLENDS
from texel.materials.exchange.mtlx_nodes import SIZES
from texel.materials.exchange.mtlx_words import (
    TELLING,
    Sizes,
    Translation,
    Unsaid,
    Values,
    do,
    is_more,
    joined,
    parts_of,
    plain,
)
from texel.materials.simplify import component, constants_of
from texel.materials.tree import Constant, Node

__all__ = ["TRANSLATED", "Unsaid"]


def _sum(parts: list[Node]) -> Node:
    total = parts[0]
    for part in parts[1:]:
        total = do("add", total, part)
    return total


def _floor(value: Node) -> Node:
    return do("subtract", value, do("fraction", value))


def _wave(quarter: float) -> Translation:
    def made(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
        turns = do("multiply", of("in"), Constant(round(1 / (2 * math.pi), 9)))
        return do("sine", do("add", turns, Constant(quarter)))

    return made


def _invert(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    amount = of("amount")
    return do("invert", of("in")) if amount == Constant(1.0) else do("subtract", amount, of("in"))


def _remap(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    share = do("divide", do("subtract", of("in"), of("inlow")), do("subtract", of("inhigh"), of("inlow")))
    return do("add", do("multiply", share, do("subtract", of("outhigh"), of("outlow"))), of("outlow"))


def _luminance(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    weights = constants_of(of("lumacoeffs")) or tuple(LUMINANCE)
    if all(abs(a - b) < 1e-3 for a, b in zip(weights, LUMINANCE, strict=False)):
        return do("luminance", of("in"))
    parts = parts_of(of("in"), 3)
    return _sum([do("multiply", part, Constant(weight)) for part, weight in zip(parts, weights, strict=False)])


def _convert(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    given, wanted, value = size("in"), SIZES.get(node.getType(), 1), of("in")
    if given == wanted or (given == 1 and wanted < 4):
        return value
    if given == 1:
        return joined([value] * 4)
    if given > wanted:
        return component(value, "rgba"[:wanted])
    # Blue of what had none is 0, alpha of what had none full (MaterialX's graphs of its convert nodes).
    more = [Constant(0.0), Constant(1.0)][given - 2 : wanted - 2]
    return joined([*parts_of(value, given), *more])


def _combine(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    parts = []
    for name in ("in1", "in2", "in3", "in4")[: int(node.getCategory()[-1])]:
        parts += parts_of(of(name), size(name)) if size(name) > 1 else [of(name)]
    return joined(parts)


def _extract(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    index = constants_of(of("index"))
    if index is None:
        raise Unsaid("the channel that it takes is not fixed")
    if not 0 <= index[0] < size("in"):
        raise Unsaid(f"there is no channel {index[0]:g} in a value of {size('in')}")
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
    return joined(parts)


def _dot(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    pairs = zip(parts_of(of("in1"), size("in1")), parts_of(of("in2"), size("in2")), strict=True)
    return _sum([do("multiply", a, b) for a, b in pairs])


def _magnitude(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    return do("root", _sum([do("multiply", part, part) for part in parts_of(of("in"), size("in"))]))


def _normalize(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    if size("in") != 3:
        raise Unsaid("only vectors of three can be normalised")
    return do("normalise", of("in"))


def _modulo(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    return do("multiply", of("in2"), do("fraction", do("divide", of("in1"), of("in2"))))


def _sign(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    value = do("multiply", of("in"), Constant(TELLING))
    return do("clamp", value, Constant(-1.0), Constant(1.0))


def _greater(a: str, b: str, yes: str, no: str) -> Translation:
    def made(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
        return do("choose", of(yes), is_more(of(a), of(b)), of(no))

    return made


def _equal(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    apart = do("multiply", do("absolute", do("subtract", of("value1"), of("value2"))), Constant(TELLING))
    return do("choose", of("in2"), do("add", apart, Constant(0.5)), of("in1"))


def _switch(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    count = max((int(one.getName()[2:]) for one in node.getInputs() if one.getName()[2:].isdigit()), default=1)
    first, *others = [of(f"in{at}") for at in range(1, count + 1)]
    return do("pick", first, of("which"), *others) if others else first


def _rotate(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    """Clockwise, in degrees, as MaterialX's code has it."""
    degrees = constants_of(of("amount"))
    if degrees is None:
        raise Unsaid("its angle is not fixed")
    cos, sin = math.cos(math.radians(degrees[0])), math.sin(math.radians(degrees[0]))
    x, y = parts_of(of("in"), 2)

    def weighed(a: float, b: float) -> Node:
        return do("add", do("multiply", x, Constant(round(a, 9))), do("multiply", y, Constant(round(b, 9))))

    return do("vector", weighed(cos, sin), weighed(-sin, cos))


TRANSLATED: dict[str, Translation] = {
    **BLENDS,
    "constant": lambda of, size, node, output: of("value"),
    "dot": lambda of, size, node, output: of("in"),
    "add": plain("add", "in1", "in2"),
    "subtract": plain("subtract", "in1", "in2"),
    "multiply": plain("multiply", "in1", "in2"),
    "divide": plain("divide", "in1", "in2"),
    "modulo": _modulo,
    "invert": _invert,
    "mix": plain("mix", "bg", "fg", "mix"),
    "clamp": plain("clamp", "in", "low", "high"),
    "min": plain("minimum", "in1", "in2"),
    "max": plain("maximum", "in1", "in2"),
    "absval": plain("absolute", "in"),
    "power": plain("power", "in1", "in2"),
    "sqrt": plain("root", "in"),
    "fract": plain("fraction", "in"),
    "floor": lambda of, size, node, output: _floor(of("in")),
    "ceil": lambda of, size, node, output: do("negate", _floor(do("negate", of("in")))),
    "round": lambda of, size, node, output: _floor(do("add", of("in"), Constant(0.5))),
    "sign": _sign,
    "sin": _wave(0.0),
    "cos": _wave(0.25),
    "smoothstep": plain("smoothstep", "in", "low", "high"),
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
