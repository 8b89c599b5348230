"""What can be done about a finding: a recipe step on its map, or an action on its set.

A step is ``{"step": name, options}``. An action is one of

- ``{"action": "assign", "role": R}``: the map gets the role R, and the map that had it takes the old one;
- ``{"action": "take_out"}``: the map leaves the set, so that a target's constant stands in for it;
- ``{"action": "derive", "source": S, "role": R, "recipe": [...]}``: a new map of role R from the set's map of role S.
"""

from __future__ import annotations

from typing import Any

from texel.recipes import derivation_of, step_label
from texel.roles import Role, facts

__all__ = ["assign", "derive", "labelled", "take_out"]


def assign(role: Role) -> dict[str, Any]:
    return {"action": "assign", "role": role.value}


def take_out() -> dict[str, Any]:
    return {"action": "take_out"}


def derive(role: Role, available: set[Role]) -> dict[str, Any] | None:
    """The best way to make a map of ``role`` from what is there, or None."""
    derivation = derivation_of(role, available)
    if derivation is None:
        return None
    return {"action": "derive", "source": derivation.source.value, "role": role.value, "recipe": derivation.recipe}


def labelled(remedy: dict[str, Any]) -> dict[str, Any]:
    """The remedy with words for people."""
    if "step" in remedy:
        return {**remedy, "label": step_label(remedy)}
    if remedy["action"] == "assign":
        return {**remedy, "label": f"Exchange with {facts(Role(remedy['role'])).label.lower()}"}
    if remedy["action"] == "take_out":
        return {**remedy, "label": "Take it out of the set"}
    return {**remedy, "label": f"Make it from {facts(Role(remedy['source'])).label.lower()}"}
