"""What the values of a sheet are: how many components, what they mean, and how far they can go."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass

from texel.errors import BadExpression
from texel.materials.master import Master
from texel.materials.operations import OPERATIONS, Interval, Operation
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["Kind", "Kinds"]


@dataclass(frozen=True)
class Kind:
    """size: components, 1 to 4. meaning: "colour", "normal", "data", or "any" for constants. bounds: of a component."""

    size: int
    meaning: str
    bounds: Interval


_KEEPS_NORMAL = ("strengthen", "combine_normals", "normalise")


class Kinds:
    """The kind of every node of a master's sheet, found once."""

    def __init__(self, master: Master):
        self._master = master
        self._rows: dict[str, Kind] = {}
        # In order, so that none is looked for deep within another; what does not fit says so when it is asked for.
        for name in master.ordered_rows():
            with suppress(BadExpression):
                self._rows[name] = self.of(master.rows[name])

    def of(self, node: Node) -> Kind:
        """Raises BadExpression with the place when values do not fit together."""
        if isinstance(node, Constant):
            return Kind(1, "any", (node.value, node.value))
        if isinstance(node, Name):
            return self._of_name(node)
        if isinstance(node, Swizzle):
            return self._of_swizzle(node)
        return self._of_call(node)

    def _of_name(self, node: Name) -> Kind:
        master, name = self._master, node.name
        if name in master.slots:
            slot = master.slots[name]
            return Kind(slot.size, slot.meaning, (-1.0, 1.0) if slot.is_normal else (0.0, 1.0))
        if name in master.parameters:
            parameter = master.parameters[name]
            return Kind(parameter.size, "colour" if parameter.kind == "colour" else "any", parameter.bounds)
        if name in master.rows:
            if name not in self._rows:
                self._rows[name] = self.of(master.rows[name])
            return self._rows[name]
        if name == "uv":
            return Kind(2, "data", (float("-inf"), float("inf")))
        if name == "vertex":
            return Kind(4, "data", (0.0, 1.0))
        raise BadExpression("there is no {name}", *node.span, name=name)

    def _of_swizzle(self, node: Swizzle) -> Kind:
        inner = self.of(node.of)
        # A slot is a map of four channels, whatever its bare name stands for.
        is_slot = isinstance(node.of, Name) and node.of.name in self._master.slots
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

    def _of_call(self, node: Call) -> Kind:
        operation = OPERATIONS[node.operation]
        kinds = [self.of(one) for one in node.arguments]
        size = self._size(node, operation, kinds)
        bounds = operation.bounds(*(kind.bounds for kind in kinds))
        if any(end != end for end in bounds):
            # Infinite ends against each other: it may be anything.
            bounds = (float("-inf"), float("inf"))
        return Kind(size, _meaning(node.operation, kinds, size), bounds)

    def _size(self, node: Call, operation: Operation, kinds: list[Kind]) -> int:
        sizes = [kind.size for kind in kinds]
        if isinstance(operation.fits, tuple):
            for at, (wanted, size) in enumerate(zip(operation.fits, sizes, strict=True)):
                if wanted and size not in (1, wanted):
                    place = node.arguments[at].span
                    raise BadExpression(
                        "{arguments} takes {wanted} components, not {size}",
                        *place,
                        arguments=operation.arguments[at],
                        wanted=wanted,
                        size=size,
                    )
        if operation.shape == "count":
            if sum(sizes) > 4:
                raise BadExpression("a vector has at most four components", *node.span)
            return sum(sizes)
        if operation.shape == "first":
            return sizes[0]
        if operation.shape.isdigit():
            return int(operation.shape)
        if isinstance(operation.fits, tuple):
            return max(max(operation.fits), *sizes)
        if operation.fits == "switch":
            if sizes[1] != 1:
                raise BadExpression("a switch or a choice is one number", *node.arguments[1].span)
            sizes = [sizes[0], *sizes[2:]]
        widest = max(sizes)
        for at, size in enumerate(sizes):
            if size not in (1, widest):
                place = node.arguments[at if operation.fits != "switch" or at == 0 else at + 1].span
                raise BadExpression(
                    "values of {size} and {widest} components do not meet", *place, size=size, widest=widest
                )
        return widest


def _meaning(operation: str, kinds: list[Kind], size: int) -> str:
    if operation in _KEEPS_NORMAL:
        return "normal"
    if operation == "rgb":
        return "colour"
    if operation in ("luminance", "vector"):
        return "data"
    flowing = [kinds[0], *kinds[2:]] if operation in ("choose", "pick") else kinds
    if operation == "mix":
        flowing = kinds[:2]
    if operation in ("occlude", "saturate", "tint"):
        flowing = kinds[:1]
    meanings = [kind.meaning for kind in flowing if kind.size == size] or [kind.meaning for kind in flowing]
    for meaning in ("normal", "colour", "data"):
        if meaning in meanings:
            return meaning
    return "any"
