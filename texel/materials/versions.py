"""Versions of a master: what differs, what that breaks, which number follows, and what a cast would lose."""

from __future__ import annotations

import zlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from texel.image import Texels
from texel.materials.evaluate import Surface, evaluate
from texel.materials.expression import text_of
from texel.materials.master import INPUTS, Master, Parameter, Slot
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
    found = [*_parameters(old, new), *_slots(old, new), *_rows(old, new), *_rest(old, new)]
    return sorted(found, key=lambda one: _PLACES[one.breaks])


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
        elif other.default != one.default:
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


def _rest(old: Master, new: Master) -> Iterable[VersionChange]:
    if old.coordinates != new.coordinates:
        yield VersionChange("coordinates", "", "keeps", "Coordinates are otherwise")
    if (old.opacity_mode, old.cut_off) != (new.opacity_mode, new.cut_off):
        before, after = (f"{one.opacity_mode}, {one.cut_off:g}" for one in (old, new))
        yield VersionChange("opacity", "", "changes", "Opacity works otherwise", before, after)
    if (old.title, old.help) != (new.title, new.help):
        yield VersionChange("words", "", "keeps", "Title or help is otherwise", old.title, new.title)
    if not same_picture(old, new):
        yield VersionChange("picture", "", "changes", "The same maps and values look otherwise")


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
    found = {}
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
        found[slot.name] = Texels(pixels, letters, Transfer(slot.colour_space), slot.role, name=slot.name)
    return found


def picture_difference(old: Surface, new: Surface) -> float:
    """The largest mean difference of any input, 0 to 1."""
    return max(float(np.abs(old[name] - new[name]).mean()) for name in INPUTS)


def same_picture(old: Master, new: Master) -> bool:
    """Whether both give the same surface from the sample maps: with all defaults, and with every parameter that both
    know a little off its default."""
    maps = sample_maps(old) | sample_maps(new)

    def surface(one: Master, moved: bool) -> Surface:
        both = {name: p for name, p in old.parameters.items() if new.parameters.get(name, p).kind == p.kind}
        values = {name: _moved(p) for name, p in both.items() if name in one.parameters} if moved else {}
        own = {name: maps[name] for name in one.slots if name in maps}
        return evaluate(one, own, values, _SIDE, _SIDE, vertex=(0.25, 0.5, 0.75, 1.0))

    return all(picture_difference(surface(old, moved), surface(new, moved)) < _SAME for moved in (False, True))


def _moved(one: Parameter) -> tuple[float, ...]:
    if one.kind in ("switch", "choice"):
        return (float((one.default[0] + 1) % (len(one.options) or 2)),)
    low, high = max(one.low, -4.0), min(one.high, 4.0)
    return tuple(low + (high - low) * 0.37 if high > low else part for part in one.default)


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
