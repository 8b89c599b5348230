"""Checks of a model: its slots, its UVs, and how both suit what the slots wear."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from texel.atlas.regions import Region
from texel.checks.finding import Severity
from texel.meshes.facts import GAP_SIDE, MeshFacts, SlotFacts
from texel.meshes.islands import clean_mips
from texel.meshes.regions import place_of
from texel.meshes.rules import ModelRules
from texel.messages import Message, message_of

__all__ = ["OUTSIDE", "MeshFinding", "Worn", "judge_mesh"]

# Shares below these are rounding, or a stitch of no account.
_OVERLAP, _MIRRORED, OUTSIDE, _EMPTY = 0.002, 0.01, 0.01, 0.01
# How many times denser some places of one slot, or slots with one set, may be than others before it shows.
_UNEVEN, _APART = 4.0, 2.0
# How many times longer than a strip a surface may be across it before its texels show stretched.
_STRETCHED = 1.25


@dataclass(frozen=True)
class Worn:
    """What a slot wears. name: of the cast or set. side: the longest of its maps in texels, None where it has none.
    tiling: how often its maps repeat over 0 to 1. sets: names of the sets that fill it. has_normal: whether a normal
    map is among them. opacity: "opaque", "cut_out" or "blend"; is_two_valued: whether its opacity is only 0 and 1.
    region: the part of its maps that the slot uses, None for all."""

    name: str
    side: int | None = None
    tiling: float = 1.0
    sets: frozenset[str] = frozenset()
    has_normal: bool = False
    opacity: str = "opaque"
    is_two_valued: bool = False
    region: Region | None = None


@dataclass(frozen=True)
class MeshFinding:
    """Something about a model. slot: its index, None for the whole model. measure, threshold: in the unit that the
    message names."""

    check: str
    severity: Severity
    slot: int | None
    message: Message
    measure: float | None = None
    threshold: float | None = None

    def document(self) -> dict[str, Any]:
        return {
            "check": self.check, "severity": self.severity.value, "slot": self.slot, "message": str(self.message),
            "said": self.message.document(), "measure": None if self.measure is None else round(self.measure, 6),
            "threshold": self.threshold,
        }  # fmt: skip


def judge_mesh(facts: MeshFacts, worn: Mapping[int, Worn], rules: ModelRules) -> list[MeshFinding]:
    """All findings of a model, errors first. worn: what slots wear, by index; a slot that is not there wears nothing.

    Slots that no triangle uses are passed over.
    """
    used = [(at, slot) for at, slot in enumerate(facts.slots) if slot.is_worn]
    found: list[MeshFinding] = [*_names(used)]
    for at, slot in used:
        found += _uvs(at, slot, worn.get(at), rules)
        if at not in worn:
            parts = _listed(slot.parts)
            found.append(_of("slot_empty", Severity.ERROR, at, parts=parts))
        else:
            found += _wears(at, slot, worn[at], rules)
    found += _together(used, worn, rules)
    order = list(Severity)
    return sorted(found, key=lambda one: (order.index(one.severity), -1 if one.slot is None else one.slot))


def _of(check: str, severity: Severity, slot: int | None, **values: Any) -> MeshFinding:
    measure, threshold = values.pop("measure", None), values.pop("threshold", None)
    return MeshFinding(check, severity, slot, message_of(check, **values), measure, threshold)


def _listed(names: Sequence[str]) -> str:
    more = f" and {len(names) - 3} more" if len(names) > 3 else ""
    return ", ".join(names[:3]) + more


def _names(used: Iterable[tuple[int, SlotFacts]]) -> Iterator[MeshFinding]:
    used = list(used)
    counts = Counter(slot.name.lower() for _, slot in used if slot.name)
    for at, slot in used:
        if not slot.name:
            yield _of("slot_unnamed", Severity.WARNING, at, parts=_listed(slot.parts))
        elif counts[slot.name.lower()] > 1:
            yield _of("slot_names_equal", Severity.ERROR, at, name=slot.name, count=counts[slot.name.lower()])


def _uvs(at: int, slot: SlotFacts, worn: Worn | None, rules: ModelRules) -> Iterator[MeshFinding]:
    if slot.uv_area is None:
        has_map = worn is None or worn.side is not None
        yield _of("uv_missing", Severity.ERROR if has_map else Severity.NOTE, at, parts=_listed(slot.parts))
        return
    if slot.empty > _EMPTY * slot.triangles:
        share = slot.empty / slot.triangles
        yield _of("uv_flat", Severity.WARNING, at, count=slot.empty, share=share, measure=share, threshold=_EMPTY)
    if slot.overlap is not None and slot.overlap > _OVERLAP:
        yield _of(
            "uv_overlap", Severity.WARNING, at, share=slot.overlap, measure=slot.overlap, threshold=_OVERLAP
        )  # fmt: skip
    if slot.outside > OUTSIDE and (worn is None or worn.region is None):
        key = "uv_repeats" if slot.is_tiled else "uv_outside"
        severity = Severity.NOTE if slot.is_tiled else Severity.WARNING
        yield _of(key, severity, at, share=slot.outside, measure=slot.outside, threshold=OUTSIDE)
    if slot.even is not None and slot.even[0] > 0 and slot.even[1] / slot.even[0] > _UNEVEN:
        times = slot.even[1] / slot.even[0]
        yield _of("density_uneven", Severity.WARNING, at, times=times, measure=times, threshold=_UNEVEN)
    side = worn.side if worn is not None else None
    wanted = rules.gap_on(side) if side else None
    if slot.gap is not None and side and wanted is not None and worn is not None and worn.tiling == 1:
        gap = slot.gap * side / GAP_SIDE * _shrunk(slot, worn)[1]
        if gap < wanted:
            yield _of(
                "uv_gap_small", Severity.WARNING, at, gap=gap, side=side, wanted=wanted, clean=clean_mips(int(gap)),
                measure=gap, threshold=wanted,
            )  # fmt: skip


def _wears(at: int, slot: SlotFacts, worn: Worn, rules: ModelRules) -> Iterator[MeshFinding]:
    if worn.has_normal and slot.uv_area:
        if slot.mirrored > _MIRRORED and not slot.has_tangents:
            yield _of(
                "mirrored_without_tangents", Severity.WARNING, at, share=slot.mirrored, measure=slot.mirrored,
                threshold=_MIRRORED,
            )  # fmt: skip
        elif not slot.has_tangents:
            yield _of("tangents_missing", Severity.NOTE, at)
    if worn.opacity == "blend" and worn.is_two_valued:
        yield _of("blend_for_cut_out", Severity.WARNING, at, name=worn.name)
    yield from _in_region(at, slot, worn)
    density = density_of(slot, worn)
    if density is None or rules.density is None:
        return
    times = density / rules.density
    if times > rules.factor or times < 1 / rules.factor:
        key = "density_high" if times > 1 else "density_low"
        yield _of(
            key, Severity.WARNING, at, density=density, side=worn.side or 0, wanted=rules.density,
            times=max(times, 1 / times), measure=density,
            threshold=rules.density * (rules.factor if times > 1 else 1 / rules.factor),
        )  # fmt: skip


def _in_region(at: int, slot: SlotFacts, worn: Worn) -> Iterator[MeshFinding]:
    """What does not go with a cell or a strip: UVs that reach beyond it, another size, maps that repeat over it."""
    if worn.region is None:
        return
    name = worn.region.name
    beyond = slot.outside_v if worn.region.is_strip else slot.outside
    if beyond > OUTSIDE:
        yield _of(
            "uv_leaves_region", Severity.ERROR, at, region=name, share=beyond, measure=beyond, threshold=OUTSIDE
        )  # fmt: skip
    if worn.tiling != 1:
        yield _of("tiling_on_region", Severity.ERROR, at, region=name, tiling=worn.tiling, measure=worn.tiling)
    if worn.region.is_strip and worn.region.metres and slot.unit:
        times = slot.unit[1] / worn.region.metres[1]
        if max(times, 1 / times) > _STRETCHED:
            yield _of(
                "strip_stretched", Severity.WARNING, at, region=name, across=slot.unit[1], shown=worn.region.metres[1],
                measure=times, threshold=_STRETCHED if times > 1 else 1 / _STRETCHED,
            )  # fmt: skip


def _shrunk(slot: SlotFacts, worn: Worn) -> tuple[float, float]:
    """By how much a region makes the UVs smaller: the root of both directions' product, and the smaller of both."""
    if worn.region is None:
        return 1.0, 1.0
    place = place_of(worn.region, slot.unit)
    return math.sqrt(place.scale_u * place.scale_v), min(place.scale_u, place.scale_v)


