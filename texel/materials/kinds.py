"""What the values of a sheet are: how many components, what they mean, and how far they can go."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from typing import NamedTuple

from texel.errors import BadExpression
from texel.materials.defined import trees_of
from texel.materials.master import Master, Slot
from texel.materials.operations import MAP, Interval, Operation
from texel.materials.starts import STARTS
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["Kind", "Kinds"]


class Kind(NamedTuple):
    """size: components, 1 to 4. meaning: "colour", "normal", "data", or "any" for constants. bounds: of a component."""

    size: int
    meaning: str
    bounds: Interval


# What a name within a definition stands for: a kind, or a slot.
Bound = Mapping[str, "Kind | str"]


class Kinds:
    """The kind of every node of a master's sheet, found once."""

    def __init__(self, master: Master):
        self._master = master
        self._rows: dict[str, Kind] = {}
        # What definitions give, by what they are given.
        self._defined: dict[tuple[object, ...], Kind] = {}
        # In order, so that none is looked for deep within another; what does not fit says so when it is asked for.
        for name in master.ordered_rows():
            with suppress(BadExpression):
                self._rows[name] = self.of(master.rows[name])

    def of(self, node: Node, bound: Bound | None = None) -> Kind:
        """bound: what names stand for within a definition, which knows no others but starts.

        Raises BadExpression with the place when values do not fit together.
        """
        if isinstance(node, Constant):
            return Kind(1, "any", (node.value, node.value))
        if isinstance(node, Name):
            return self._of_name(node, bound)
        if isinstance(node, Swizzle):
            return self._of_swizzle(node, bound)
        return self._of_call(node, bound)

    def slot_named(self, node: Node, bound: Bound | None = None) -> Slot:
        """The slot that stands where an operation takes a map."""
        given = node.name if isinstance(node, Name) else ""
        if bound is not None:
            known = bound.get(given)
            given = known if isinstance(known, str) else ""
        if given not in self._master.slots:
            raise BadExpression("the name of a slot belongs here", *node.span)
        return self._master.slots[given]

    def _of_name(self, node: Name, bound: Bound | None) -> Kind:
        master, name = self._master, node.name
        if bound is not None:
            given = bound.get(name)
            if isinstance(given, Kind):
                return given
        elif name in master.slots:
            return _of_slot(master.slots[name])
        elif name in master.parameters:
            parameter = master.parameters[name]
            return Kind(parameter.size, "colour" if parameter.kind == "colour" else "any", parameter.bounds)
        elif name in master.rows:
            if name not in self._rows:
                self._rows[name] = self.of(master.rows[name])
            return self._rows[name]
        if name in STARTS:
            return Kind(STARTS[name].size, "data", STARTS[name].bounds)
        raise BadExpression("there is no {name}", *node.span, name=name)

    def _of_swizzle(self, node: Swizzle, bound: Bound | None) -> Kind:
        inner = self.of(node.of, bound)
        # A slot is a map of four channels, whatever its bare name stands for.
        is_slot = isinstance(node.of, Name) and bound is None and node.of.name in self._master.slots
        is_slot = is_slot or (isinstance(node.of, Call) and node.of.operation == "read")
        size = 4 if is_slot else inner.size
        beyond = [letter for letter in node.letters if "rgba".index(letter) >= size]
        if beyond:
            raise BadExpression(
                "there is no channel {beyond} in a value of {size}", *node.span, beyond=beyond[0], size=size
            )
        meaning = inner.meaning
        if meaning in ("colour", "normal") and len(node.letters) != 3:
            meaning = "data"
        return Kind(len(node.letters), meaning, inner.bounds)

    def _of_call(self, node: Call, bound: Bound | None) -> Kind:
        operation = node.called
        slots: list[Slot | None] = [
            self.slot_named(one, bound) if at in operation.maps else None for at, one in enumerate(node.arguments)
        ]
        kinds = [
            self.of(one, bound) if slot is None else _of_slot(slot)
            for one, slot in zip(node.arguments, slots, strict=True)
        ]
        size = self._size(node, operation, kinds)
        made = Kind(size, "any", (float("-inf"), float("inf")))
        if operation.definition is not None:
            made = self._of_definition(node, operation, kinds, slots)
        if operation.meaning != "rows":
            made = made._replace(meaning=_meaning(operation, kinds, size))
        if operation.bounds is None:
            return made
        bounds = operation.bounds(*(kind.bounds for kind in kinds))
        if any(end != end for end in bounds):
            # Infinite ends against each other: it may be anything.
            bounds = (float("-inf"), float("inf"))
        return made._replace(bounds=bounds)

    def _of_definition(self, node: Call, operation: Operation, kinds: list[Kind], slots: list[Slot | None]) -> Kind:
        """The kind of what the rows of a definition give. Raises BadExpression, at the operation, where they misfit."""
        key = (operation, *kinds, *slots)
        if key in self._defined:
            return self._defined[key]
        given_sizes = [MAP if slot is not None else kind.size for kind, slot in zip(kinds, slots, strict=True)]
        sizes = operation.fitted(given_sizes)
        try:
            definition = operation.definition(sizes)  # type: ignore[misc]  # asked for where there is one
            given = (
                slot.name if slot is not None else kind._replace(size=want)
                for kind, slot, want in zip(kinds, slots, sizes, strict=True)
            )
            names: dict[str, Kind | str] = dict(zip(definition.arguments, given, strict=True))
            made = kinds[0]
            for name, tree in trees_of(definition):
                names[name] = made = self.of(tree, names)
        except BadExpression as error:
            raise error.at(*node.span) from None
        self._defined[key] = made
        return made

    def _size(self, node: Call, operation: Operation, kinds: list[Kind]) -> int:
        sizes = [kind.size for kind in kinds]
        if isinstance(operation.fits, tuple):
            for at, (wanted, size) in enumerate(zip(operation.fits, sizes, strict=True)):
                if wanted > 0 and size not in (1, wanted):
                    place = node.arguments[at].span
                    raise BadExpression(
                        "{arguments} takes {wanted} components, not {size}",
                        *place,
                        arguments=operation.arguments[at],
                        wanted=wanted,
                        size=size,
                    )
            if operation.shape in ("map", "rows"):
                # Of rows the rows themselves tell it.
                return sizes[operation.maps[0]] if operation.shape == "map" else 0
        elif operation.fits != "own":
            _check_they_meet(node, operation, sizes)
        if operation.shape == "count" and sum(sizes) > 4:
            raise BadExpression("a vector has at most four components", *node.span)
        return operation.size(operation.fitted(sizes))


