"""Expressions: the text of a row and its tree, both ways. Nothing of it is ever run as Python.

Arithmetic as everywhere (+ - * / and brackets), channels by ``.rgb`` or ``.x``, operations by name:
``levels(mask.r, 0.2, worn)``. Only the grammar is Python's; ``ast.parse`` makes no code.
"""

from __future__ import annotations

import ast
import math
from collections.abc import Mapping
from dataclasses import replace

from texel.errors import BadExpression
from texel.materials.operations import OPERATIONS, Operation
from texel.materials.tree import Call, Constant, Name, Node, Span, Swizzle, call

__all__ = ["MAX_CHARACTERS", "number_text", "parse_expression", "text_of"]

MAX_CHARACTERS = 1000
MAX_PARTS = 250
MAX_DEPTH = 40
# Finite and far from where 32-bit floats end.
_LARGEST = 1e6
_BINARY = {ast.Add: "add", ast.Sub: "subtract", ast.Mult: "multiply", ast.Div: "divide"}
_LETTERS = {"x": "r", "y": "g", "z": "b", "w": "a"} | {letter: letter for letter in "rgba"}
_PRECEDENCE = {"add": 1, "subtract": 1, "multiply": 2, "divide": 2, "negate": 3}


def parse_expression(text: str, functions: Mapping[str, Operation] | None = None) -> Node:
    """The tree of an expression. functions: what the sheet itself calls by a name, see texel.materials.functions.

    Raises BadExpression with the place of what is wrong.

    >>> text_of(parse_expression("1-(pack.y)*2"))
    '1 - pack.g * 2'
    """
    if len(text) > MAX_CHARACTERS:
        raise BadExpression(
            "an expression has at most {max_characters} characters",
            MAX_CHARACTERS,
            len(text),
            max_characters=MAX_CHARACTERS,
        )
    foreign = next((at for at, letter in enumerate(text) if not (letter.isascii() and letter.isprintable())), None)
    if foreign is not None:
        raise BadExpression("{text!r} has no place in an expression", foreign, foreign + 1, text=text[foreign])
    if not text.strip():
        raise BadExpression("an expression is missing", 0, len(text))
    # Python's grammar takes spaces at the start for an indent.
    lead = len(text) - len(text.lstrip())
    try:
        parsed = ast.parse(text.strip(), mode="eval")
    except SyntaxError as error:
        # Where the text ends too soon there is no place but its end.
        at = lead + error.offset - 1 if error.offset else len(text.rstrip())
        raise BadExpression("something is missing or too much here", min(at, len(text)), len(text)) from None
    except (RecursionError, MemoryError, ValueError):
        raise BadExpression("too deeply nested", 0, len(text)) from None
    return _Reader(lead, functions or {}).read(parsed.body, 1)


class _Reader:
    """Reads what the whitelist knows, counting as it goes. lead: characters that were cut off before the text."""

    def __init__(self, lead: int, functions: Mapping[str, Operation]):
        self._lead, self._nodes, self._functions = lead, 0, functions

    def _span(self, node: ast.expr) -> Span:
        return Span(self._lead + node.col_offset, self._lead + (node.end_col_offset or node.col_offset + 1))

    def _wrong(self, node: ast.expr, sentence: str, **values: object) -> BadExpression:
        return BadExpression(sentence, *self._span(node), **values)

    def read(self, node: ast.expr, depth: int) -> Node:
        self._nodes += 1
        if self._nodes > MAX_PARTS:
            raise self._wrong(
                node, "more than {max_parts} parts; name some of it as a row of its own", max_parts=MAX_PARTS
            )
        if depth > MAX_DEPTH:
            raise self._wrong(node, "too deeply nested; name some of it as a row of its own")
        if isinstance(node, ast.Constant):
            return self._constant(node)
        if isinstance(node, ast.Name):
            return Name(node.id, self._span(node))
        if isinstance(node, ast.BinOp) and type(node.op) in _BINARY:
            pair = self.read(node.left, depth + 1), self.read(node.right, depth + 1)
            return Call(_BINARY[type(node.op)], pair, self._span(node))
        if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
            inner = self.read(node.operand, depth + 1)
            return replace(call("negate", inner), span=self._span(node))
        if isinstance(node, ast.Attribute):
            return self._swizzle(node, depth)
        if isinstance(node, ast.Call):
            return self._call(node, depth)
        raise self._wrong(node, "only numbers, names, + - * /, channels and operations have a place here")

    def _constant(self, node: ast.Constant) -> Constant:
        if isinstance(node.value, bool) or not isinstance(node.value, int | float):
            raise self._wrong(node, "only numbers may stand here")
        try:
            value = float(node.value)
        except OverflowError:
            value = math.inf
        if not abs(value) <= _LARGEST:
            raise self._wrong(node, "numbers go up to {largest:.0f}", largest=_LARGEST)
        return Constant(value, self._span(node))

    def _swizzle(self, node: ast.Attribute, depth: int) -> Swizzle:
        letters = "".join(_LETTERS.get(letter, "?") for letter in node.attr)
        if "?" in letters or len(letters) > 4:
            raise self._wrong(
                node, ".{attr} names no channels; they are r, g, b and a, or x, y, z and w", attr=node.attr
            )
        return Swizzle(self.read(node.value, depth + 1), letters, self._span(node))

    def _call(self, node: ast.Call, depth: int) -> Call:
        name = node.func.id if isinstance(node.func, ast.Name) else ""
        function = self._functions.get(name)
        operation = function or OPERATIONS.get(name)
        if operation is None:
            raise self._wrong(node.func, "there is no operation {what}", what=name or "of this kind")
        if node.keywords or any(isinstance(one, ast.Starred) for one in node.args):
            raise self._wrong(node, "{name} takes values without names", name=name)
        least = len(operation.arguments)
        most = operation.most or least
        if not least <= len(node.args) <= most:
            wanted = ", ".join(operation.arguments)
            raise self._wrong(
                node,
                "{name} takes {what}{least} values: {wanted}",
                name=name,
                what="at least " if most > least else "",
                least=least,
                wanted=wanted,
            )
        return Call(name, tuple(self.read(one, depth + 1) for one in node.args), self._span(node), function)


def text_of(node: Node) -> str:
    """The expression of a tree; parse_expression gives the same tree back."""
    return _text(node, 0)


def number_text(value: float) -> str:
    """The shortest text that reads as the same number.

    >>> number_text(2.0), number_text(0.1)
    ('2', '0.1')
    """
    return str(int(value)) if value == int(value) else repr(value)


def _text(node: Node, above: int) -> str:
    if isinstance(node, Constant):
        text = number_text(node.value)
        return f"({text})" if above >= (3 if node.value < 0 else 4) else text
    if isinstance(node, Name):
        return node.name
    if isinstance(node, Swizzle):
        return f"{_text(node.of, 4)}.{node.letters}"
    operation = node.called
    if not operation.symbol:
        return f"{node.operation}({', '.join(_text(one, 0) for one in node.arguments)})"
    own = _PRECEDENCE[node.operation]
    if node.operation == "negate":
        text = f"-{_text(node.arguments[0], own)}"
    else:
        left, right = node.arguments
        text = f"{_text(left, own)} {operation.symbol} {_text(right, own + 1)}"
    return f"({text})" if own < above else text