def density_of(slot: SlotFacts, worn: Worn | None) -> float | None:
    """Texels a metre of a slot on what it wears; None where it has no map or no UVs."""
    if worn is None or not worn.side or slot.density is None:
        return None
    return slot.density * worn.side * worn.tiling * _shrunk(slot, worn)[0]


def _together(
    used: Sequence[tuple[int, SlotFacts]], worn: Mapping[int, Worn], rules: ModelRules
) -> Iterator[MeshFinding]:
    names = {worn[at].name if at in worn else f"slot {at}" for at, _ in used}
    if rules.materials is not None and len(names) > rules.materials:
        yield _of(
            "materials_many", Severity.WARNING, None, count=len(names), most=rules.materials, measure=len(names),
            threshold=rules.materials,
        )  # fmt: skip
    wearers = defaultdict(list)
    for at, slot in used:
        part = worn[at].region if at in worn else None
        for one in worn[at].sets if at in worn else ():
            wearers[one, part.name if part else ""].append((at, slot))
    for (name, _), some in sorted(wearers.items()):
        if len(some) < 2:
            continue
        for at, _ in some:
            others = [other.name or f"slot {place + 1}" for place, other in some if place != at]
            yield _of("set_shared", Severity.NOTE, at, set=name, others=_listed(others))
        densities = [(density_of(slot, worn[at]), at) for at, slot in some]
        known = sorted((one, at) for one, at in densities if one)
        if known and known[-1][0] / known[0][0] > _APART:
            times = known[-1][0] / known[0][0]
            other = _name_of(used, known[0][1])
            yield _of(
                "density_apart", Severity.WARNING, known[-1][1], set=name, times=times, other=other, measure=times,
                threshold=_APART,
            )  # fmt: skip


def _name_of(used: Sequence[tuple[int, SlotFacts]], at: int) -> str:
    """A slot's name, or its number where it has none."""
    return dict(used)[at].name or f"slot {at + 1}"