def _check_they_meet(node: Call, operation: Operation, sizes: list[int]) -> None:
    switch = operation.fits == "switch"
    if switch and sizes[1] != 1:
        raise BadExpression("a switch or a choice is one number", *node.arguments[1].span)
    widest = max(size for at, size in enumerate(sizes) if not (switch and at == 1))
    for one, size in zip(node.arguments, sizes, strict=True):
        if size not in (1, widest):
            raise BadExpression(
                "values of {size} and {widest} components do not meet", *one.span, size=size, widest=widest
            )


def _of_slot(slot: Slot) -> Kind:
    return Kind(slot.size, slot.meaning, (-1.0, 1.0) if slot.is_normal else (0.0, 1.0))


def _meaning(operation: Operation, kinds: list[Kind], size: int) -> str:
    rule = operation.meaning
    if rule in ("normal", "colour", "data"):
        return rule
    if rule == "map":
        return kinds[operation.maps[0]].meaning
    flowing = {"first": kinds[:1], "first two": kinds[:2], "options": [kinds[0], *kinds[2:]]}.get(rule, kinds)
    meanings = [kind.meaning for kind in flowing if kind.size == size] or [kind.meaning for kind in flowing]
    for meaning in ("normal", "colour", "data"):
        if meaning in meanings:
            return meaning
    return "any"
