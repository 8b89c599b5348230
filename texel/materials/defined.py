"""The trees of operations that are defined by rows in terms of others."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache

from texel.materials.expression import parse_expression
from texel.materials.operations import MAP, Operation
from texel.materials.operations.definition import Definition
from texel.materials.starts import STARTS
from texel.materials.tree import Call, Constant, Name, Node, Swizzle, walk

__all__ = ["result_size", "size_of", "starts_in", "trees_of"]


@lru_cache(1024)
def trees_of(definition: Definition) -> tuple[tuple[str, Node], ...]:
    """The rows' trees, and the result's under the name "".

    >>> [name for name, _ in trees_of(Definition(("value",), (("half", "value / 2"),), "half * half"))]
    ['half', '']
    """
    rows, known = (*definition.rows, ("", definition.result)), dict(definition.functions)
    return tuple((name, parse_expression(text, known)) for name, text in rows)


@lru_cache(1024)
def starts_in(operation: Operation, count: int = 0) -> frozenset[str]:
    """The starts that the rows of an operation read, and those of what they call. count: of its arguments, as many as
    it has names for when left out.

    >>> from texel.materials.operations import OPERATIONS
    >>> sorted(starts_in(OPERATIONS["triplanar"])), sorted(starts_in(OPERATIONS["add"]))
    (['world_normal'], [])
    """
    definition = operation.usual_definition(count or len(operation.arguments))
    if definition is None:
        return frozenset()
    trees = trees_of(definition)
    bound = {*definition.arguments, *(name for name, _ in trees)}
    nodes = [node for _, tree in trees for node in walk(tree)]
    own = {node.name for node in nodes if isinstance(node, Name)} - bound
    return frozenset(own).union(*(starts_in(one.called, len(one.arguments)) for one in nodes if isinstance(one, Call)))


def size_of(node: Node, named: Callable[[str], int], mapped: Callable[[str], int]) -> int:
    """How many components a value has that fits together. named: the size of a name; mapped: of a map's bare name.

    >>> size_of(parse_expression("value * 2 + tiny"), {"value": 1, "tiny": 3}.__getitem__, int)
    3
    """
    if isinstance(node, Constant):
        return 1
    if isinstance(node, Name):
        return named(node.name)
    if isinstance(node, Swizzle):
        return len(node.letters)
    operation, maps = node.called, [node.arguments[at] for at in node.called.maps]
    of_maps = [mapped(one.name) for one in maps if isinstance(one, Name)]
    sizes = [MAP if one in maps else size_of(one, named, mapped) for one in node.arguments]
    return result_size(operation, operation.fitted(sizes), of_maps)


def result_size(operation: Operation, sizes: Sequence[int], maps: Sequence[int]) -> int:
    """How many components an operation gives. sizes: of its arguments, as ``Operation.fitted`` says; maps: of the bare
    names of the maps among them."""
    if operation.shape == "map":
        return maps[0]
    if operation.shape != "rows":
        return operation.size(sizes)
    assert operation.definition is not None
    definition = operation.definition(tuple(sizes))
    known = dict(zip(definition.arguments, sizes, strict=True))
    of_maps = dict(zip((name for name in known if known[name] == MAP), maps, strict=True))
    for name, tree in trees_of(definition):
        known[name] = size_of(tree, lambda one: known[one] if one in known else STARTS[one].size, of_maps.__getitem__)
    return known[""]
