"""The NumPy back end: a sheet's surface over a grid of texels. What baking and every comparison go by."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from texel.image import Texels
from texel.materials.master import INPUTS, Coordinates, Master
from texel.materials.operations import OPERATIONS
from texel.materials.sampling import SlotMap, coordinates_of, uv_grid
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["Evaluation", "Surface", "evaluate", "placed", "values_of"]

Array = NDArray[np.float32]
Surface = dict[str, Array]


def values_of(master: Master, changes: Mapping[str, tuple[float, ...]]) -> dict[str, tuple[float, ...]]:
    """Every parameter's value: the change where there is one, else the default."""
    return {name: changes.get(name, one.default) for name, one in master.parameters.items()}


@dataclass
class _Reader:
    """Reads trees over one grid; rows and slots are read once."""

    master: Master
    values: Mapping[str, tuple[float, ...]]
    maps: Mapping[str, SlotMap]
    uv: Array
    vertex: Array
    _made: dict[str, Array] = field(default_factory=dict)

    def read(self, node: Node) -> Array:
        if isinstance(node, Constant):
            return np.array([node.value], np.float32)
        if isinstance(node, Name):
            return self._bare(node.name)
        if isinstance(node, Swizzle):
            is_slot = isinstance(node.of, Name) and node.of.name in self.master.slots
            whole = self._named(node.of.name) if is_slot and isinstance(node.of, Name) else self.read(node.of)
            return whole[..., ["rgba".index(letter) for letter in node.letters]]
        return self._call(node)

    def _call(self, node: Call) -> Array:
        operation = OPERATIONS[node.operation]
        values = [self.read(one) for one in node.arguments]
        if isinstance(operation.fits, tuple):
            wanted = operation.fits
            values = [_as_wide(value, size) if size else value for value, size in zip(values, wanted, strict=True)]
        return np.asarray(operation.apply(*values), np.float32)

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
        if name == "uv":
            return self.uv
        if name == "vertex":
            return self.vertex
        where, degrees = self._where(master.coordinates[master.slots[name].coordinates])
        return self.maps[name].read(where, degrees)

    def _where(self, one: Coordinates) -> tuple[Array, float]:
        """Coordinates, and by how many degrees they are turned."""
        tiling, offset, degrees = placed(one, self.values)
        return coordinates_of(self.uv, tiling, offset, degrees), degrees


def placed(
    one: Coordinates, values: Mapping[str, tuple[float, ...]]
) -> tuple[tuple[float, ...], tuple[float, ...], float]:
    """Tiling, offset and degrees of coordinates, with parameters as they are."""

    def value(given: object) -> tuple[float, ...]:
        if isinstance(given, str):
            return tuple(values[given])
        return given if isinstance(given, tuple) else (float(given),)  # type: ignore[arg-type]

    return value(one.tiling), value(one.offset), value(one.rotation)[0]


def _as_wide(value: Array, size: int) -> Array:
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
    ):
        """maps: by slot; slots without one read their default. changes: values that differ from the defaults.
        vertex: the vertex colour everywhere."""
        self._master, self._size, self._vertex = master, (width, height), np.asarray(vertex, np.float32)
        self._values = values_of(master, changes)
        self._order = master.ordered_rows()
        self._slots = {name: SlotMap(slot, maps.get(name)) for name, slot in master.slots.items()}

    def surface(self, rows: slice | None = None) -> Surface:
        """Every input of the surface, shape (rows, width, size), float32, as the sheet gives it.

        Inputs that the sheet leaves out are neutral. Nothing is clamped, but the normal has unit length.
        """
        uv = uv_grid(*self._size, rows)
        reader = _Reader(self._master, self._values, self._slots, uv, self._vertex)
        for name in self._order:
            reader.read(Name(name))
        surface: Surface = {}
        for name, one in INPUTS.items():
            tree = self._master.inputs.get(name)
            value = np.asarray(one.neutral, np.float32) if tree is None else _as_wide(reader.read(tree), one.size)
            surface[name] = np.broadcast_to(value, (*uv.shape[:2], one.size))
        strengthened = OPERATIONS["strengthen"].apply(surface["normal"], surface["normal_strength"])
        return surface | {"normal": strengthened}


def evaluate(
    master: Master,
    maps: Mapping[str, Texels],
    changes: Mapping[str, tuple[float, ...]],
    width: int,
    height: int,
    rows: slice | None = None,
    vertex: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 1.0),
) -> Surface:
    """A sheet's surface over width x height texels, or some rows of it; see Evaluation. Raises BadExpression."""
    return Evaluation(master, maps, changes, width, height, vertex).surface(rows)
