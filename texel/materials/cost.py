"""What a sheet costs in a shader, told from its tree: texture reads, samplers, arithmetic, variants from switches."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import prod
from typing import Any

from texel.materials.functions import steps_of
from texel.materials.master import Master
from texel.materials.remarks import reachable
from texel.materials.tree import Call, Name, Node, walk

__all__ = ["Cost", "cost_of", "deciding", "over_budget", "used_variants"]


@dataclass(frozen=True)
class Cost:
    """reads: of textures, one a slot whose name is read, and those of operations that read maps elsewhere. samplers:
    distinct maps. arithmetic: operations, those within other operations too. variants: shaders that switches and
    choices make, were each compiled by itself."""

    reads: int
    samplers: int
    arithmetic: int
    variants: int

    def document(self) -> dict[str, Any]:
        return vars(self)


_WORDS = {
    "reads": "texture reads", "samplers": "samplers", "arithmetic": "arithmetic steps", "variants": "variants",
}  # fmt: skip


def over_budget(cost: Cost, limits: Mapping[str, int]) -> list[str]:
    """What of a cost is beyond the limits, in words; limits: by the cost's fields, those that there are.

    >>> over_budget(Cost(5, 5, 20, 1), {"reads": 4, "arithmetic": 30})
    ['5 texture reads, where 4 are allowed']
    """
    counts = cost.document()
    return [
        f"{counts[name]} {words}, where {limits[name]} are allowed"
        for name, words in _WORDS.items()
        if name in limits and counts[name] > limits[name]
    ]


def _options(master: Master) -> dict[str, int]:
    """How many ways each switch and choice that matters can stand."""
    used = reachable(master)
    deciding = {name: one for name, one in master.parameters.items() if name in used}
    switches = {name: 2 for name, one in deciding.items() if one.kind == "switch"}
    choices = {name: len(one.options) for name, one in deciding.items() if one.kind == "choice"}
    return {name: (switches | choices)[name] for name in deciding if name in switches or name in choices}


def cost_of(master: Master) -> Cost:
    """The cost of a master, however its casts set it. A row that several read counts once."""
    slots = [name for name in master.slots if name in reachable(master)]
    trees = [*(master.rows[name] for name in master.ordered_rows()), *master.inputs.values()]
    named: set[str] = set()
    arithmetic = elsewhere = 0
    for tree in trees:
        named |= _read_by_name(tree)
        steps, reads = _of_tree(tree)
        arithmetic, elsewhere = arithmetic + steps, elsewhere + reads
    reads = len(named & set(slots)) + elsewhere
    return Cost(reads, len(slots), arithmetic, prod(_options(master).values()))


def _read_by_name(tree: Node) -> set[str]:
    """Names that are read where their own coordinates are."""
    calls = [node for node in walk(tree) if isinstance(node, Call)]
    elsewhere = {id(node.arguments[at]) for node in calls for at in node.called.maps}
    return {node.name for node in walk(tree) if isinstance(node, Name) and id(node) not in elsewhere}


def _of_tree(tree: Node) -> tuple[int, int]:
    """Operations of a tree, and reads of maps at computed coordinates."""
    steps = reads = 0
    for node in walk(tree):
        if isinstance(node, Call):
            operation = node.called
            steps, reads = steps + 1, reads + operation.reads
            # How many numbers its arguments have changes little: as for coordinates.
            steps += steps_of(operation, len(node.arguments))
    return steps, reads


def deciding(master: Master) -> tuple[str, ...]:
    """The switches and choices that make variants of a sheet."""
    return tuple(_options(master))


def used_variants(names: Iterable[str], casts: Iterable[Mapping[str, tuple[float, ...]]]) -> int:
    """How many variants the casts' values really use. names: as ``deciding`` gives them; casts: every parameter's
    value, by name."""
    wanted = tuple(names)
    return len({tuple(values[name] for name in wanted) for values in casts})
