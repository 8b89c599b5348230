"""Large grids: a sheet as a list of steps over planes of texels, done by compiled loops (texel.materials.loops).

The NumPy back end (texel.materials.evaluate) is the reference; tests hold this one to it. A plane holds one component
of one value for every texel of a strip; a step reads up to three planes and writes one. Only the loops are compiled,
once and for all sheets; the list is made anew for each.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from texel.colour import LUMINANCE, srgb_to_unit_linear
from texel.image import Pixels, Texels
from texel.materials.evaluate import Surface, placed, values_of
from texel.materials.loops import (
    ABSOLUTE,
    ADD,
    CHOOSE,
    CLAMP,
    DIVIDE,
    FRACTION,
    LENGTH,
    LEVELS,
    MAXIMUM,
    MINIMUM,
    MIX,
    MULTIPLY,
    POWER,
    ROOT,
    SINE,
    SMOOTH,
    SUBTRACT,
    UNIT,
    UNIT_Z,
    find,
    gather,
    run,
)  # fmt: skip
from texel.materials.master import INPUTS, Master, Slot
from texel.materials.operations import OPERATIONS
from texel.materials.sampling import coordinates_of, plain_value, uv_grid
from texel.materials.tree import Call, Constant, Name, Node, Swizzle
from texel.roles import Green, Transfer

__all__ = ["STRIP", "CompiledEvaluation", "can_be_compiled"]

Array = NDArray[np.float32]
Values = tuple[float, ...]
# Texels at a time: their planes stay near the processor.
STRIP = 16 * 1024


_BASIC = {
    "add": ADD, "subtract": SUBTRACT, "multiply": MULTIPLY, "divide": DIVIDE, "mix": MIX, "power": POWER,
    "clamp": CLAMP, "minimum": MINIMUM, "maximum": MAXIMUM, "absolute": ABSOLUTE, "root": ROOT,
    "fraction": FRACTION, "sine": SINE, "levels": LEVELS, "smoothstep": SMOOTH, "choose": CHOOSE,
}  # fmt: skip


class _Steps:
    """Gathers steps over planes, which are numbers. Constants have planes of their own, filled once; what is done twice
    is done once."""

    def __init__(self) -> None:
        self.steps: list[tuple[int, int, int, int, int]] = []
        self.constants: dict[float, int] = {}
        self.count = 0
        self._made: dict[tuple[int, int, int, int], int] = {}
        self._value: dict[int, float] = {}

    def plane(self) -> int:
        self.count += 1
        return self.count - 1

    def constant(self, value: float) -> int:
        key = float(np.float32(value))
        if key not in self.constants:
            self.constants[key] = self.plane()
            self._value[self.constants[key]] = key
        return self.constants[key]

    def do(self, what: int, a: int, b: int | None = None, c: int | None = None) -> int:
        """The plane of a step's result; none is taken where it is known beforehand."""
        key = (what, a, a if b is None else b, a if c is None else c)
        known = self._known(*key)
        if known is not None:
            return known
        if key not in self._made:
            self._made[key] = to = self.plane()
            self.steps.append((what, to, *key[1:]))
        return self._made[key]

    def _known(self, what: int, a: int, b: int, c: int) -> int | None:
        """The result of constants, of a product with 1, of a sum with 0, of a mixture that is one of its two."""
        values = [self._value.get(plane) for plane in (a, b, c)]
        if None not in values:
            planes = np.array([*values, 0], np.float32).reshape(4, 1)
            run(np.array([[what, 3, 0, 1, 2]], np.int32), planes)
            made = float(planes[3, 0])
            return self.constant(made) if np.isfinite(made) else None
        if what == MULTIPLY and 1.0 in values[:2]:
            return b if values[0] == 1.0 else a
        if (what == ADD and values[1] == 0.0) or (what == SUBTRACT and values[1] == 0.0):
            return a
        if what == MIX and values[2] in (0.0, 1.0):
            return b if values[2] else a
        if what == POWER and values[1] == 1.0:
            return self.do(MAXIMUM, a, self.constant(0))
        return None

    def packed(self, kept: set[int]) -> tuple[NDArray[np.int32], dict[int, int], int]:
        """The steps with planes used again once nobody reads them any more, the new numbers of planes that are kept,
        and how many there are."""
        last = {plane: at for at, step in enumerate(self.steps) for plane in step[2:]}
        written = {step[1] for step in self.steps}
        kept = kept | {plane for plane in range(self.count) if plane not in written}
        number = {plane: at for at, plane in enumerate(sorted(kept))}
        free: list[int] = []
        count, places = len(number), []
        for at, (what, to, *read) in enumerate(self.steps):
            new = [number[plane] for plane in read]
            for plane in set(read):
                if plane not in kept and last[plane] == at:
                    free.append(number[plane])
            if to not in kept:
                # Never one that this step reads: its loops may be reordered.
                usable = [one for one in free if one not in new]
                if usable:
                    number[to] = usable[-1]
                    free.remove(usable[-1])
                else:
                    number[to] = count
                    count += 1
            places.append((what, number[to], *new))
        steps = np.array(places, np.int32).reshape(-1, 5)
        return steps, {plane: number[plane] for plane in kept}, count


