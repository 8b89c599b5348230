"""The trees of operations that are defined by rows in terms of others."""

from __future__ import annotations

from functools import lru_cache

from texel.materials.expression import parse_expression
from texel.materials.operations.definition import Definition
from texel.materials.tree import Node

__all__ = ["trees_of"]


@lru_cache
def trees_of(definition: Definition) -> tuple[tuple[str, Node], ...]:
    """The rows' trees, and the result's under the name "".

    >>> [name for name, _ in trees_of(Definition(("value",), (("half", "value / 2"),), "half * half"))]
    ['half', '']
    """
    return tuple((name, parse_expression(text)) for name, text in (*definition.rows, ("", definition.result)))
