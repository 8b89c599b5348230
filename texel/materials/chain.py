"""Chains: a row as it reads from left to right, where it starts and what happens to it. The same tree as the text."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from texel.errors import BadDocument
from texel.materials.expression import parse_expression, text_of
from texel.materials.operations import OPERATIONS, Operation
from texel.materials.tree import Call, Name, Node, Swizzle, call

__all__ = ["Chain", "Link", "chain_of", "parse_chain", "tree_of"]

_CHANNELS = "channels"


@dataclass(frozen=True)
class Link:
    """One step. step: an operation, or "channels"; others: its arguments but the first; letters: of "channels";
    function: as of texel.materials.tree.Call."""

    step: str
    others: tuple[Node, ...] = ()
    letters: str = ""
    function: Operation | None = field(default=None, compare=False, repr=False)

    def document(self) -> dict[str, Any]:
        if self.step == _CHANNELS:
            return {"step": _CHANNELS, "letters": self.letters}
        return {"step": self.step, "with": [text_of(one) for one in self.others]}


@dataclass(frozen=True)
class Chain:
    """start: a number or a name, with the channels that are read of it at once."""

    start: Node
    links: tuple[Link, ...]

    def document(self) -> dict[str, Any]:
        return {"start": text_of(self.start), "steps": [link.document() for link in self.links]}


def chain_of(node: Node) -> Chain:
    """The chain of a tree: along the first arguments down to where the value comes from."""
    links: list[Link] = []
    while True:
        if isinstance(node, Call):
            links.append(Link(node.operation, node.arguments[1:], function=node.function))
            node = node.arguments[0]
        elif isinstance(node, Swizzle) and isinstance(node.of, Call | Swizzle):
            links.append(Link(_CHANNELS, letters=node.letters))
            node = node.of
        else:
            return Chain(node, tuple(reversed(links)))


def tree_of(chain: Chain) -> Node:
    """The tree of a chain; chain_of gives the same chain back where its start is no operation."""
    node = chain.start
    for link in chain.links:
        if link.step == _CHANNELS:
            node = Swizzle(node, link.letters)
            continue
        made = call(link.step, node, *link.others)
        node = replace(made, function=link.function) if isinstance(made, Call) else made
    return node


def parse_chain(document: dict[str, Any], functions: Mapping[str, Operation] | None = None) -> Chain:
    """The chain of a document, {"start": text, "steps": [{"step", "with": [texts]}]}. functions: of the sheet.

    Raises BadDocument, BadExpression.
    """
    known = functions or {}
    try:
        start, steps = document["start"], document["steps"]
        links = tuple(_parse_link(step, known) for step in steps)
        return Chain(parse_expression(start, known), links)
    except (KeyError, TypeError, AttributeError) as error:
        raise BadDocument("a chain holds a start and steps") from error


def _parse_link(step: dict[str, Any], functions: Mapping[str, Operation]) -> Link:
    name = step["step"]
    if name == _CHANNELS:
        # Read as an expression's channels are, with the same complaints.
        read = parse_expression(f"value.{step['letters']}")
        if not isinstance(read, Swizzle) or not isinstance(read.of, Name):
            raise BadDocument("{letters!r} names no channels", letters=step["letters"])
        return Link(_CHANNELS, letters=read.letters)
    function = functions.get(name)
    operation = function or OPERATIONS.get(name)
    if operation is None:
        raise BadDocument("there is no operation {name!r}", name=name)
    others = tuple(parse_expression(text, functions) for text in step.get("with", []))
    missing = len(operation.arguments) - 1 - len(others)
    if missing > 0 or (missing < 0 and not operation.variadic):
        raise BadDocument("{name} takes {what}", name=name, what=", ".join(operation.arguments[1:]) or "nothing more")
    return Link(name, others, function=function)
