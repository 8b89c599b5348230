"""Large grids: a sheet as a list of steps over planes of texels, done by compiled loops (texel.materials.loops).

The NumPy back end (texel.materials.evaluate) is the reference; tests hold this one to it. A plane holds one component
of one value for every texel of a strip; a step reads up to three planes and writes one. Only the loops are compiled,
once and for all sheets; the list is made anew for each.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from texel.colour import srgb_to_unit_linear
from texel.image import Pixels, Texels
from texel.materials import opcodes
from texel.materials.defined import trees_of
from texel.materials.evaluate import Surface, placed, values_of
from texel.materials.loops import find, gather, run
from texel.materials.master import INPUTS, WRAPS, Master, Slot
from texel.materials.operations import MAP, OPERATIONS
from texel.materials.planes import Planes
from texel.materials.sampling import coordinates_of, plain_value, uv_grid
from texel.materials.starts import flat_parts
from texel.materials.tree import Call, Constant, Name, Node, Swizzle
from texel.roles import Green, Transfer

__all__ = ["STRIP", "CompiledEvaluation", "can_be_compiled"]

Array = NDArray[np.float32]
Values = tuple[float, ...]
# What a name within a definition stands for: planes, or a slot.
Bound = Mapping[str, "list[int] | str"]
# Planes of computed coordinates; None for those of the slot.
Where = tuple[int, int] | None
# Texels at a time: their planes stay near the processor.
STRIP = 16 * 1024


class _Sampling(NamedTuple):
    """A slot read at some place. after: how many steps are done before it. channels: of its map, and their planes."""

    slot: str
    where: Where
    after: int
    channels: dict[int, int]


class _Writer:
    """A sheet as steps: every value is a list of planes, one a component."""

    def __init__(
        self, master: Master, values: Mapping[str, Values], maps: Mapping[str, Texels], place: Mapping[str, Values]
    ):
        self.steps = Planes()
        self.master, self.values, self.maps, self.place = master, values, maps, place
        self.uv = [self.steps.plane(), self.steps.plane()]
        self.samplings: dict[tuple[str, Where], _Sampling] = {}
        self._made: dict[str, list[int]] = {}
        self._letters: dict[tuple[str, Where, str], int] = {}
        for name in master.ordered_rows():
            self._made[name] = self.read(master.rows[name])

    def read(self, node: Node, bound: Bound | None = None) -> list[int]:
        """bound: what names stand for within a definition, which knows no others but starts."""
        if isinstance(node, Constant):
            return [self.steps.constant(node.value)]
        if isinstance(node, Name):
            if bound is None:
                return self._named(node.name)
            given = bound.get(node.name)
            return given if isinstance(given, list) else self._start(node.name)
        if isinstance(node, Swizzle):
            return self._channels(node, bound)
        return self._call(node, bound)

    def _channels(self, node: Swizzle, bound: Bound | None) -> list[int]:
        if isinstance(node.of, Name) and bound is None and node.of.name in self.master.slots:
            return [self._letter(node.of.name, None, letter) for letter in node.letters]
        if isinstance(node.of, Call) and node.of.operation == "read":
            slot, where = self._reading(node.of, bound)
            return [self._letter(slot, where, letter) for letter in node.letters]
        whole = self.read(node.of, bound)
        return [whole["rgba".index(letter)] for letter in node.letters]

    def _named(self, name: str) -> list[int]:
        if name in self.master.slots:
            return [self._letter(name, None, letter) for letter in "rgba"[: self.master.slots[name].size]]
        if name not in self._made:
            if name in self.values:
                self._made[name] = [self.steps.constant(part) for part in self.values[name]]
            elif name in self.master.rows:
                self._made[name] = self.read(self.master.rows[name])
            else:
                self._made[name] = self._start(name)
        return self._made[name]

    def _start(self, name: str) -> list[int]:
        constant = self.steps.constant
        if name in self.place:
            return [constant(part) for part in self.place[name]]
        planes: dict[str | float, int] = dict(zip("uv", self.uv, strict=True))
        return [planes[part] if part in planes else constant(float(part)) for part in flat_parts(name)]

    # Slots.

    def _reading(self, node: Call, bound: Bound | None) -> tuple[str, Where]:
        """The slot that an operation reads, and the planes of where."""
        u, v = _wide(self.read(node.arguments[0], bound), 2)
        return _slot_named(node.arguments[1], bound), (u, v)

    def _letter(self, slot: str, where: Where, letter: str) -> int:
        """The plane of a channel of a slot, as the sheet sees it."""
        key = (slot, where, letter)
        if key not in self._letters:
            one = self.master.slots[slot]
            if slot not in self.maps:
                self._letters[key] = self.steps.constant(plain_value(one)["rgba".index(letter)])
            elif one.is_normal and letter != "a":
                self._unpack(one, where)
            else:
                self._letters[key] = self._stored(slot, where, "rgba".index(letter))
        return self._letters[key]

    def _stored(self, slot: str, where: Where, at: int) -> int:
        """The plane of a channel as it is decoded; grey is every colour, alpha full where there is none."""
        texels = self.maps[slot]
        colours = len(texels.channels) - (1 if texels.has_alpha else 0)
        if at == 3 and not texels.has_alpha:
            return self.steps.constant(1)
        channel = len(texels.channels) - 1 if at == 3 else 0 if colours == 1 else at
        after = 0 if where is None else len(self.steps.steps)
        sampling = self.samplings.setdefault((slot, where), _Sampling(slot, where, after, {}))
        if channel not in sampling.channels:
            sampling.channels[channel] = self.steps.plane()
        return sampling.channels[channel]

    def _unpack(self, slot: Slot, where: Where) -> None:
        do, constant = self.steps.do, self.steps.constant

        def spread(plane: int) -> int:
            return do(opcodes.SUBTRACT, do(opcodes.MULTIPLY, plane, constant(2)), constant(1))

        # All of them are read before the first step that waits for one.
        stored = [self._stored(slot.name, where, at) for at in range(3)]
        x, y, z = (spread(plane) for plane in stored)
        if slot.green is Green.DOWN:
            y = do(opcodes.MULTIPLY, y, constant(-1))
        degrees = (
            placed(self.master.coordinates[slot.coordinates], {**self.place, **self.values})[2]
            if where is None
            else 0.0
        )
        if degrees:
            angle = np.float32(np.deg2rad(degrees))
            cos, sin = constant(float(np.cos(angle))), constant(float(np.sin(angle)))
            left = do(opcodes.SUBTRACT, do(opcodes.MULTIPLY, cos, x), do(opcodes.MULTIPLY, sin, y))
            x, y = left, do(opcodes.ADD, do(opcodes.MULTIPLY, sin, x), do(opcodes.MULTIPLY, cos, y))
        made = zip("rgb", (x, y, z), strict=True)
        self._letters |= {(slot.name, where, letter): plane for letter, plane in made}

    # Operations.

    def _call(self, node: Call, bound: Bound | None) -> list[int]:
        operation = node.called
        if node.operation == "read":
            slot, where = self._reading(node, bound)
            return [self._letter(slot, where, letter) for letter in "rgba"[: self.master.slots[slot].size]]
        read = [
            _slot_named(one, bound) if at in operation.maps else self.read(one, bound)
            for at, one in enumerate(node.arguments)
        ]
        sizes = operation.fitted([len(one) if isinstance(one, list) else MAP for one in read])
        given = [_wide(one, size) if isinstance(one, list) else one for one, size in zip(read, sizes, strict=True)]
        if operation.definition is not None:
            definition = operation.definition(sizes)
            names: dict[str, list[int] | str] = dict(zip(definition.arguments, given, strict=True))
            made: list[int] = []
            for name, tree in trees_of(definition):
                names[name] = made = self.read(tree, names)
            return made
        assert operation.planes is not None
        return operation.planes(self.steps, given)  # type: ignore[arg-type]  # slots go to definitions alone


def _slot_named(node: Node, bound: Bound | None) -> str:
    assert isinstance(node, Name)
    given = node.name if bound is None else bound[node.name]
    assert isinstance(given, str)
    return given


def _wide(planes: list[int], size: int) -> list[int]:
    return planes * size if len(planes) == 1 else planes


def can_be_compiled(maps: Mapping[str, Texels]) -> bool:
    """Whether all maps hold integers of at most 16 bits, which go through tables, and none has two channels, whose
    third is rebuilt texel by texel."""
    return all(one.pixels.dtype in (np.uint8, np.uint16) and one.channels != "rg" for one in maps.values())


class CompiledEvaluation:
    """A sheet with its maps and values, as texel.materials.evaluate.Evaluation, for maps that hold integers."""

    def __init__(
        self,
        master: Master,
        maps: Mapping[str, Texels],
        changes: Mapping[str, Values],
        width: int,
        height: int,
        vertex: Values = (0.0, 0.0, 0.0, 1.0),
        inputs: Collection[str] = tuple(INPUTS),
        place: Mapping[str, Values] | None = None,
    ):
        """inputs: those of the surface that are wanted; the others are given as neutral. place: starts that are not
        as on a flat square, see texel.materials.starts."""
        self._size, self._maps = (width, height), {name: maps[name] for name in master.slots if name in maps}
        self._values = values_of(master, changes)
        self._master = master
        self._place = {"vertex": vertex, **(place or {})}
        writer = _Writer(master, self._values, self._maps, self._place)
        outputs: dict[str, list[int]] = {}
        for name, one in INPUTS.items():
            tree = master.inputs.get(name) if name in inputs else None
            neutral = [writer.steps.constant(part) for part in one.neutral]
            outputs[name] = _wide(writer.read(tree), one.size) if tree is not None else neutral
        strengthen = OPERATIONS["strengthen"].planes
        assert strengthen is not None
        outputs["normal"] = strengthen(writer.steps, [outputs["normal"], outputs["normal_strength"][:1]])
        self._outputs = outputs
        kept = {plane for planes in outputs.values() for plane in planes}
        kept |= {plane for one in writer.samplings.values() for plane in one.where or ()}
        self._steps, self._number, self._count = writer.steps.packed(kept)
        self._constants = {self._number[plane]: value for value, plane in writer.steps.constants.items()}
        self._uv = [self._number[plane] for plane in writer.uv]
        self._reads = [self._reading(one) for one in sorted(writer.samplings.values(), key=lambda one: one.after)]

    def _reading(self, one: _Sampling) -> _Reading:
        slot, texels, channels = self._master.slots[one.slot], self._maps[one.slot], one.channels
        steps = np.arange(int(np.iinfo(texels.pixels.dtype).max) + 1)
        plain = (steps / steps[-1]).astype(np.float32)
        curve = srgb_to_unit_linear(steps.astype(texels.pixels.dtype)) if slot.colour_space is Transfer.SRGB else plain
        alpha = len(texels.channels) - 1 if texels.has_alpha else -1
        which = sorted(channels)
        tables = np.stack([plain if channel == alpha else curve for channel in which])
        to = np.array([self._number[channels[channel]] for channel in which], np.int32)
        flat = np.ascontiguousarray(texels.pixels).reshape(-1, texels.pixels.shape[2])
        where = slot.coordinates if one.where is None else tuple(self._number[plane] for plane in one.where)
        return _Reading(
            one.after, flat, np.array(which, np.int32), tables, to, where, texels.width, texels.height,
            WRAPS.index(slot.wrap), slot.filter == "nearest",
        )  # fmt: skip

    def surface(self, rows: slice | None = None) -> Surface:
        """As texel.materials.evaluate.Evaluation.surface."""
        uv = uv_grid(*self._size, rows)
        shape = uv.shape[:2]
        count = shape[0] * shape[1]
        planes = np.empty((self._count, count), np.float32)
        for at, value in self._constants.items():
            planes[at] = value
        planes[self._uv[0]], planes[self._uv[1]] = uv[..., 0].ravel(), uv[..., 1].ravel()
        found_at: dict[tuple[object, ...], tuple[NDArray[np.uint32], Array]] = {}
        done = 0
        for one in self._reads:
            if one.after > done:
                run(self._steps[done : one.after], planes)
                done = one.after
            key = (one.place, one.width, one.height, one.wrap, one.nearest)
            if key not in found_at:
                found_at[key] = np.empty((4, count), np.uint32), np.empty((2, count), np.float32)
                if isinstance(one.place, str):
                    where = coordinates_of(
                        uv, *placed(self._master.coordinates[one.place], {**self._place, **self._values})
                    )
                    u, v = (np.ascontiguousarray(where[..., at]).ravel() for at in (0, 1))
                else:
                    u, v = (planes[plane] for plane in one.place)
                find(u, v, one.width, one.height, one.wrap, one.nearest, *found_at[key])
            gather(one.texels, one.which, one.tables, *found_at[key], planes, one.to)
        run(self._steps[done:], planes)
        results: Surface = {}
        for name, outputs in self._outputs.items():
            parts = [planes[self._number[plane]].reshape(shape) for plane in outputs]
            results[name] = parts[0][..., None] if len(parts) == 1 else np.stack(parts, axis=-1)
        return results


class _Reading(NamedTuple):
    """Channels of a map that are read: after how many steps, its texels, which of their channels, through which
    tables, into which planes, and where: coordinates by name, or the planes of computed ones."""

    after: int
    texels: Pixels
    which: NDArray[np.int32]
    tables: Array
    to: NDArray[np.int32]
    place: str | tuple[int, ...]
    width: int
    height: int
    wrap: int
    nearest: bool