class _Writer:
    """A sheet as steps: every value is a list of planes, one a component."""

    def __init__(self, master: Master, values: Mapping[str, Values], maps: Mapping[str, Texels], vertex: Values):
        self.steps = _Steps()
        self.master, self.values, self.maps, self.vertex = master, values, maps, vertex
        self.uv = [self.steps.plane(), self.steps.plane()]
        # By slot: the channels of its map that are read, and the plane of each.
        self.reads: dict[str, dict[int, int]] = {}
        self._made: dict[str, list[int]] = {}
        self._letters: dict[tuple[str, str], int] = {}
        for name in master.ordered_rows():
            self._made[name] = self.read(master.rows[name])

    def read(self, node: Node) -> list[int]:
        if isinstance(node, Constant):
            return [self.steps.constant(node.value)]
        if isinstance(node, Name):
            return self._named(node.name)
        if isinstance(node, Swizzle):
            if isinstance(node.of, Name) and node.of.name in self.master.slots:
                return [self._letter(node.of.name, letter) for letter in node.letters]
            whole = self.read(node.of)
            return [whole["rgba".index(letter)] for letter in node.letters]
        return self._call(node)

    def _named(self, name: str) -> list[int]:
        if name in self.master.slots:
            return [self._letter(name, letter) for letter in "rgba"[: self.master.slots[name].size]]
        if name not in self._made:
            if name == "uv":
                self._made[name] = self.uv
            elif name == "vertex":
                self._made[name] = [self.steps.constant(part) for part in self.vertex]
            elif name in self.values:
                self._made[name] = [self.steps.constant(part) for part in self.values[name]]
            else:
                self._made[name] = self.read(self.master.rows[name])
        return self._made[name]

    # Slots.

    def _letter(self, slot: str, letter: str) -> int:
        """The plane of a channel of a slot, as the sheet sees it."""
        key = (slot, letter)
        if key not in self._letters:
            one = self.master.slots[slot]
            if slot not in self.maps:
                self._letters[key] = self.steps.constant(plain_value(one)["rgba".index(letter)])
            elif one.is_normal and letter != "a":
                self._unpack(one)
            else:
                self._letters[key] = self._stored(slot, "rgba".index(letter))
        return self._letters[key]

    def _stored(self, slot: str, at: int) -> int:
        """The plane of a channel as it is decoded; grey is every colour, alpha full where there is none."""
        texels = self.maps[slot]
        colours = len(texels.channels) - (1 if texels.has_alpha else 0)
        if at == 3 and not texels.has_alpha:
            return self.steps.constant(1)
        channel = len(texels.channels) - 1 if at == 3 else 0 if colours == 1 else at
        channels = self.reads.setdefault(slot, {})
        if channel not in channels:
            channels[channel] = self.steps.plane()
        return channels[channel]

    def _unpack(self, slot: Slot) -> None:
        do, constant = self.steps.do, self.steps.constant

        def spread(plane: int) -> int:
            return do(SUBTRACT, do(MULTIPLY, plane, constant(2)), constant(1))

        x, y, z = (spread(self._stored(slot.name, at)) for at in range(3))
        if slot.green is Green.DOWN:
            y = do(MULTIPLY, y, constant(-1))
        degrees = placed(self.master.coordinates[slot.coordinates], self.values)[2]
        if degrees:
            angle = np.float32(np.deg2rad(degrees))
            cos, sin = constant(float(np.cos(angle))), constant(float(np.sin(angle)))
            left = do(SUBTRACT, do(MULTIPLY, cos, x), do(MULTIPLY, sin, y))
            x, y = left, do(ADD, do(MULTIPLY, sin, x), do(MULTIPLY, cos, y))
        self._letters |= {(slot.name, letter): plane for letter, plane in zip("rgb", (x, y, z), strict=True)}

    # Operations.

    def _call(self, node: Call) -> list[int]:
        operation, do, constant = OPERATIONS[node.operation], self.steps.do, self.steps.constant
        given = [self.read(one) for one in node.arguments]
        if isinstance(operation.fits, tuple):
            given = [_wide(one, size) if size else one for one, size in zip(given, operation.fits, strict=True)]
        name = node.operation
        if name in ("vector", "rgb"):
            return [plane for one in given for plane in one]
        if name == "pick":
            return self._picked(given)
        if name in _OWN:
            return _OWN[name](self, given)
        if name == "choose":
            size = max(len(given[0]), len(given[2]))
            value, other = _wide(given[0], size), _wide(given[2], size)
            return [do(CHOOSE, a, given[1][0], b) for a, b in zip(value, other, strict=True)]
        size = max(map(len, given))
        wide = [_wide(one, size) for one in given]
        if name == "negate":
            return [do(MULTIPLY, a, constant(-1)) for a in wide[0]]
        if name == "invert":
            return [do(SUBTRACT, constant(1), a) for a in wide[0]]
        return [do(_BASIC[name], *parts) for parts in zip(*wide, strict=True)]

    def _picked(self, given: Sequence[list[int]]) -> list[int]:
        value, (choice,), *others = given
        size = max(map(len, (value, *others)))
        parts = _wide(value, size)
        for at, other in enumerate(others, 1):
            # On where the choice is above at - 0.5.
            on = self.steps.do(SUBTRACT, choice, self.steps.constant(at - 1))
            parts = [self.steps.do(CHOOSE, a, on, b) for a, b in zip(_wide(other, size), parts, strict=True)]
        return parts

    def mixed(self, a: Sequence[int], b: Sequence[int], share: Sequence[int]) -> list[int]:
        return [self.steps.do(MIX, *parts) for parts in zip(a, b, share, strict=True)]

    def dot(self, a: Sequence[int], b: Sequence[int]) -> int:
        first, *rest = [self.steps.do(MULTIPLY, *parts) for parts in zip(a, b, strict=True)]
        for one in rest:
            first = self.steps.do(ADD, first, one)
        return first

    def luminance(self, colour: Sequence[int]) -> int:
        return self.dot(colour, [self.steps.constant(weight) for weight in LUMINANCE])

    def unit(self, vector: Sequence[int]) -> list[int]:
        length = self.steps.do(LENGTH, *vector)
        return [self.steps.do(what, part, length) for what, part in zip((UNIT, UNIT, UNIT_Z), vector, strict=True)]

    def strengthened(self, vector: Sequence[int], strength: int) -> list[int]:
        x, y = (self.steps.do(MULTIPLY, part, strength) for part in vector[:2])
        return self.unit([x, y, vector[2]])

    def combined(self, base: Sequence[int], detail: Sequence[int]) -> list[int]:
        do, constant = self.steps.do, self.steps.constant
        x, y, z = self.unit(base)
        t = [x, y, do(ADD, z, constant(1))]
        u = [do(MULTIPLY, part, constant(sign)) for part, sign in zip(self.unit(detail), (-1, -1, 1), strict=True)]
        along = do(DIVIDE, self.dot(t, u), do(MAXIMUM, t[2], constant(1e-6)))
        return self.unit([do(SUBTRACT, do(MULTIPLY, a, along), b) for a, b in zip(t, u, strict=True)])


