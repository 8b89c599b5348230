"""MaterialX's nodes that put colours over each other, and that say colours otherwise, in the operations of a sheet.

Meanings from MaterialX's own code for these nodes (libraries/stdlib/genglsl, 1.39). A layer is ``fg``, what lies below
``bg``, and ``mix`` by how much of the result is taken in place of ``bg``.
"""

from __future__ import annotations

from collections.abc import Callable

import MaterialX as mx

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

__all__ = ["BLENDS"]

_ONE, _ZERO = Constant(1.0), Constant(0.0)
_EULER = 2.718281828459045
# What MaterialX takes for nothing in a divisor.
_NOTHING = 1e-6


def _mixed(of: Values, made: Node) -> Node:
    return do("mix", of("bg"), made, of("mix"))


def _blend(formula: Callable[[Node, Node], Node]) -> Translation:
    """formula: of fg and bg."""
    return lambda of, size, node, output: _mixed(of, formula(of("fg"), of("bg")))


def _by_part(formula: Callable[[Node, Node, Node], Node]) -> Translation:
    """Channel by channel. formula: of fg, bg and mix."""

    def made(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
        count = size("bg")
        pairs = zip(parts_of(of("fg"), count), parts_of(of("bg"), count), strict=True)
        return joined([formula(fg, bg, of("mix")) for fg, bg in pairs])

    return made


def _unless_nothing(divisor: Node, made: Node) -> Node:
    """0 where the divisor is nothing."""
    size = do("absolute", divisor)
    return do("choose", made, is_more(size, Constant(_NOTHING)), _ZERO)


def _burn(fg: Node, bg: Node, mix: Node) -> Node:
    return _unless_nothing(fg, do("mix", bg, do("invert", do("divide", do("invert", bg), fg)), mix))


def _dodge(fg: Node, bg: Node, mix: Node) -> Node:
    rest = do("invert", fg)
    return _unless_nothing(rest, do("mix", bg, do("divide", bg, rest), mix))


def _four(formula: Callable[[Node, Node, Node, Node], tuple[Node, Node]]) -> Translation:
    """formula: of both colours and both alphas, colour and alpha."""

    def made(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
        fg, bg = of("fg"), of("bg")
        colour, alpha = formula(component(fg, "rgb"), component(bg, "rgb"), component(fg, "a"), component(bg, "a"))
        return _mixed(of, joined([*parts_of(colour, 3), alpha]))

    return made


def _matte(fg: Node, bg: Node, a: Node, b: Node) -> tuple[Node, Node]:
    rest = do("invert", a)
    return do("add", do("multiply", fg, a), do("multiply", bg, rest)), do("add", a, do("multiply", b, rest))


def _disjoint(fg: Node, bg: Node, a: Node, b: Node) -> tuple[Node, Node]:
    both = do("add", a, b)
    share = do("divide", do("invert", a), b)
    beside = do(
        "choose", do("add", fg, do("multiply", bg, share)), is_more(do("absolute", b), Constant(_NOTHING)), _ZERO
    )
    return do("choose", beside, is_more(both, _ONE), do("add", fg, bg)), do("minimum", both, _ONE)


def _premultiplied(operation: str) -> Translation:
    def made(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
        alpha = component(of("in"), "a")
        return joined([*parts_of(do(operation, component(of("in"), "rgb"), alpha), 3), alpha])

    return made


def _ramp(first: str, last: str, letter: str, hard: bool) -> Translation:
    def made(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
        along = component(of("texcoord"), letter)
        share = do("clamp", along, _ZERO, _ONE)
        if hard:
            share = do("clamp", do("multiply", do("subtract", along, of("center")), Constant(TELLING)), _ZERO, _ONE)
        return do("mix", of(first), of(last), share)

    return made


def _to_rgb(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    """Hue, saturation and value as red, green and blue (Foley and van Dam), without its cases."""
    hue, saturation, value, *rest = parts_of(of("in"), size("in"))

    def channel(turn: float) -> Node:
        sixth = do("multiply", do("fraction", do("add", hue, Constant(turn / 6))), Constant(6.0))
        far = do("minimum", do("minimum", sixth, do("subtract", Constant(4.0), sixth)), _ONE)
        return do("subtract", value, do("multiply", do("multiply", value, saturation), do("maximum", far, _ZERO)))

    return joined([channel(5), channel(3), channel(1), *rest])


def _to_hsv(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    red, green, blue, *rest = parts_of(of("in"), size("in"))
    value = do("maximum", do("maximum", red, green), blue)
    span = do("subtract", value, do("minimum", do("minimum", red, green), blue))

    def turned(a: Node, b: Node, by: float) -> Node:
        return do("add", do("divide", do("subtract", a, b), span), Constant(by))

    below_blue = do("choose", turned(red, green, 4.0), is_more(blue, green), turned(blue, red, 2.0))
    is_red = is_more(do("maximum", green, blue), red)
    hue = do("choose", below_blue, is_red, turned(green, blue, 0.0))
    return joined([do("fraction", do("multiply", hue, Constant(1 / 6))), do("divide", span, value), value, *rest])


def _cross(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    a, b = parts_of(of("in1"), 3), parts_of(of("in2"), 3)

    def part(i: int, j: int) -> Node:
        return do("subtract", do("multiply", a[i], b[j]), do("multiply", a[j], b[i]))

    return joined([part(1, 2), part(2, 0), part(0, 1)])


def _fixed_text(node: mx.Node, name: str) -> str:
    """The value of an input that is no number: its own, that of a constant node, or the definition's. Raises Unsaid."""
    given = node.getInput(name)
    if given is None:
        definition = node.getNodeDef()
        given = definition.getActiveInput(name) if definition is not None else None
    elif given.getNodeName():
        source = node.getParent().getChild(given.getNodeName())
        is_constant = source is not None and source.isA(mx.Node) and source.getCategory() == "constant"
        given = source.getInput("value") if is_constant else None
    if given is None or not given.getValueString():
        raise Unsaid(f"its {name} is not fixed")
    text: str = given.getValueString()
    return text


def _matrix(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    """A vector times a fixed matrix, whose rows stand one after the other."""
    cells = [float(part) for part in _fixed_text(node, "mat").split(",")]
    count = size("in")
    side = 3 if len(cells) == 9 else 4
    if len(cells) != side * side or count not in (side, side - 1):
        raise Unsaid("its matrix and its vector do not fit together")
    vector = [*parts_of(of("in"), count), *[_ONE] * (side - count)]

    def row(at: int) -> Node:
        matrix: Node = _ZERO
        for column, part in enumerate(vector):
            matrix = do("add", matrix, do("multiply", part, Constant(cells[column * side + at])))
        return matrix

    return joined([row(at) for at in range(count)])


def _tan(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    turns = do("multiply", of("in"), Constant(round(0.15915494309189535, 9)))
    return do("divide", do("sine", turns), do("sine", do("add", turns, Constant(0.25))))


def _exp(of: Values, size: Sizes, node: mx.Node, output: str) -> Node:
    value = constants_of(of("in"))
    if value is not None and max(value) > 80:
        raise Unsaid("it is too large")
    return do("power", Constant(round(_EULER, 9)), of("in"))


BLENDS: dict[str, Translation] = {
    "plus": _blend(lambda fg, bg: do("add", bg, fg)),
    "minus": _blend(lambda fg, bg: do("subtract", bg, fg)),
    "difference": _blend(lambda fg, bg: do("absolute", do("subtract", bg, fg))),
    "screen": _blend(lambda fg, bg: do("invert", do("multiply", do("invert", fg), do("invert", bg)))),
    "burn": _by_part(_burn),
    "dodge": _by_part(_dodge),
    "in": _blend(lambda fg, bg: do("multiply", fg, component(bg, "a"))),
    "mask": _blend(lambda fg, bg: do("multiply", bg, component(fg, "a"))),
    "out": _blend(lambda fg, bg: do("multiply", fg, do("invert", component(bg, "a")))),
    "over": _blend(lambda fg, bg: do("add", fg, do("multiply", bg, do("invert", component(fg, "a"))))),
    "matte": _four(_matte),
    "disjointover": _four(_disjoint),
    "inside": plain("multiply", "in", "mask"),
    "outside": lambda of, size, node, output: do("multiply", of("in"), do("invert", of("mask"))),
    "premult": _premultiplied("multiply"),
    "unpremult": _premultiplied("divide"),
    "ramplr": _ramp("valuel", "valuer", "r", hard=False),
    "ramptb": _ramp("valueb", "valuet", "g", hard=False),
    "splitlr": _ramp("valuel", "valuer", "r", hard=True),
    "splittb": _ramp("valueb", "valuet", "g", hard=True),
    "hsvtorgb": _to_rgb,
    "rgbtohsv": _to_hsv,
    "crossproduct": _cross,
    "transformmatrix": _matrix,
    "tan": _tan,
    "exp": _exp,
    "and": lambda of, size, node, output: do("minimum", of("in1"), of("in2")),
    "or": lambda of, size, node, output: do("maximum", of("in1"), of("in2")),
    "not": plain("invert", "in"),
}
