"""Casts: what they change of a master, checked, and stacked upon what they derive from."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from texel.errors import BadDocument
from texel.materials.master import Master, parse_value

__all__ = ["MAX_DEPTH", "checked_changes", "document_value", "stacked"]

# How deep casts derive from casts, at most.
MAX_DEPTH = 8
Values = dict[str, tuple[float, ...]]


def checked_changes(master: Master, changes: Mapping[str, Any], where: str = "") -> Values:
    """A cast's changes as components. Raises BadDocument for a parameter that the master has not, or a wrong value."""
    values: Values = {}
    for name, value in changes.items():
        if name not in master.parameters:
            raise BadDocument(
                "{what}{title} has no parameter {name}",
                what=where + ": " if where else "",
                title=master.title,
                name=name,
            )
        values[name] = parse_value(master.parameters[name], value, where or master.title)
    return values


def stacked(layers: Iterable[Mapping[str, Any]]) -> dict[str, Any]:
    """What a cast has in the end: its ancestors' entries, the eldest first, each overriding those before it."""
    values: dict[str, Any] = {}
    for layer in layers:
        values |= layer
    return values


def document_value(master: Master, name: str, value: tuple[float, ...]) -> Any:
    """A parameter's value as documents hold it; parse_value reads it."""
    parameter = master.parameters[name]
    if parameter.kind == "switch":
        return value[0] > 0.5
    if parameter.kind == "choice":
        return parameter.options[round(value[0])]
    return value[0] if len(value) == 1 else list(value)
