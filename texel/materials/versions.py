"""Versions of a master: what differs, what that breaks, which number follows, and what a cast would lose."""

from __future__ import annotations

import zlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from texel.image import Texels
from texel.materials.evaluate import Surface, evaluate
from texel.materials.expression import text_of
from texel.materials.functions import Function
from texel.materials.master import INPUTS, Master, Parameter, Slot
from texel.materials.remarks import reachable
from texel.roles import Transfer

__all__ = [
    "Breaks",
    "Carried",
    "VersionChange",
    "carried",
    "changes_between",
    "next_number",
    "same_picture",
    "sample_maps",
]

Number = tuple[int, int, int]
# Worst first: the place in the number that a change of this kind raises.
Breaks = Literal["removes", "changes", "keeps"]
_PLACES = {"removes": 0, "changes": 1, "keeps": 2}
_SIDE = 32
# Half a step of 8 bits: below it no screen shows a difference.
_SAME = 0.5 / 255


@dataclass(frozen=True)
class VersionChange:
    """what: "parameter", "slot", "row", "input", "coordinates", "opacity" or "words". breaks: "removes" (casts lose
    something), "changes" (defaults or the picture), "keeps" (neither). before, after: as people read them."""

    what: str
    name: str
    breaks: Breaks
    message: str
    before: str | None = None
    after: str | None = None

    def document(self) -> dict[str, Any]:
        return vars(self)


def changes_between(old: Master, new: Master) -> list[VersionChange]:
    """Everything that differs, what breaks most first."""
    changes = [*_parameters(old, new), *_slots(old, new), *_rows(old, new), *_rest(old, new)]
    return sorted(changes, key=lambda one: _PLACES[one.breaks])


def _parameters(old: Master, new: Master) -> Iterable[VersionChange]:
    for name, one in old.parameters.items():
        other = new.parameters.get(name)
        if other is None:
            yield VersionChange("parameter", name, "removes", f"{one.title} is gone", one.kind, None)
        elif other.kind != one.kind or (one.kind == "choice" and set(one.options) - set(other.options)):
            yield VersionChange("parameter", name, "removes", f"{one.title} is of another kind", one.kind, other.kind)
        elif other.low > one.low or other.high < one.high:
            yield VersionChange(
                "parameter", name, "removes", f"{one.title} has a narrower range",
                f"{one.low:g} to {one.high:g}", f"{other.low:g} to {other.high:g}",
            )  # fmt: skip
        elif _begins(other) != _begins(one):
            yield VersionChange(
                "parameter", name, "changes", f"{one.title} begins elsewhere", _value(one), _value(other)
            )  # fmt: skip
        elif replace(other, order=one.order) != one:
            yield VersionChange("parameter", name, "keeps", f"{one.title} is described otherwise")
    for name, one in new.parameters.items():
        if name not in old.parameters:
            yield VersionChange("parameter", name, "keeps", f"{one.title} is new", None, one.kind)


def _value(one: Parameter) -> str:
    return one.options[int(one.default[0])] if one.options else ", ".join(f"{part:g}" for part in one.default)


def _begins(one: Parameter) -> object:
    """Where a parameter begins; of a choice the word, wherever it stands."""
    return one.options[int(one.default[0])] if one.options else one.default


def _slots(old: Master, new: Master) -> Iterable[VersionChange]:
    def takes(one: Slot) -> str:
        return f"{one.role.value if one.role else one.layout}, {one.colour_space.value}"

    for name, one in old.slots.items():
        other = new.slots.get(name)
        if other is None:
            yield VersionChange("slot", name, "removes", f"The slot {one.title} is gone", takes(one), None)
        elif takes(other) != takes(one) or other.green is not one.green:
            yield VersionChange("slot", name, "removes", f"{one.title} takes other maps", takes(one), takes(other))
        elif other.default != one.default:
            yield VersionChange(
                "slot", name, "changes", f"{one.title} is otherwise without a map", one.default, other.default
            )
        elif other != one:
            yield VersionChange("slot", name, "keeps", f"{one.title} is described or placed otherwise")
    for name, one in new.slots.items():
        if name not in old.slots:
            yield VersionChange("slot", name, "keeps", f"The slot {one.title} is new", None, takes(one))


def _rows(old: Master, new: Master) -> Iterable[VersionChange]:
    for what, before, after in (("row", old.rows, new.rows), ("input", old.inputs, new.inputs)):
        for name in dict.fromkeys([*before, *after]):
            texts = [text_of(rows[name]) if name in rows else None for rows in (before, after)]
            if texts[0] != texts[1]:
                label = INPUTS[name].label if name in INPUTS else f"The row {name}"
                yield VersionChange(what, name, "keeps", f"{label} reads otherwise", *texts)


