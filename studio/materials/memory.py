"""Graphics memory of a cast's maps, before anything is built: by the sizes of its sources and the project's formats."""

from __future__ import annotations

from studio.materials.casts import Resolved
from studio.materials.models import Cast
from studio.rules.models import table_of
from texel.blocks.formats import memory
from texel.materials.filling import slot_roles, slot_sort
from texel.roles import role_named

__all__ = ["memory_of"]


def memory_of(cast: Cast, told: Resolved) -> int:
    """Bytes, all levels: each filled slot in the cheapest format that the project allows for its sort, as large as the
    largest map that goes into it. A map that two slots take counts twice."""
    table = table_of(cast.project)
    rows = cast.project.sets.filter(pk__in=[value["set"] for value in told.slots.values()])
    sets = {one.pk: one for one in rows.prefetch_related("placements__file__source")}
    total = 0
    for name, value in told.slots.items():
        slot, one = told.sheet.slots[name], sets.get(value["set"])
        if one is None:
            continue
        roles = set(slot_roles(slot, role_named(taken) if (taken := value.get("role")) else None))
        sources = [each.file.source for each in one.placements.all() if each.role in roles and each.file.source]
        sizes = [(one["width"], one["height"]) for one in (source.probe or {} for source in sources) if "width" in one]
        if sizes:
            width, height = max(sizes, key=lambda size: size[0] * size[1])
            total += memory(table.allowed[slot_sort(slot)][0], width, height)
    return total
