"""Maps filled between the UV islands of a model: a step on every map of the sets that a slot wears."""

from __future__ import annotations

from typing import Any

from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.meshes.asked import step_between_islands
from studio.meshes.models import Mesh
from studio.meshes.slots import facts_of, standings
from studio.projects.models import Project
from studio.sets.models import TextureSet
from texel.document_types import StepDocument
from texel.recipes import STEPS

__all__ = ["fill_between_islands"]

_STEP = "fill_between_islands"


def fill_between_islands(project: Project, mesh: Mesh, slot: int, by: Any) -> int:
    """Put the step on all maps of the sets that fill what a slot wears, in place of an older one; what other slots of
    the model use of the same sets counts as used. As one change. Returns how many maps.

    Raises Conflict where the slot wears no set, BadDocument where its UVs are missing or repeat.
    """
    facts = facts_of(mesh)
    if facts is None or not 0 <= slot < len(facts.slots):
        raise Conflict("{mesh} has no such slot, or is not measured yet", mesh=mesh.name)
    known = standings(project, list(mesh.wears.values()))
    worn = {
        at: known[wears["kind"], wears["id"]].sets
        for at, key in enumerate(facts.keys)
        if (wears := mesh.wears.get(key)) and (wears["kind"], wears["id"]) in known
    }
    sets = worn.get(slot, frozenset())
    if not sets:
        raise Conflict("{what} wears nothing that has maps", what=facts.slots[slot].name or "the slot")
    steps: dict[int, StepDocument] = {}
    for pk in sets:
        users = [at for at, used in worn.items() if pk in used and facts.slots[at].is_worn]
        steps[pk] = step_between_islands.ask(by.pk if by else 0, near=f"mesh {mesh.pk}", mesh=mesh.pk, slots=users).said
    with change(project, by, "") as doing:
        rows = [(one, steps[pk]) for pk in sorted(sets) for one in doing.row(TextureSet, pk).placements.all()]
        for one, step in rows:
            doing.update(one, recipe=[*(kept for kept in one.recipe if kept["step"] != _STEP), step])
        doing.label = f"{STEPS[_STEP].label}: {len(rows)} maps"
        return len(rows)
