"""Slots by key: what each is called so that a new export of the model finds it again, and slots parted by part."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

from texel.errors import BadDocument
from texel.meshes.mesh import MeshFile

__all__ = ["Split", "slot_keys", "with_splits"]


class Split(NamedTuple):
    """A part that shall have a slot of its own. slot: key of the slot that it shares now."""

    slot: str
    part: str


def slot_keys(names: Sequence[str]) -> list[str]:
    """A key for each slot: its name, with a number behind it where an earlier one has the same.

    >>> slot_keys(["deck", "", "deck"])
    ['deck', '', 'deck#2']
    """
    seen: Counter[str] = Counter()
    keys = []
    for name in names:
        seen[name] += 1
        keys.append(name if seen[name] == 1 else f"{name}#{seen[name]}")
    return keys


def with_splits(mesh: MeshFile, splits: Sequence[Split]) -> MeshFile:
    """The mesh with a slot more for each split, called after slot and part: "cloth (boot)".

    Splits whose slot or part is not there any more are passed over. Raises BadDocument for more than a mesh has parts.
    """
    if len(splits) > len(mesh.pieces):
        raise BadDocument(
            "{mesh} has {count} parts with a material; it cannot be split more often",
            mesh=mesh.name,
            count=len(mesh.pieces),
        )
    slots, pieces = list(mesh.slots), list(mesh.pieces)
    keys = slot_keys([one.name for one in slots])
    for split in splits:
        if split.slot not in keys:
            continue
        at = keys.index(split.slot)
        moved = [place for place, one in enumerate(pieces) if one.slot == at and one.part == split.part]
        if not moved or len(moved) == sum(1 for one in pieces if one.slot == at):
            continue
        for place in moved:
            pieces[place] = replace(pieces[place], slot=len(slots))
        slots.append(replace(slots[at], name=f"{slots[at].name} ({split.part})".strip()))
        keys = slot_keys([one.name for one in slots])
    return replace(mesh, slots=tuple(slots), pieces=tuple(pieces))
