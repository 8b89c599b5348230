"""The NumPy back end: a sheet's surface over a grid of texels. What baking and every comparison go by."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from texel.errors import BadExpression
from texel.image import Texels
from texel.materials.defined import trees_of
from texel.materials.master import INPUTS, Coordinates, Master
from texel.materials.operations import MAP, OPERATIONS
from texel.materials.sampling import SlotMap, coordinates_of, uv_grid
from texel.materials.simplify import value_of
from texel.materials.starts import EVERYWHERE, on_flat
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["Evaluation", "Surface", "evaluate", "placed", "values_of"]

Array = NDArray[np.float32]
Surface = dict[str, Array]


def values_of(master: Master, changes: Mapping[str, tuple[float, ...]]) -> dict[str, tuple[float, ...]]:
    """Every parameter's value: the change where there is one, else the default."""
    return {name: changes.get(name, one.default) for name, one in master.parameters.items()}


# What a name within a definition stands for: a value, or a slot.
Bound = Mapping[str, "Array | str"]


@dataclass
class _Reader:
    """Reads trees over one grid; rows and slots are read once."""

    master: Master
    values: Mapping[str, tuple[float, ...]]
    maps: Mapping[str, SlotMap]
    uv: Array
    place: Mapping[str, Array]
    _made: dict[str, Array] = field(default_factory=dict)

    def read(self, node: Node, bound: Bound | None = None) -> Array:
        """bound: what names stand for within a definition, which knows no others but starts."""
        if isinstance(node, Constant):
            return np.array([node.value], np.float32)
        if isinstance(node, Name):
            if bound is None:
                return self._bare(node.name)
            given = bound.get(node.name)
            return self._start(node.name) if given is None or isinstance(given, str) else given
        if isinstance(node, Swizzle):
            return self._whole(node.of, bound)[..., ["rgba".index(letter) for letter in node.letters]]
        if node.operation == "read":
            slot, value = self._sampled(node, bound)
            return value[..., : self.master.slots[slot].size]
        return self._call(node, bound)

    def _whole(self, node: Node, bound: Bound | None) -> Array:
        """A value whose channels are taken: of a slot all four."""
        if isinstance(node, Name) and bound is None and node.name in self.master.slots:
            return self._named(node.name)
        if isinstance(node, Call) and node.operation == "read":
            return self._sampled(node, bound)[1]
        return self.read(node, bound)

    def _sampled(self, node: Call, bound: Bound | None) -> tuple[str, Array]:
        """A slot's name and its four channels at computed coordinates; those that are no numbers count as 0."""
        slot = _slot_named(node.arguments[1], bound)
        where = _as_wide(self.read(node.arguments[0], bound), 2)
        where = np.where(np.isfinite(where), where, np.float32(0))
        return slot, self.maps[slot].read(np.broadcast_to(where, (*self.uv.shape[:-1], 2)))

    def _call(self, node: Call, bound: Bound | None) -> Array:
        operation = node.called
        given: list[Array | str] = [
            _slot_named(one, bound) if size == MAP else _as_wide(self.read(one, bound), size)
            for one, size in zip(node.arguments, operation.wanted(len(node.arguments)), strict=True)
        ]
        if operation.definition is None:
            assert operation.apply is not None
            return np.asarray(operation.apply(*given), np.float32)
        sizes = tuple(MAP if isinstance(one, str) else one.shape[-1] for one in given)
        definition = operation.definition(operation.fitted(sizes))
        names: dict[str, Array | str] = dict(zip(definition.arguments, given, strict=True))
        made = np.zeros(1, np.float32)
        for name, tree in trees_of(definition):
            names[name] = made = self.read(tree, names)
        return made

    def _bare(self, name: str) -> Array:
        value = self._named(name)
        return value[..., : self.master.slots[name].size] if name in self.master.slots else value

    def _named(self, name: str) -> Array:
        if name not in self._made:
            self._made[name] = self._make(name)
        return self._made[name]

    def _make(self, name: str) -> Array:
        master = self.master
        if name in master.parameters:
            return np.asarray(self.values[name], np.float32)
        if name in master.rows:
            return self.read(master.rows[name])
        if name not in master.slots:
            return self._start(name)
        where, degrees = self._where(master.coordinates[master.slots[name].coordinates])
        return self.maps[name].read(where, degrees)

    def _start(self, name: str) -> Array:
        return self.place[name] if name in self.place else on_flat(name, self.uv)

    def _where(self, one: Coordinates) -> tuple[Array, float]:
        """Coordinates, and by how many degrees they are turned."""
        given = {name: tuple(map(float, self.place[name])) for name in EVERYWHERE if name in self.place}
        tiling, offset, degrees = placed(one, {**given, **self.values})
        return coordinates_of(self.uv, tiling, offset, degrees), degrees


