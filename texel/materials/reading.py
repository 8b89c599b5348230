"""A sheet as people and the page read it: every row as text and as chain, with what is to be said of it."""

from __future__ import annotations

from typing import Any

from texel.errors import BadDocument, BadExpression
from texel.materials.chain import chain_of
from texel.materials.cost import cost_of
from texel.materials.expression import text_of
from texel.materials.glsl import shader_of
from texel.materials.kinds import Kinds
from texel.materials.layers import Origin, origins
from texel.materials.master import INPUTS, Master, Parameter, Slot, dependencies, parse_master
from texel.materials.operations import OPERATIONS, Operation
from texel.materials.remarks import remarks_on, starts_read
from texel.materials.starts import STARTS
from texel.materials.tree import Node
from texel.roles import facts

__all__ = ["catalogue", "operation_facts", "read_document", "read_sheet"]


def catalogue() -> dict[str, Any]:
    """What a sheet can be made of: the surface's inputs, the steps of chains, and what these can begin with."""
    return {
        "inputs": [
            {"name": one.name, "label": one.label, "size": one.size, "meaning": one.meaning, "low": one.bounds[0],
             "high": one.bounds[1], "neutral": list(one.neutral), "on_demand": one.on_demand}
            for one in INPUTS.values()
        ],
        "operations": [operation_facts(one) for one in OPERATIONS.values()],
        "starts": [
            {"name": one.name, "label": one.label, "size": one.size, "help": one.help} for one in STARTS.values()
        ],
    }  # fmt: skip


def operation_facts(one: Operation) -> dict[str, Any]:
    """What a step with an operation, or with a function, takes and means."""
    return {
        "name": one.name, "label": one.label, "group": one.group, "arguments": list(one.arguments),
        "variadic": one.variadic, "help": one.help, "example": one.example, "begins_with": list(one.begins_with),
        "maps": list(one.maps),
    }  # fmt: skip


def read_document(document: Any) -> dict[str, Any]:
    """The sheet of a document that is being edited, or the problem that keeps it from being read, with its place."""
    try:
        return {"problem": None, "sheet": read_sheet(parse_master(document, "the sheet"))}
    except BadExpression as error:
        problem = {"message": error.problem, "row": error.row, "start": error.start, "end": error.end}
    except BadDocument as error:
        problem = {"message": str(error), "row": "", "start": 0, "end": 0}
    return {"problem": problem, "sheet": None}


def read_sheet(master: Master) -> dict[str, Any]:
    """shader: None while a row's values do not fit together."""
    remarks = remarks_on(master)
    fits = not any(one.check == "misfit" for one in remarks)
    kinds, written = Kinds(master), origins(master.document)
    return {
        "name": master.name, "title": master.title, "help": master.help,
        "functions": [
            {"name": one.name, "title": one.title, "number": one.number, "document": one.document,
             "operation": operation_facts(one.operation)}
            for one in master.functions.values()
        ],
        "slots": [_slot(one) for one in master.slots.values()],
        "parameters": [_parameter(one) for one in _in_order(master)],
        "rows": [_row(name, tree, kinds, name in master.inputs, written.get(name)) for name, tree in master.trees()],
        "layered": "layers" in master.document, "moves": "time" in starts_read(master),
        "opacity_mode": master.opacity_mode, "cut_off": master.cut_off,
        "remarks": [one.document() for one in remarks], "cost": cost_of(master).document(),
        "shader": shader_of(master).document() if fits else None,
    }  # fmt: skip


def _in_order(master: Master) -> list[Parameter]:
    """By group, as the groups first appear, and order."""
    groups = list(dict.fromkeys(one.group for one in sorted(master.parameters.values(), key=lambda one: one.order)))
    return sorted(master.parameters.values(), key=lambda one: (groups.index(one.group), one.order))


def _slot(one: Slot) -> dict[str, Any]:
    return {
        "name": one.name, "title": one.title, "role": one.role.value if one.role else None, "layout": one.layout,
        "takes": facts(one.role).label if one.role else str(one.layout), "colour_space": one.colour_space.value,
        "default": "flat_normal" if one.is_normal else one.default, "coordinates": one.coordinates,
        "is_normal": one.is_normal, "help": one.help, "wrap": one.wrap, "filter": one.filter,
    }  # fmt: skip


def _parameter(one: Parameter) -> dict[str, Any]:
    def finite(value: float) -> float | None:
        return value if abs(value) != float("inf") else None

    return {
        "name": one.name, "kind": one.kind, "title": one.title, "default": list(one.default), "group": one.group,
        "help": one.help, "low": finite(one.low), "high": finite(one.high), "soft_low": one.soft_low,
        "soft_high": one.soft_high, "step": one.step, "unit": one.unit, "options": list(one.options),
    }  # fmt: skip


def _label(name: str, origin: Origin | None) -> str:
    if origin is None:
        return name
    return INPUTS[origin.row].label if origin.is_input else origin.row


def _row(name: str, tree: Node, kinds: Kinds, is_input: bool, origin: Origin | None) -> dict[str, Any]:
    try:
        size, meaning = (kind := kinds.of(tree)).size, kind.meaning
    except BadExpression:
        size, meaning = 0, "misfit"
    return {
        "name": name, "label": INPUTS[name].label if is_input else _label(name, origin), "is_input": is_input,
        "text": text_of(tree),
        "chain": chain_of(tree).document(), "reads": dependencies(tree), "size": size, "meaning": meaning,
        "origin": origin._asdict() if origin else None,
    }  # fmt: skip
