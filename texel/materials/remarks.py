"""What is wrong with a sheet, said while it is edited: each remark with its row, its place and perhaps a remedy."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from texel.checks import Severity
from texel.errors import BadExpression
from texel.materials.defined import starts_in
from texel.materials.expression import parse_expression, text_of
from texel.materials.functions import operations_of
from texel.materials.kinds import Kind, Kinds
from texel.materials.master import INPUTS, Input, Master, dependencies
from texel.materials.starts import STARTS
from texel.materials.tree import Call, Name, Node, Span, Swizzle, walk

__all__ = ["Remark", "reachable", "remarks_on"]

_SLACK = 1e-6
_NOWHERE = Span(0, 0)


@dataclass(frozen=True)
class Remark:
    """row: the row or input, or "" for what is about a slot or a parameter, which ``about`` names. span: characters of
    the row's printed expression. remedy: another expression for the row, None where a person has to decide."""

    check: str
    severity: Severity
    message: str
    row: str = ""
    span: Span = _NOWHERE
    about: str = ""
    remedy: str | None = None

    def document(self) -> dict[str, Any]:
        return {
            "check": self.check, "severity": self.severity.value, "message": self.message, "row": self.row,
            "start": self.span.start, "end": self.span.end, "about": self.about, "remedy": self.remedy,
        }  # fmt: skip


def reachable(master: Master, inputs: Iterable[str] | None = None) -> set[str]:
    """Names that inputs of the surface read, all of them or those named, through rows and coordinates."""
    wanted = master.inputs if inputs is None else [name for name in inputs if name in master.inputs]
    return reachable_from(master, *(master.inputs[one] for one in wanted))


def reachable_from(master: Master, *trees: Node) -> set[str]:
    """As reachable, of any trees."""
    reached: set[str] = set()
    waiting = [name for tree in trees for name in dependencies(tree)]
    while waiting:
        name = waiting.pop()
        if name in reached:
            continue
        reached.add(name)
        if name in master.rows:
            waiting += dependencies(master.rows[name])
        elif name in master.slots:
            waiting += master.coordinates[master.slots[name].coordinates].reads
    return reached


def starts_read(master: Master, inputs: Iterable[str] | None = None) -> set[str]:
    """The starts that inputs of the surface read, by name or within operations; none that the sheet has a name for."""
    reached = reachable(master, inputs)
    trees = [tree for name, tree in master.trees() if name in reached or name in (inputs or master.inputs)]
    calls = [node for tree in trees for node in walk(tree) if isinstance(node, Call)]
    named = (reached & set(STARTS)) - {*master.slots, *master.parameters, *master.rows}
    return named.union(*(starts_in(node.called, len(node.arguments)) for node in calls))


def remarks_on(master: Master) -> list[Remark]:
    """Everything that is to be said of a sheet, errors first."""
    kinds = Kinds(master)
    remarks: list[Remark] = list(_of_coordinates(master, kinds))
    for row, tree in master.trees():
        try:
            kind = kinds.of(tree)
        except BadExpression as error:
            remarks.append(Remark("misfit", Severity.ERROR, error.problem, row, Span(error.start, error.end)))
            continue
        if row in master.inputs:
            remarks += _of_input(INPUTS[row], tree, kind, master)
        remarks += _of_arithmetic(row, tree, kinds, master)
    remarks += _of_names(master)
    order = list(Severity)
    return sorted(remarks, key=lambda one: order.index(one.severity))


def _of_coordinates(master: Master, kinds: Kinds) -> Iterator[Remark]:
    for one in master.coordinates.values():
        for key, tree, most in (("tiling", one.tiling, 2), ("offset", one.offset, 2), ("rotation", one.rotation, 1)):
            try:
                size = kinds.of(tree).size
            except BadExpression as error:
                yield Remark("misfit", Severity.ERROR, error.problem, about=one.name)
                continue
            if size not in (1, most):
                message = f"The {key} of the coordinates {one.name} has {size} numbers, at most {most} are read."
                yield Remark("misfit", Severity.ERROR, message, about=one.name)


def _of_input(one: Input, tree: Node, kind: Kind, master: Master) -> Iterator[Remark]:
    text = text_of(tree)
    whole = Span(0, len(text))
    if one.meaning == "normal":
        if kind.size == 1 or kind.meaning != "normal":
            what = "a number" if kind.size == 1 else "a colour" if kind.meaning == "colour" else "plain data"
            yield Remark(
                "not_a_normal", Severity.ERROR, f"{one.label} takes the vectors of a normal map; this is {what}.",
                one.name, whole,
            )  # fmt: skip
        return
    if kind.size not in (1, one.size):
        remedy = f"({text}).r" if one.size == 1 else f"({text}).rgb" if kind.size == 4 else None
        yield Remark(
            "wrong_size", Severity.ERROR,
            f"{one.label} takes {one.size} component{'s' if one.size > 1 else ''}; this has {kind.size}.",
            one.name, whole, remedy=_tidy(remedy, master),
        )  # fmt: skip
        return
    if kind.meaning == "normal":
        yield Remark(
            "normal_as_value", Severity.ERROR, f"{one.label} is fed with the vectors of a normal map.", one.name, whole
        )  # fmt: skip
        return
    yield from _of_colour_space(one, tree, kind, master)
    low, high = one.bounds
    if kind.bounds[0] < low - _SLACK or kind.bounds[1] > high + _SLACK:
        yield Remark(
            "leaves_range", Severity.WARNING,
            f"{one.label} can go from {_told(kind.bounds[0])} to {_told(kind.bounds[1])}; "
            f"it is meant from {low:g} to {high:g}.",
            one.name, whole, remedy=f"clamp({text}, {low:g}, {high:g})",
        )  # fmt: skip


