"""An operation in terms of others: rows and a result, as in a sheet. Every back end makes its form from them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from texel.materials.operations.operation import Interval, Operation

__all__ = ["Definition", "from_rows"]


@dataclass(frozen=True)
class Definition:
    """arguments: the names that stand for what is given. rows: name and expression, each after those that it reads.

    Names that are no argument and no row are where the surface is (texel.materials.starts).
    """

    arguments: tuple[str, ...]
    rows: tuple[tuple[str, str], ...]
    result: str


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
