"""Slots filled from texture sets, by role or layout, packed and turned on the way; and what is fed wrongly."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from texel import digest
from texel.channels.layout import Layout, Source, ready_layout
from texel.checks import Severity
from texel.delivery.target import Encoding, Output, Target
from texel.errors import BadDocument
from texel.licences import Objection
from texel.materials.master import Master, Slot
from texel.roles import Green, Role, facts
from texel.sets import TextureSet

__all__ = [
    "OUTPUT",
    "BindingRemark",
    "Known",
    "SlotBinding",
    "binding_remarks",
    "parse_binding",
    "slot_roles",
    "slot_sort",
    "slot_target",
]  # fmt: skip

OUTPUT = "slot"
_INVERSE = {Role.ROUGHNESS: Role.GLOSSINESS, Role.GLOSSINESS: Role.ROUGHNESS}


@dataclass(frozen=True)
class SlotBinding:
    """set: name of a texture set. role: of the map to take from it where it is not the slot's own."""

    set: str
    role: Role | None = None


def parse_binding(master: Master, slot: str, value: Any) -> SlotBinding:
    """Raises BadDocument for a slot that the master has not, or a fill that names no set."""
    if slot not in master.slots:
        raise BadDocument("{title} has no slot {slot}", title=master.title, slot=slot)
    if not isinstance(value, Mapping) or not isinstance(value.get("set"), str) or set(value) - {"set", "role"}:
        raise BadDocument("slot {slot}: a fill names a set, and perhaps a role", slot=slot)
    role = value.get("role")
    if role is not None and role not in set(Role):
        raise BadDocument("slot {slot}: there is no role {role!r}", slot=slot, role=role)
    return SlotBinding(value["set"], Role(role) if role else None)


def _layout(slot: Slot, role: Role | None) -> Layout:
    taken = role or slot.role
    if taken is None:
        assert slot.layout is not None
        return ready_layout(slot.layout)
    if facts(taken).channels == 1:
        return Layout(OUTPUT, {"r": Source(taken, missing=facts(taken).neutral)})
    channels = {letter: Source(taken, letter, missing=facts(taken).neutral) for letter in "rgb"}
    if taken is Role.BASE_COLOR:
        channels["a"] = Source(Role.OPACITY, missing=None)
    return Layout(OUTPUT, channels)


def slot_target(slot: Slot, role: Role | None = None) -> Target:
    """A target of one output, the slot's map, as planning and building take it: PNG of 8 bits, heights of 16."""
    layout = _layout(slot, role)
    bits = 16 if Role.HEIGHT in layout.roles and len(layout.channels) == 1 else 8
    needs = layout.roles
    output = Output(OUTPUT, layout, slot.colour_space, Encoding("png", bits), needs)
    green = slot.green if slot.green is not Green.UNKNOWN else Green.UP
    names = digest.of_document({"slot": slot.name, "layout": layout.document()["channels"]})
    return Target(OUTPUT, slot.title, green, "{set}_{output}", "", "keep", (output,), None, names)


def slot_sort(slot: Slot) -> str:
    """What a slot's map is to the table of formats, one of texel.compression.table.SORTS."""
    if slot.role is None:
        return "packed"
    if slot.is_normal:
        return "normal"
    if slot.role is Role.HEIGHT:
        return "height"
    return "colour" if facts(slot.role).channels == 3 else "mask"


def slot_roles(slot: Slot, role: Role | None = None) -> tuple[Role, ...]:
    """The roles of a set that go into a slot's map. role: of the map that is taken in place of the slot's own."""
    return _layout(slot, role).roles


@dataclass(frozen=True)
class BindingRemark:
    """What is wrong with how a slot is fed."""

    check: str
    severity: Severity
    slot: str
    message: str

    def document(self) -> dict[str, Any]:
        return {"check": self.check, "severity": self.severity.value, "slot": self.slot, "message": self.message}


Remarks = list[BindingRemark]


