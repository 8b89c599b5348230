"""Casts for a delivery: with all that they inherit, and the sets that fill their slots."""

from __future__ import annotations

from collections.abc import Iterable

from studio.changes.errors import Conflict
from studio.deliveries.ordered import NO_CASTS, OrderedCast, OrderedCasts
from studio.materials.casts import fills_of, resolved
from studio.materials.models import Cast
from studio.projects.models import Project

__all__ = ["cast_to_deliver", "casts_to_deliver"]


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
        document, used = cast_to_deliver(row)
        documents.append(document)
        sets |= used
    others = [row.name for row in rows if row not in chosen] if keep_others else []
    return {**NO_CASTS, "casts": documents, "sets": sorted(sets), "carry": sorted(others)}


def cast_to_deliver(row: Cast) -> tuple[OrderedCast, set[int]]:
    """A cast as it is ordered, and the ids of the sets that fill its slots. Raises BadDocument."""
    one = resolved(row)
    fills, by_name = fills_of(row.project, one.sheet, one.slots)
    slots = {slot: {"set": fill.set} | ({"role": fill.role.value} if fill.role else {}) for slot, fill in fills.items()}
    document: OrderedCast = {
        "name": row.name, "master": one.sheet.document, "changes": dict(one.changes), "slots": slots,
    }  # fmt: skip
    return document, {found.pk for found in by_name.values()}
