"""Every step there is, and what a page or a script needs to know of its options."""

from __future__ import annotations

from dataclasses import MISSING, fields
from typing import Any

from texel.recipes import photographs, surfaces, values, vectors
from texel.recipes.step import Step

__all__ = ["STEPS", "catalogue"]

STEPS: dict[str, type[Step]] = {
    kind.step: kind
    for module in (vectors, values, surfaces, photographs)
    for name in module.__all__
    if isinstance(kind := getattr(module, name), type) and issubclass(kind, Step)
}


def catalogue() -> list[dict[str, Any]]:
    """A document for each step: step, label, group, roles it suits, help, and its options in order.

    An option has name, kind (number, whole, choice, switch, map, cover, patches), default, help, and low, high, unit
    or values.
    """
    return [
        {
            "step": kind.step,
            "label": kind.label,
            "group": kind.group,
            "roles": [role.value for role in kind.suits],
            "help": " ".join((kind.__doc__ or "").split()),
            "options": [
                {"name": f.name, "default": None if f.default is MISSING else f.default, **f.metadata}
                for f in fields(kind)
            ],
        }
        for kind in STEPS.values()
    ]
