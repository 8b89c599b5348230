"""Chains: a row as it reads from left to right, where it starts and what happens to it. The same tree as the text."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from texel.errors import BadDocument
from texel.materials.expression import parse_expression, text_of
from texel.materials.operations import OPERATIONS
from texel.materials.tree import Call, Name, Node, Swizzle, call

__all__ = ["Chain", "Link", "chain_of", "parse_chain", "tree_of"]

_CHANNELS = "channels"


@dataclass(frozen=True)
class Link:
    """One step. step: an operation, or "channels"; others: its arguments but the first; letters: of "channels"."""

    step: str
    others: tuple[Node, ...] = ()
    letters: str = ""

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
            links.append(Link(node.operation, node.arguments[1:]))
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
        node = Swizzle(node, link.letters) if link.step == _CHANNELS else call(link.step, node, *link.others)
    return node


def parse_chain(document: dict[str, Any]) -> Chain:
    """The chain of a document, {"start": text, "steps": [{"step", "with": [texts]}]}. Raises BadDocument."""
    try:
        start, steps = document["start"], document["steps"]
        links = tuple(_parse_link(step) for step in steps)
        return Chain(parse_expression(start), links)
    except (KeyError, TypeError, AttributeError) as error:
        raise BadDocument("a chain holds a start and steps") from error


def _parse_link(step: dict[str, Any]) -> Link:
    name = step["step"]
    if name == _CHANNELS:
        # Read as an expression's channels are, with the same complaints.
        read = parse_expression(f"value.{step['letters']}")
        if not isinstance(read, Swizzle) or not isinstance(read.of, Name):
            raise BadDocument("{letters!r} names no channels", letters=step["letters"])
        return Link(_CHANNELS, letters=read.letters)
    if name not in OPERATIONS:
        raise BadDocument("there is no operation {name!r}", name=name)
    operation, others = OPERATIONS[name], tuple(parse_expression(text) for text in step.get("with", []))
    missing = len(operation.arguments) - 1 - len(others)
    if missing > 0 or (missing < 0 and not operation.variadic):
        raise BadDocument("{name} takes {what}", name=name, what=", ".join(operation.arguments[1:]) or "nothing more")
    return Link(name, others)
