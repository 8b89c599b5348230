"""Casts for a delivery: with all that they inherit, and the sets that fill their slots."""

from __future__ import annotations

from collections.abc import Iterable

from studio.changes.errors import Conflict
from studio.deliveries.ordered import OrderedCast, OrderedCasts
from studio.materials.casts import fills_of, resolved
from studio.projects.models import Project

__all__ = ["casts_to_deliver"]


def casts_to_deliver(project: Project, ids: Iterable[int] | None, keep_others: bool) -> OrderedCasts:
    """ids: of casts; None for all of the project. keep_others: the other casts stay as they were delivered last.

    Raises Conflict for a cast that is gone, BadDocument for one that does not fit its master any more.
    """
    rows = project.casts.select_related("master", "project", "parent")
    wanted = None if ids is None else set(ids)
    chosen = [row for row in rows if wanted is None or row.pk in wanted]
    if wanted is not None and len(chosen) < len(wanted):
        raise Conflict("a cast that was chosen is gone")
    documents: list[OrderedCast] = []
    sets: set[int] = set()
    for row in chosen:
        one = resolved(row)
        fills, by_name = fills_of(project, one.sheet, one.slots)
        sets |= {found.pk for found in by_name.values()}
        slots = {
            slot: {"set": fill.set} | ({"role": fill.role.value} if fill.role else {}) for slot, fill in fills.items()
        }
        documents.append(
            {"name": row.name, "master": one.sheet.document, "changes": dict(one.changes), "slots": slots}
        )  # fmt: skip
    others = [row.name for row in rows if row not in chosen] if keep_others else []
    return {"casts": documents, "sets": sorted(sets), "carry": sorted(others)}