def _functions(old: Master, new: Master) -> Iterable[VersionChange]:
    def told(one: Function) -> str:
        return one.number or "its own"

    for name, one in old.functions.items():
        other = new.functions.get(name)
        if other is None:
            yield VersionChange("function", name, "keeps", f"The function {one.title} is gone", told(one), None)
        elif other != one:
            yield VersionChange(
                "function", name, "keeps", f"The function {one.title} is otherwise", told(one), told(other)
            )
    for name, one in new.functions.items():
        if name not in old.functions:
            yield VersionChange("function", name, "keeps", f"The function {one.title} is new", None, told(one))


def _rest(old: Master, new: Master) -> Iterable[VersionChange]:
    yield from _functions(old, new)
    yield from _uv_sets(old, new)
    if old.coordinates != new.coordinates:
        yield VersionChange("coordinates", "", "keeps", "Coordinates are otherwise")
    if (old.opacity_mode, old.cut_off) != (new.opacity_mode, new.cut_off):
        before, after = (f"{one.opacity_mode}, {one.cut_off:g}" for one in (old, new))
        yield VersionChange("opacity", "", "changes", "Opacity works otherwise", before, after)
    if (old.title, old.help) != (new.title, new.help):
        yield VersionChange("words", "", "keeps", "Title or help is otherwise", old.title, new.title)
    if not same_picture(old, new):
        yield VersionChange("picture", "", "changes", "The same maps and values look otherwise")


def _uv_sets(old: Master, new: Master) -> Iterable[VersionChange]:
    """Slots that are read at another set of a mesh's coordinates: no picture of a square shows it, every mesh may."""
    for name, one in old.slots.items():
        if name in new.slots:
            sets = [master.coordinates[master.slots[name].coordinates].uv_set for master in (old, new)]
            if sets[0] != sets[1]:
                yield VersionChange(
                    "slot", name, "changes", f"{one.title} is read at another UV set", *(f"UV set {at}" for at in sets)
                )


def next_number(number: Number, changes: Iterable[VersionChange]) -> Number:
    """The number that follows: the first place counts what casts lose, the second what looks otherwise, the third the
    rest.

    >>> next_number((1, 2, 3), [])
    (1, 2, 4)
    """
    place = min((_PLACES[one.breaks] for one in changes), default=2)
    major, minor, patch = number
    return ((major + 1, 0, 0), (major, minor + 1, 0), (major, minor, patch + 1))[place]


def sample_maps(master: Master, side: int = _SIDE) -> dict[str, Texels]:
    """A map for every slot, always the same for a slot's name: waves of all values, and leaning normals."""
    grid = np.arange(side) / side
    x, y = np.meshgrid(grid, grid)
    maps = {}
    for slot in master.slots.values():
        phase = zlib.crc32(slot.name.encode()) % 97 / 97
        waves = [0.5 + 0.5 * np.sin(2 * np.pi * (x * (1 + at) + y * (3 - at) + phase * (at + 1))) for at in range(4)]
        if slot.is_normal:
            lean = np.dstack([waves[0] - 0.5, waves[1] - 0.5, np.ones_like(x)])
            values = lean / np.linalg.norm(lean, axis=2, keepdims=True) * 0.5 + 0.5
        else:
            values = np.dstack(waves)[:, :, : slot.size]
        pixels = np.round(values * 255).astype(np.uint8)
        letters = {1: "y", 3: "rgb", 4: "rgba"}[slot.size]
        maps[slot.name] = Texels(pixels, letters, Transfer(slot.colour_space), slot.role, name=slot.name)
    return maps


def picture_difference(old: Surface, new: Surface) -> float:
    """The largest mean difference of any input; infinite where one is a number and the other none."""

    def apart(a: NDArray[np.float32], b: NDArray[np.float32]) -> float:
        alike = (a == b) | (np.isnan(a) & np.isnan(b))
        with np.errstate(invalid="ignore"):
            difference = np.where(alike, 0, np.abs(a - b))
        return float(np.nan_to_num(difference, nan=np.inf, posinf=np.inf).mean())

    return max(apart(old[name], new[name]) for name in INPUTS)


