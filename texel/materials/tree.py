"""The one tree under a sheet: what an expression, a chain and every back end have in common."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from texel.materials.operations import OPERATIONS, Operation

__all__ = ["Call", "Constant", "Name", "Node", "Span", "Swizzle", "call", "walk"]


class Span(NamedTuple):
    """Where a node stands in its expression: from character ``start`` up to, not including, ``end``."""

    start: int
    end: int


_NOWHERE = Span(0, 0)


@dataclass(frozen=True)
class Constant:
    """A finite number."""

    value: float
    span: Span = field(default=_NOWHERE, compare=False)


@dataclass(frozen=True)
class Name:
    """A slot, a parameter, a named row, "vertex" or "uv"."""

    name: str
    span: Span = field(default=_NOWHERE, compare=False)


@dataclass(frozen=True)
class Swizzle:
    """Some channels of a value, in an order; letters of r, g, b, a."""

    of: Node
    letters: str
    span: Span = field(default=_NOWHERE, compare=False)


@dataclass(frozen=True)
class Call:
    """An operation of texel.materials.operations on its arguments; the first is what flows through a chain.

    function: what the sheet itself calls by that name (texel.materials.functions); None for an operation.
    """

    operation: str
    arguments: tuple[Node, ...]
    span: Span = field(default=_NOWHERE, compare=False)
    function: Operation | None = field(default=None, compare=False, repr=False)

    @property
    def called(self) -> Operation:
        """What is done with the arguments."""
        return self.function or OPERATIONS[self.operation]


Node = Constant | Name | Swizzle | Call


def call(operation: str, *arguments: Node) -> Constant | Call:
    """An operation; the negative of a constant is a constant, so that a tree has one text and a text one tree."""
    if operation == "negate" and isinstance(arguments[0], Constant):
        return Constant(-arguments[0].value)
    return Call(operation, arguments)


def walk(node: Node) -> Iterator[Node]:
    """The node and all below it, the node first."""
    yield node
    if isinstance(node, Swizzle):
        yield from walk(node.of)
    elif isinstance(node, Call):
        for argument in node.arguments:
            yield from walk(argument)
