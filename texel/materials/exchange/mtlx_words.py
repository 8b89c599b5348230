"""What every translation of a MaterialX node into a sheet's operations is made of."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import MaterialX as mx

from texel.materials.simplify import component, simplified
from texel.materials.tree import Constant, Node, call

__all__ = ["TELLING", "Sizes", "Translation", "Unsaid", "Values", "do", "is_more", "joined", "parts_of", "plain"]

# What an input of the node is given, by name.
Values = Callable[[str], Node]
# How many components an input has, by name.
Sizes = Callable[[str], int]
# The node's value: of its inputs and their sizes, the node itself, and the name of the output that is asked for.
Translation = Callable[[Values, Sizes, mx.Node, str], Node]
# A difference of 32-bit numbers near 1, made large enough to decide a switch.
TELLING = 1e6


class Unsaid(Exception):
    """A node that a sheet cannot say; the message says why."""


def do(operation: str, *arguments: Node) -> Node:
    """An operation of a sheet, made shorter where it can be."""
    return simplified(call(operation, *arguments))


def parts_of(node: Node, size: int) -> list[Node]:
    """The components of a value that is meant to have so many."""
    return [node] if size == 1 else [component(node, letter) for letter in "rgba"[:size]]


def joined(parts: Sequence[Node]) -> Node:
    """Components as one value."""
    return parts[0] if len(parts) == 1 else do("rgb" if len(parts) == 3 else "vector", *parts)


def plain(operation: str, *inputs: str) -> Translation:
    """An operation on inputs of the node, in their order."""
    return lambda of, size, node, output: do(operation, *(of(name) for name in inputs))


def is_more(value: Node, limit: Node) -> Node:
    """A switch that is on where a value is above a limit."""
    return do("add", do("multiply", do("subtract", value, limit), Constant(TELLING)), Constant(0.5))