def _tinted(writer: _Writer, given: Sequence[list[int]]) -> list[int]:
    colour, tint, amount = given
    made = [writer.steps.do(MULTIPLY, *parts) for parts in zip(colour, tint, strict=True)]
    return writer.mixed(colour, made, amount)


def _occluded(writer: _Writer, given: Sequence[list[int]]) -> list[int]:
    colour, (shade,), (strength,) = given
    by = writer.steps.do(MIX, writer.steps.constant(1), shade, strength)
    return [writer.steps.do(MULTIPLY, part, by) for part in colour]


# Operations whose components are not all alike.
_OWN: dict[str, Callable[[_Writer, Sequence[list[int]]], list[int]]] = {
    "tint": _tinted,
    "occlude": _occluded,
    "luminance": lambda writer, given: [writer.luminance(given[0])],
    "saturate": lambda writer, given: writer.mixed([writer.luminance(given[0])] * 3, given[0], given[1]),
    "strengthen": lambda writer, given: writer.strengthened(given[0], given[1][0]),
    "combine_normals": lambda writer, given: writer.combined(given[0], given[1]),
    "normalise": lambda writer, given: writer.unit(given[0]),
}


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
    ):
        """inputs: those of the surface that are wanted; the others are given as neutral."""
        self._size, self._maps = (width, height), {name: maps[name] for name in master.slots if name in maps}
        self._values = values_of(master, changes)
        self._master = master
        writer = _Writer(master, self._values, self._maps, vertex)
        outputs: dict[str, list[int]] = {}
        for name, one in INPUTS.items():
            tree = master.inputs.get(name) if name in inputs else None
            neutral = [writer.steps.constant(part) for part in one.neutral]
            outputs[name] = _wide(writer.read(tree), one.size) if tree is not None else neutral
        outputs["normal"] = writer.strengthened(outputs["normal"], outputs["normal_strength"][0])
        self._outputs = outputs
        kept = {plane for planes in outputs.values() for plane in planes}
        self._steps, self._number, self._count = writer.steps.packed(kept)
        self._constants = {self._number[plane]: value for value, plane in writer.steps.constants.items()}
        self._uv = [self._number[plane] for plane in writer.uv]
        self._reads = [self._reading(name, channels) for name, channels in writer.reads.items()]

    def _reading(self, name: str, channels: dict[int, int]) -> _Reading:
        slot, texels = self._master.slots[name], self._maps[name]
        steps = np.arange(int(np.iinfo(texels.pixels.dtype).max) + 1)
        plain = (steps / steps[-1]).astype(np.float32)
        curve = srgb_to_unit_linear(steps.astype(texels.pixels.dtype)) if slot.colour_space is Transfer.SRGB else plain
        alpha = len(texels.channels) - 1 if texels.has_alpha else -1
        which = sorted(channels)
        tables = np.stack([plain if channel == alpha else curve for channel in which])
        to = np.array([self._number[channels[channel]] for channel in which], np.int32)
        flat = np.ascontiguousarray(texels.pixels).reshape(-1, texels.pixels.shape[2])
        return _Reading(
            flat, np.array(which, np.int32), tables, to, slot.coordinates, texels.width, texels.height
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
        found_at: dict[tuple[str, int, int], tuple[NDArray[np.uint32], Array]] = {}
        for one in self._reads:
            key = (one.place, one.width, one.height)
            if key not in found_at:
                where = coordinates_of(uv, *placed(self._master.coordinates[one.place], self._values))
                found_at[key] = np.empty((4, count), np.uint32), np.empty((2, count), np.float32)
                u, v = (np.ascontiguousarray(where[..., at]).ravel() for at in (0, 1))
                find(u, v, one.width, one.height, *found_at[key])
            gather(one.texels, one.which, one.tables, *found_at[key], planes, one.to)
        run(self._steps, planes)
        results: Surface = {}
        for name, outputs in self._outputs.items():
            parts = [planes[self._number[plane]].reshape(shape) for plane in outputs]
            results[name] = parts[0][..., None] if len(parts) == 1 else np.stack(parts, axis=-1)
        return results


class _Reading(NamedTuple):
    """Channels of a map that are read: its texels, which of their channels, through which tables, into which planes,
    and where."""

    texels: Pixels
    which: NDArray[np.int32]
    tables: Array
    to: NDArray[np.int32]
    place: str
    width: int
    height: int
