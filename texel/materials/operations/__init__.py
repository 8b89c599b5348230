"""What a sheet can do with values: one file an operation, found by being there; see .operation for what is in it."""

from __future__ import annotations

import pkgutil
from importlib import import_module

from texel.materials.operations.operation import GROUPS, MAP, Interval, Operation, StandardNode

__all__ = ["MAP", "OPERATIONS", "Interval", "Operation", "StandardNode"]

_SHARED = ("definition", "operation", "parts")


def _found() -> list[Operation]:
    names = [one.name for one in pkgutil.iter_modules(__path__) if one.name not in _SHARED]
    operations: list[Operation] = [import_module(f"{__name__}.{name}").OPERATION for name in names]
    return sorted(operations, key=lambda one: (GROUPS.index(one.group), one.label))


OPERATIONS: dict[str, Operation] = {one.name: one for one in _found()}