def same_picture(old: Master, new: Master) -> bool:
    """Whether both give the same surface from the sample maps: with all defaults, with every parameter that both know
    at both ends of its range, and with every two of them at every pair of ends."""
    differing = [name for name in INPUTS if _reading(old, name) != _reading(new, name)]
    if not differing:
        return True
    if "normal_strength" in differing:
        differing.append("normal")
    # What reads the same is left out, and with it the parameters that only it reads.
    old, new = (
        replace(one, inputs={name: one.inputs[name] for name in differing if name in one.inputs}) for one in (old, new)
    )
    maps = sample_maps(old) | sample_maps(new)
    read = reachable(old) | reachable(new)
    shared = [name for name in old.parameters if name in new.parameters and name in read]
    both = [name for name in shared if _alike(old.parameters[name], new.parameters[name])]

    def surface(one: Master, values: Mapping[str, _Value]) -> Surface:
        own = {name: maps[name] for name in one.slots if name in maps}
        parts = {name: _components(one.parameters[name], value) for name, value in values.items()}
        return evaluate(one, own, parts, _SIDE, _SIDE, vertex=(0.25, 0.5, 0.75, 1.0))

    for values in _settings({name: _levels_of(old.parameters[name], new.parameters[name]) for name in both}):
        if picture_difference(surface(old, values), surface(new, values)) >= _SAME:
            return False
    return True


def _reading(master: Master, name: str) -> object:
    """All that goes into an input: its tree, and the rows, slots, coordinates and parameters that it reads."""
    if name not in master.inputs:
        return None
    read = reachable(master, [name])
    slots = [one for one in master.slots.values() if one.name in read]
    return (
        text_of(master.inputs[name]), {row: text_of(tree) for row, tree in master.rows.items() if row in read},
        [(one, master.coordinates[one.coordinates]) for one in slots], [*master.functions.values()],
        {one.name: (one.kind, one.default, one.options) for one in master.parameters.values() if one.name in read},
    )  # fmt: skip


# Components, or the word of a choice, which may stand elsewhere in another version.
_Value = tuple[float, ...] | str
# Where a parameter without limits is looked at, up and down from its default.
_FAR = 1000.0


def _alike(one: Parameter, other: Parameter) -> bool:
    return one.kind == other.kind and (one.kind != "choice" or bool(set(one.options) & set(other.options)))


def _components(one: Parameter, value: _Value) -> tuple[float, ...]:
    return (float(one.options.index(value)),) if isinstance(value, str) else value


def _levels_of(one: Parameter, other: Parameter) -> list[_Value]:
    """The values at which a parameter is looked at, the lowest and the highest last: what both versions take."""
    if one.kind == "choice":
        return [word for word in one.options if word in other.options]
    if one.kind == "switch":
        return [(0.0,), (1.0,)]
    low, high = max(one.low, other.low), min(one.high, other.high)
    begin, size = one.default, one.size
    first = [low if low > -np.inf else min(part, 0.0) - _FAR for part in begin]
    last = [high if high < np.inf else max(part, 0.0) + _FAR for part in begin]
    # A part of the way between, since ends often agree where the way between them does not.
    between = [(-10.0 if low == -np.inf else low) * 0.63 + (10.0 if high == np.inf else high) * 0.37] * size
    soft = [[end] * size for end in (one.soft_low, one.soft_high) if end is not None and low <= end <= high]
    return [tuple(float(part) for part in value) for value in (begin, between, *soft, first, last)]


def _settings(levels: Mapping[str, Sequence[_Value]]) -> Iterable[dict[str, _Value]]:
    """Values of some parameters at a time, the others at their defaults: none; every level of each alone; and a few of
    all at their lowest or highest, in which any two stand in all four ways."""
    yield {}
    for name, some in levels.items():
        yield from ({name: value} for value in some)
    ends = {name: (some[-2], some[-1]) for name, some in levels.items() if len(some) > 1}
    if len(ends) > 1:
        # Parameters are numbered; where two numbers differ in a bit, one is low while the other is high, and back.
        bits = range((len(ends) - 1).bit_length())
        marks = [[(at >> bit) & 1 for at in range(len(ends))] for bit in bits]
        for row in [[0] * len(ends), *marks]:
            for turned in (0, 1):
                yield {name: pair[mark ^ turned] for (name, pair), mark in zip(ends.items(), row, strict=True)}


@dataclass(frozen=True)
class Carried:
    """A cast's changes under a new version. kept: as documents hold them; lost: by name, with the reason."""

    kept: dict[str, Any]
    lost: dict[str, str]


def carried(entries: Mapping[str, Any], fits: Any, renames: Mapping[str, str]) -> Carried:
    """Take a cast's entries (changes or slots) over. fits: a function of name and value that raises TexelError where
    the new version does not take it. renames: new names by old ones, "" to drop one."""
    from texel.errors import TexelError

    kept, lost = {}, {}
    for name, value in entries.items():
        new = renames.get(name, name)
        if not new:
            lost[name] = "left out"
            continue
        try:
            fits(new, value)
        except TexelError as error:
            lost[name] = str(error)
        else:
            kept[new] = value
    return Carried(kept, lost)
