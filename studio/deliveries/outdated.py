"""Which deliveries are old: sets that are others now than what was delivered of them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from studio.deliveries.models import Delivery
from studio.projects.models import Project
from studio.sets.documents import core_sets

__all__ = ["Outdated", "outdated_deliveries", "since_delivery"]


@dataclass
class Outdated:
    """Of one target: sets that changed since they were delivered, by id with their names.

    number: of the newest delivery that holds any of them. destinations: names of the places where such a delivery lies.
    """

    target: str
    number: int
    sets: dict[int, str] = field(default_factory=dict)
    destinations: set[str] = field(default_factory=set)


def _made_of(entry: Mapping[str, Any], sources: Mapping[str, str | None]) -> object:
    """What a delivery of a set depends on: of each map its source, what it is, and its steps."""
    maps = [
        (m["role"], sources.get(m["file"]), m.get("channel"), m.get("layer"), m.get("recipe", []))
        for m in entry["maps"]
    ]
    return entry["name"], maps, entry.get("licence")


def _whole(project: Project) -> Iterator[Delivery]:
    whole = Delivery.objects.filter(project=project, manifest__isnull=False).defer("manifest", "mirror")
    yield from whole.order_by("-number")


def _now(project: Project, sets: set[int]) -> dict[int, tuple[str, object]]:
    """Name of each set, and what a delivery of it would be made of now."""
    rows = list(project.sets.filter(pk__in=sets).prefetch_related("placements__file__source"))
    cores, files = core_sets(rows)
    sources = {key: placement.file.source_id for key, placement in files.items()}
    return {
        row.pk: (row.name, _made_of(core.document(), sources)) for row, core in zip(rows, cores, strict=True)
    }  # fmt: skip


def _last(deliveries: list[Delivery]) -> dict[int, tuple[Delivery, object]]:
    """Of each set the newest of these deliveries that holds it, and what that was made of."""
    last: dict[int, tuple[Delivery, object]] = {}
    for delivery in deliveries:
        files = delivery.sets.get("files", {})
        for pk, entry in zip(delivery.set_ids, delivery.sets.get("sets", ()), strict=False):
            if pk not in last:
                last[pk] = delivery, _made_of(entry, files)
    return last


def since_delivery(project: Project) -> tuple[list[int], list[int]]:
    """Ids of sets that differ from what was last delivered of them, and of those that were never delivered.

    A set differs where its name, its maps, their sources, their steps or its licence are others than in the newest
    whole delivery that holds it.
    """
    last = _last(list(_whole(project)))
    now = _now(project, set(last))
    changed = [pk for pk, (_, made_of) in now.items() if last[pk][1] != made_of]
    return changed, [pk for pk in project.sets.values_list("pk", flat=True) if pk not in last]


def outdated_deliveries(project: Project, sets: set[int] | None = None) -> list[Outdated]:
    """Targets whose newest delivery of a set is made of something else than the set is now. sets: only of these."""
    by_target: dict[str, list[Delivery]] = {}
    for delivery in _whole(project):
        by_target.setdefault(delivery.target["name"], []).append(delivery)
    last = {target: _last(deliveries) for target, deliveries in by_target.items()}
    wanted = {pk for of_target in last.values() for pk in of_target if sets is None or pk in sets}
    now = _now(project, wanted)
    holds: dict[int, list[str]] = {}
    for name, held in project.destinations.exclude(holds=None).values_list("name", "holds"):
        holds.setdefault(held, []).append(name)
    told = []
    for target, of_target in sorted(last.items()):
        one = Outdated(target, 0)
        for pk, (delivery, made_of) in of_target.items():
            if pk in now and now[pk][1] != made_of:
                one.sets[pk] = now[pk][0]
                one.number = max(one.number, delivery.number)
                one.destinations.update(holds.get(delivery.pk, ()))
        if one.sets:
            told.append(one)
    return told
