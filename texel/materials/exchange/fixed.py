"""A cast's surface with its parameters filled in: what formats without parameters are written from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import NamedTuple

from texel.image import Texels
from texel.materials.evaluate import values_of
from texel.materials.master import INPUTS, Master
from texel.materials.remarks import reachable
from texel.materials.sampling import plain_value
from texel.materials.simplify import constants_of, simplified
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["FilledCast", "Textured", "fixed_inputs", "scaled_normal", "textured", "uniform_number"]


class FilledCast(NamedTuple):
    """changes: components by parameter. maps: what fills slots; the rest read their defaults. tiles: of slots that are
    filled in several tiles (texel.tiles) the map of each number; ``maps`` has the first of them."""

    name: str
    changes: Mapping[str, tuple[float, ...]]
    maps: Mapping[str, Texels]
    tiles: Mapping[str, Mapping[int, Texels]] = MappingProxyType({})

    @property
    def numbers(self) -> tuple[int, ...]:
        """Of all tiles; none where no slot has any."""
        return tuple(sorted({number for own in self.tiles.values() for number in own}))

    def tile(self, number: int) -> FilledCast:
        """The cast as it is in one tile; a slot that has none there reads its default."""
        whole = {slot: texels for slot, texels in self.maps.items() if slot not in self.tiles}
        own = {slot: one[number] for slot, one in self.tiles.items() if number in one}
        return FilledCast(self.name, self.changes, whole | own)


class Textured(NamedTuple):
    """A map's channels times a factor; without a slot the factor alone."""

    slot: str
    letters: str
    factor: tuple[float, ...]


def fixed_inputs(master: Master, cast: FilledCast) -> dict[str, Node]:
    """Every input of the surface: parameters and slots without a map as constants, rows read through."""
    values = values_of(master, cast.changes)
    made: dict[str, Node] = {}

    def named(name: str) -> Node:
        if name not in made:
            if name in master.rows:
                made[name] = fixed(master.rows[name])
            elif name in values:
                made[name] = _constant(values[name])
            else:
                made[name] = Name(name)
        return made[name]

    def fixed(node: Node) -> Node:
        if isinstance(node, Name):
            if node.name in master.slots and node.name not in cast.maps:
                slot = master.slots[node.name]
                return _constant(tuple(plain_value(slot)[: slot.size]))
            return named(node.name)
        if isinstance(node, Swizzle):
            if isinstance(node.of, Name) and node.of.name in master.slots:
                if node.of.name in cast.maps:
                    return node
                whole = plain_value(master.slots[node.of.name])
                return _constant(tuple(whole["rgba".index(letter)] for letter in node.letters))
            return simplified(Swizzle(fixed(node.of), node.letters))
        if isinstance(node, Call):
            # A slot that is read elsewhere stays a name: there is no value of it.
            maps, arguments = node.called.maps, enumerate(node.arguments)
            inside = tuple(one if at in maps else fixed(one) for at, one in arguments)
            return simplified(replace(node, arguments=inside))
        return node

    constants = {}
    for name, one in INPUTS.items():
        constants[name] = fixed(master.inputs[name]) if name in master.inputs else _constant(one.neutral)
    return constants


def uniform_number(master: Master, name: str) -> str | float | None:
    """An input that is the same everywhere: the number parameter that it is, or the number that it has without any
    parameter or map; None for anything else."""
    tree, read = master.inputs[name], reachable(master, [name])
    if isinstance(tree, Name) and tree.name in master.parameters and master.parameters[tree.name].kind == "number":
        return tree.name
    if read & {*master.parameters, *master.slots}:
        return None
    value = constants_of(fixed_inputs(master, FilledCast(master.title, {}, {}))[name])
    return value[0] if value is not None else None


def _constant(parts: tuple[float, ...]) -> Node:
    joined = tuple(Constant(float(part)) for part in parts)
    if len(joined) == 1:
        return joined[0]
    return simplified(Call("rgb" if len(joined) == 3 else "vector", joined))


def textured(node: Node, size: int, bare: Mapping[str, str]) -> Textured | None:
    """The value as channels of one map times a factor, or None. bare: letters that a slot's name stands for, of slots
    that hold no normals."""
    value = constants_of(node)
    if value is not None:
        return Textured("", "", value * size if len(value) == 1 else value)
    if isinstance(node, Call) and node.operation == "multiply":
        for one, other in (node.arguments, node.arguments[::-1]):
            factor, inner = constants_of(other), textured(one, size, bare)
            if factor is not None and inner is not None and inner.slot:
                factors = factor * size if len(factor) == 1 else factor
                return inner._replace(factor=tuple(a * b for a, b in zip(inner.factor, factors, strict=True)))
    if isinstance(node, Call) and node.operation == "power" and constants_of(node.arguments[1]) == (1.0,):
        # The same for what is not below 0, which no map but a normal map is.
        return textured(node.arguments[0], size, bare)
    if isinstance(node, Name) and node.name in bare and len(bare[node.name]) == size:
        return Textured(node.name, bare[node.name], (1.0,) * size)
    if isinstance(node, Swizzle) and isinstance(node.of, Name) and node.of.name in bare and len(node.letters) == size:
        return Textured(node.of.name, node.letters, (1.0,) * size)
    return None


def scaled_normal(node: Node, strength: Node) -> tuple[str, float] | None:
    """Slot and scale of a normal that is one map with its slopes scaled by a number, or None."""
    scale = constants_of(strength)
    while isinstance(node, Call) and node.operation == "strengthen":
        more = constants_of(node.arguments[1])
        if scale is None or more is None:
            return None
        scale, node = (scale[0] * more[0],), node.arguments[0]
    return (node.name, scale[0]) if isinstance(node, Name) and scale is not None else None
