"""An operation in terms of others: rows and a result, as in a sheet. Every back end makes its form from them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np

if TYPE_CHECKING:
    from texel.materials.operations.operation import Interval, Operation
    from texel.materials.tree import Node

__all__ = ["Definition", "bounds_in", "from_rows"]


@dataclass(frozen=True)
class Definition:
    """arguments: the names that stand for what is given. rows: name and expression, each after those that it reads.

    Names that are no argument and no row are where the surface is (texel.materials.starts).
    """

    arguments: tuple[str, ...]
    rows: tuple[tuple[str, str], ...]
    result: str

    @cached_property
    def trees(self) -> tuple[tuple[str, Node], ...]:
        """The rows' trees, and the result's under the name ""."""
        from texel.materials.expression import parse_expression

        return tuple((name, parse_expression(text)) for name, text in (*self.rows, ("", self.result)))


def bounds_in(tree: Node, names: Mapping[str, Interval]) -> Interval:
    """The interval of a tree whose names have the intervals that are given; without ends for others."""
    from texel.materials.operations import OPERATIONS
    from texel.materials.tree import Call, Constant, Name

    if isinstance(tree, Constant):
        return tree.value, tree.value
    if isinstance(tree, Name):
        return names.get(tree.name, (-np.inf, np.inf))
    if isinstance(tree, Call):
        return OPERATIONS[tree.operation].bounds(*(bounds_in(one, names) for one in tree.arguments))
    return bounds_in(tree.of, names)


def from_rows(
    name: str,
    label: str,
    arguments: tuple[str, ...],
    result: str,
    group: str = "Arithmetic",
    rows: tuple[tuple[str, str], ...] = (),
    bounds: Callable[..., Interval] | None = None,
    **more: Any,
) -> Operation:
    """An operation with one definition, whatever is given. bounds: those of the rows, when left out."""
    from texel.materials.operations.operation import Operation

    definition = Definition(arguments, rows, result)

    def found(*given: Interval) -> Interval:
        names = dict(zip(arguments, given, strict=True))
        made = (-np.inf, np.inf)
        for row, tree in definition.trees:
            names[row] = made = bounds_in(tree, names)
        return made

    return Operation(name, label, arguments, bounds or found, group, definition=lambda _: definition, **more)
