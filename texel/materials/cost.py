"""What a sheet costs in a shader, told from its tree: texture reads, samplers, arithmetic, variants from switches."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import prod
from typing import Any

from texel.materials.master import Master
from texel.materials.remarks import reachable
from texel.materials.tree import Call, walk

__all__ = ["Cost", "cost_of", "deciding", "over_budget", "used_variants"]


@dataclass(frozen=True)
class Cost:
    """reads: of textures, one a slot that is used. samplers: distinct maps. arithmetic: operations. variants: shaders
    that switches and choices make, were each compiled by itself."""

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
    arithmetic = sum(isinstance(node, Call) for tree in trees for node in walk(tree))
    return Cost(len(slots), len(slots), arithmetic, prod(_options(master).values()))


def deciding(master: Master) -> tuple[str, ...]:
    """The switches and choices that make variants of a sheet."""
    return tuple(_options(master))


def used_variants(names: Iterable[str], casts: Iterable[Mapping[str, tuple[float, ...]]]) -> int:
    """How many variants the casts' values really use. names: as ``deciding`` gives them; casts: every parameter's
    value, by name."""
    wanted = tuple(names)
    return len({tuple(values[name] for name in wanted) for values in casts})