@dataclass(frozen=True)
class Known:
    """What is known of a set beyond its maps. green: the direction of its normal map, and how that is known (see
    texel.delivery.plan.measured_green); None where it was not looked for. objection: against its licence."""

    green: tuple[Green, str] | None = None
    objection: Objection | None = None


def binding_remarks(
    master: Master,
    fills: Mapping[str, SlotBinding],
    sets: Mapping[str, TextureSet],
    known: Mapping[str, Known] | None = None,
) -> Remarks:
    """Everything that is fed wrongly: no map, a set that is gone, another role, another colour space, parts missing, a
    licence that the project does not take, a green direction that is turned or that nothing tells.

    fills: by slot. sets, known: by name. The layout is put right on the way and needs no remark.
    """
    remarks: list[BindingRemark] = []
    for slot in master.slots.values():
        fill = fills.get(slot.name)
        if fill is None:
            message = f"{slot.title} has no map; it reads {slot.default.replace('_', ' ')} everywhere."
            remarks.append(BindingRemark("slot_empty", Severity.NOTE, slot.name, message))
        elif fill.set not in sets:
            message = f"{slot.title}: there is no set {fill.set} any more."
            remarks.append(BindingRemark("set_missing", Severity.ERROR, slot.name, message))
        else:
            remarks += _of_binding(slot, fill, sets[fill.set])
            remarks += _of_known(slot, fill, sets[fill.set], (known or {}).get(fill.set, Known()))
    return remarks


def _of_known(slot: Slot, fill: SlotBinding, one: TextureSet, known: Known) -> Remarks:
    remarks: list[BindingRemark] = []
    if known.objection is not None:
        message = f"{slot.title}: {one.name} may not be used as it is. {known.objection.message}"
        remarks.append(BindingRemark(known.objection.check, Severity(known.objection.harm), slot.name, message))
    if known.green is None or Role.NORMAL not in slot_roles(slot, fill.role) or Role.NORMAL not in one.in_use():
        return remarks
    wanted, (green, _) = slot_target(slot, fill.role).green, known.green
    if green is Green.UNKNOWN:
        message = (
            f"{slot.title}: nothing tells which way the green of {one.name}'s normal map points; it is taken for "
            f"{wanted.words}. If light seems to come from below, flip its green on its page."
        )
        remarks.append(BindingRemark("green_unknown", Severity.WARNING, slot.name, message))
    elif green is not wanted:
        message = (
            f"{slot.title}: the normal map of {one.name} is {green.words}, and is turned to {wanted.words} on the way."
        )
        remarks.append(BindingRemark("green_turned", Severity.NOTE, slot.name, message))
    return remarks


def _of_binding(slot: Slot, fill: SlotBinding, one: TextureSet) -> Remarks:
    remarks: list[BindingRemark] = []
    there = set(one.in_use())
    wanted = [fill.role or slot.role] if (fill.role or slot.role) else list(_layout(slot, None).roles)
    missing = [role for role in wanted if role and role not in there and _INVERSE.get(role) not in there]
    if missing:
        names = ", ".join(facts(role).label.lower() for role in missing)
        severity = Severity.ERROR if len(missing) == len(wanted) else Severity.WARNING
        remarks.append(
            BindingRemark("map_missing", severity, slot.name, f"{slot.title}: {one.name} has no {names} map.")
        )
    if fill.role is not None and fill.role is not slot.role:
        expected = facts(slot.role).label.lower() if slot.role else f"a map packed as {slot.layout}"
        message = f"{slot.title} takes {expected}, and is fed with {facts(fill.role).label.lower()}."
        remarks.append(BindingRemark("wrong_role", Severity.ERROR, slot.name, message))
        if facts(fill.role).transfer is not slot.colour_space:
            space = slot.colour_space.value
            taken = facts(fill.role)
            told = f"{slot.title} decodes {space}, but {taken.label.lower()} is {taken.transfer.value}."
            if space == "srgb":
                told += " 0.5 is read as 0.21."
            remarks.append(BindingRemark("wrong_colour_space", Severity.ERROR, slot.name, told))
    return remarks