def _of_colour_space(one: Input, tree: Node, kind: Kind, master: Master) -> Iterator[Remark]:
    as_numbers = _read_as_numbers(tree, master)
    for name, span in _slots_read(tree, master):
        slot = master.slots[name]
        if one.meaning == "colour" and slot.meaning == "data" and kind.meaning == "data" and kind.size == 3:
            yield Remark(
                "linear_as_colour", Severity.ERROR,
                f"{slot.title} is read as data, not as colour: {one.label.lower()} comes out pale.",
                one.name, span, about=slot.name,
            )  # fmt: skip
        if one.meaning == "data" and slot.meaning == "colour" and one.name != "opacity" and name in as_numbers:
            yield Remark(
                "colour_as_data", Severity.WARNING,
                f"{slot.title} is decoded from sRGB; as {one.label.lower()} it wants plain numbers.",
                one.name, span, about=slot.name,
            )  # fmt: skip


def _slots_read(tree: Node, master: Master) -> Iterator[tuple[str, Span]]:
    """Slots whose values reach the tree's, through rows too, with the place in the tree; each slot of a place once."""
    for node in walk(tree):
        if isinstance(node, Name) and node.name in master.slots:
            yield node.name, node.span
        elif isinstance(node, Name) and node.name in master.rows:
            within = reachable_from(master, master.rows[node.name])
            yield from ((name, node.span) for name in master.slots if name in within)


def _read_as_numbers(tree: Node, master: Master) -> set[str]:
    """Names whose values reach the tree's otherwise than by how bright they are, which is what colours are read for."""
    found: set[str] = set()
    waiting = [tree]
    while waiting:
        node = waiting.pop()
        if isinstance(node, Name) and node.name not in found:
            found.add(node.name)
            waiting += [master.rows[node.name]] if node.name in master.rows else []
        elif isinstance(node, Swizzle):
            waiting.append(node.of)
        elif isinstance(node, Call) and node.operation != "luminance":
            waiting += node.arguments
    return found


def _told(value: float) -> str:
    return "minus infinity" if value == float("-inf") else "infinity" if value == float("inf") else f"{value:g}"


def _tidy(text: str | None, master: Master) -> str | None:
    """As it would be printed, without needless brackets."""
    return None if text is None else text_of(parse_expression(text, operations_of(master.functions.values())))


def _of_arithmetic(row: str, tree: Node, kinds: Kinds, master: Master) -> Iterator[Remark]:
    for node in walk(tree):
        if not isinstance(node, Call):
            continue
        if node.operation == "divide":
            low, high = kinds.of(node.arguments[1]).bounds
            if low <= 0 <= high:
                divisor = text_of(node.arguments[1])
                yield Remark(
                    "division_by_zero", Severity.WARNING,
                    f"{divisor} can be 0, and the result is 0 there; maximum({divisor}, 0.001) keeps away from it.",
                    row, node.arguments[1].span,
                )  # fmt: skip
        if node.operation in ("levels", "smoothstep"):
            black, white = (kinds.of(one).bounds for one in node.arguments[1:3])
            if node.arguments[1] == node.arguments[2] or (black == white and black[0] == black[1]):
                end = text_of(node.arguments[1])
                yield Remark(
                    "levels_without_span", Severity.WARNING,
                    f"Both ends are {end}, so the result is 0 everywhere.", row, node.arguments[2].span,
                )  # fmt: skip
        if node.operation == "power" and kinds.of(node.arguments[0]).bounds[0] < 0:
            yield Remark(
                "power_of_negative", Severity.NOTE,
                f"{text_of(node.arguments[0])} can be negative; its power is 0 there.", row, node.arguments[0].span,
            )  # fmt: skip
        if node.operation in ("choose", "pick"):
            wanted = "switch" if node.operation == "choose" else "choice"
            chooser = node.arguments[1]
            parameter = master.parameters.get(chooser.name) if isinstance(chooser, Name) else None
            if parameter is None or parameter.kind != wanted:
                yield Remark(
                    "not_a_choice", Severity.NOTE,
                    f"{text_of(chooser)} is no {wanted} parameter, so this is decided texel by texel.",
                    row, chooser.span,
                )  # fmt: skip


def _of_names(master: Master) -> Iterator[Remark]:
    used = reachable(master)
    for slot in master.slots.values():
        if slot.name not in used:
            yield Remark("unused_slot", Severity.WARNING, f"The slot {slot.title} is read nowhere.", about=slot.name)
    for parameter in master.parameters.values():
        if parameter.name not in used:
            message = f"The parameter {parameter.title} changes nothing."
            yield Remark("idle_parameter", Severity.WARNING, message, about=parameter.name)
    called = {node.operation for _, tree in master.trees() for node in walk(tree) if isinstance(node, Call)}
    for function in master.functions.values():
        if function.name not in called:
            message = f"The function {function.title} is used nowhere."
            yield Remark("unused_function", Severity.NOTE, message, about=function.name)
    for row in master.rows:
        if row not in used:
            yield Remark("unused_row", Severity.NOTE, f"The row {row} is read nowhere.", row, about=row)
    if master.opacity_mode == "opaque" and "opacity" in master.inputs:
        yield Remark(
            "opacity_ignored", Severity.WARNING, "Opacity is set, but the surface is opaque: choose cut-out or blend.",
            "opacity",
        )  # fmt: skip
