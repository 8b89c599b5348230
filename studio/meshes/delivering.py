"""Models for a delivery: with their files, and all that their slots wear."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from studio.changes.errors import Conflict
from studio.deliveries.ordered import OrderedCast, OrderedCasts, OrderedModel, OrderedSlot
from studio.materials.delivering import WornOrder, orders_of
from studio.materials.models import Wears
from studio.meshes.measuring import strokes_of
from studio.meshes.models import Mesh
from studio.meshes.regions import region_worn
from studio.meshes.slots import facts_of
from studio.projects.models import Project
from texel.document_types import RegionDocument
from texel.meshes.delivered import titles_of

__all__ = ["with_models"]


def with_models(project: Project, casts: OrderedCasts, ids: Iterable[int] | None, keep_others: bool) -> OrderedCasts:
    """What is delivered beside sets, with models. ids: of models; None for all of the project. keep_others: the other
    models stay as they were delivered last.

    Raises Conflict for a model that is gone or not measured, BadDocument for a cast that does not fit its master.
    """
    rows = list(project.meshes.select_related("version", "project").prefetch_related("version__files", "strokes"))
    wanted = None if ids is None else set(ids)
    chosen = sorted((row for row in rows if wanted is None or row.pk in wanted), key=lambda row: row.name)
    if wanted is not None and len(chosen) < len(wanted):
        raise Conflict("a model that was chosen is gone")
    worn = orders_of(project, [one for row in chosen for one in row.wears.values()])
    sets = {pk for one in worn.values() for pk in one.sets}
    files: dict[str, str] = {}
    models = [_ordered(row, worn, files) for row in chosen]
    others = [row.name for row in rows if row not in chosen] if keep_others else []
    return {
        **casts, "models": models, "sets": sorted({*casts["sets"], *sets}), "mesh_files": files,
        "carry_models": sorted(others),
    }  # fmt: skip


def _ordered(row: Mesh, worn: Mapping[tuple[str, int], WornOrder], files: dict[str, str]) -> OrderedModel:
    """A model as it is ordered; what the library calls its files is added to ``files`` with their digests."""
    facts = facts_of(row)
    if facts is None or row.version is None:
        if row.problem:
            raise Conflict("{model} is not measured: {problem}", model=row.name, problem=row.problem)
        raise Conflict("{model} is not measured yet; wait for that", model=row.name)
    named = {}
    for file in row.version.files.all():
        called = f"model/{file.source_id}/{file.name}"
        files[called] = file.source_id
        named[file.name] = called

    def order_of(wears: Wears | None) -> OrderedCast | None:
        found = worn.get((wears["kind"], wears["id"])) if wears else None
        return found.order if found else None

    names = [one.name for one in facts.slots]

    def region_of(wears: Wears | None) -> RegionDocument | None:
        region = region_worn(wears) if wears else None
        return region.document() if region else None

    slots: list[OrderedSlot] = [
        {
            "key": key,
            "title": title,
            "parts": list(slot.parts),
            "wears": order_of(row.wears.get(key)),
            "region": region_of(row.wears.get(key)),
        }
        for key, title, slot in zip(facts.keys, titles_of(names, row.titles), facts.slots, strict=True)
    ]
    return {
        "name": row.name, "main": row.version.main, "files": named, "splits": list(row.splits), "slots": slots,
        "metres": row.metres,
        "strokes": strokes_of(row),
    }  # fmt: skip