def _slot_named(node: Node, bound: Bound | None) -> str:
    assert isinstance(node, Name)
    given = node.name if bound is None else bound[node.name]
    assert isinstance(given, str)
    return given


def placed(
    one: Coordinates, values: Mapping[str, tuple[float, ...]]
) -> tuple[tuple[float, ...], tuple[float, ...], float]:
    """Tiling, offset and degrees of coordinates. values: of parameters, and of starts that are not as on a flat
    square. Raises BadExpression for a tiling or an offset of more than two numbers, a rotation of more than one."""
    names = {name: (0.0,) if name == "time" else (0.5,) for name in EVERYWHERE} | dict(values)

    def value(tree: Node, key: str, size: int) -> tuple[float, ...]:
        found = tuple(map(float, value_of(tree, names)))
        if len(found) not in (1, size):
            raise BadExpression(
                "the {key} of the coordinates {name} has {count} numbers, at most {size} are read", 0, 0, key=key,
                name=one.name, count=len(found), size=size,
            )  # fmt: skip
        return found * size if len(found) == 1 else found

    rotation = value(one.rotation, "rotation", 1)[0]
    return value(one.tiling, "tiling", 2), value(one.offset, "offset", 2), rotation


def _as_wide(value: Array, size: int) -> Array:
    """A number as a vector of ``size`` equal components; a size of 0 leaves it as it is."""
    return np.repeat(value, size, axis=-1) if value.shape[-1] == 1 and size > 1 else value


class Evaluation:
    """A sheet with its maps and values, ready to be computed for any rows of a grid of texels."""

    def __init__(
        self,
        master: Master,
        maps: Mapping[str, Texels],
        changes: Mapping[str, tuple[float, ...]],
        width: int,
        height: int,
        vertex: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 1.0),
        place: Mapping[str, tuple[float, ...]] | None = None,
    ):
        """maps: by slot; slots without one read their default. changes: values that differ from the defaults.
        vertex: the vertex colour everywhere. place: starts that are not as on a flat square, see
        texel.materials.starts."""
        self._master, self._size = master, (width, height)
        given = {"vertex": vertex, **(place or {})}
        self._place = {name: np.asarray(value, np.float32) for name, value in given.items()}
        self._values = values_of(master, changes)
        self._order = master.ordered_rows()
        self._slots = {name: SlotMap(slot, maps.get(name)) for name, slot in master.slots.items()}

    def surface(self, rows: slice | None = None) -> Surface:
        """Every input of the surface, shape (rows, width, size), float32, as the sheet gives it.

        Inputs that the sheet leaves out are neutral. Nothing is clamped, but the normal has unit length.
        """
        uv = uv_grid(*self._size, rows)
        reader = _Reader(self._master, self._values, self._slots, uv, self._place)
        for name in self._order:
            reader.read(Name(name))
        surface: Surface = {}
        for name, one in INPUTS.items():
            tree = self._master.inputs.get(name)
            value = np.asarray(one.neutral, np.float32) if tree is None else _as_wide(reader.read(tree), one.size)
            surface[name] = np.broadcast_to(value, (*uv.shape[:2], one.size))
        strengthen = OPERATIONS["strengthen"].apply
        assert strengthen is not None
        strengthened = strengthen(surface["normal"], surface["normal_strength"])
        return surface | {"normal": strengthened}


def evaluate(
    master: Master,
    maps: Mapping[str, Texels],
    changes: Mapping[str, tuple[float, ...]],
    width: int,
    height: int,
    rows: slice | None = None,
    vertex: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 1.0),
    place: Mapping[str, tuple[float, ...]] | None = None,
) -> Surface:
    """A sheet's surface over width x height texels, or some rows of it; see Evaluation. Raises BadExpression."""
    return Evaluation(master, maps, changes, width, height, vertex, place).surface(rows)
