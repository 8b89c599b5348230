"""An operation in terms of others: rows and a result, as in a sheet. Every back end makes its form from them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from texel.materials.operations.operation import Definition, Interval, Operation

__all__ = ["Definition", "from_rows"]


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
    definition = Definition(arguments, rows, result)
    return Operation(name, label, arguments, bounds, group, definition=lambda _: definition, **more)
