"""Casts for a delivery: with all that they inherit, and the sets that fill their slots."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple, cast

from studio.changes.errors import Conflict
from studio.deliveries.ordered import NO_CASTS, OrderedCast, OrderedCasts
from studio.materials.casts import fills_of, resolved, surfaces_of
from studio.materials.models import Cast, Wears
from studio.projects.models import Project
from studio.sets.documents import roles_in
from texel.meshes.plain import plain_order

__all__ = ["WornOrder", "cast_to_deliver", "casts_to_deliver", "orders_of"]


def casts_to_deliver(project: Project, ids: Iterable[int] | None, keep_others: bool) -> OrderedCasts:
    """ids: of casts; None for all of the project. keep_others: the other casts stay as they were delivered last.

    Raises Conflict for a cast that is gone, BadDocument for one that does not fit its master any more.
    """
    rows = project.casts.select_related("master", "project", "parent")
    wanted = None if ids is None else set(ids)
    chosen = sorted((row for row in rows if wanted is None or row.pk in wanted), key=lambda row: row.name)
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
    tiles = [found for own in surfaces_of(row.project, by_name).values() for found in own.values()]
    return document, {found.pk for found in [*by_name.values(), *tiles]}


class WornOrder(NamedTuple):
    """What a slot or a layer wears, as it is ordered. sets: ids of those that fill it."""

    order: OrderedCast
    sets: frozenset[int]


def orders_of(project: Project, wears: Iterable[Wears], relief: bool = False) -> dict[tuple[str, int], WornOrder]:
    """What is worn, by kind and id; what is gone is left out. relief: sets with their height, too.

    Raises BadDocument for a cast that does not fit its master any more.
    """
    ids: dict[str, set[int]] = {"cast": set(), "set": set()}
    for one in wears:
        ids[one["kind"]].add(one["id"])
    made = {}
    casts = project.casts.select_related("master", "project", "parent").filter(pk__in=ids["cast"])
    for row in casts if ids["cast"] else ():
        order, used = cast_to_deliver(row)
        made["cast", row.pk] = WornOrder(order, frozenset(used))
    for found in project.sets.filter(pk__in=ids["set"]).prefetch_related("placements") if ids["set"] else ():
        plain = cast(OrderedCast, plain_order(found.name, roles_in(found), relief))
        made["set", found.pk] = WornOrder(plain, frozenset([found.pk]))
    return made
