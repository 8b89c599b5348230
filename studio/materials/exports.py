"""Casts written in open formats, or baked into maps, by a worker; kept to be downloaded."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from blake3 import blake3
from typing_extensions import TypedDict

from studio import store
from studio.changes.errors import Conflict
from studio.deliveries.packed import tried_texels
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.materials.casts import fills_of, resolved, surfaces_of
from studio.materials.models import Cast
from studio.projects.models import Project
from studio.rules.models import documents_of
from studio.sets.licences import refused
from texel.channels.layout import parse_layout, ready_layout
from texel.errors import BadDocument
from texel.image import Texels
from texel.materials.baking import LARGEST
from texel.materials.exchange import BLACK, MAPS, WRITTEN_AS, BakeOrder, Exported, FilledCast, export, export_maps
from texel.materials.filling import OUTPUT, slot_target
from texel.roles import Green

__all__ = ["KINDS", "ExportOrder", "export_casts", "exports_of", "order_export"]

KINDS = WRITTEN_AS
_MAX_CASTS = 64


@dataclass(frozen=True)
class ExportOrder:
    """kind: of KINDS. side: texels of baked maps. vertex: the vertex colour in them, 0 to 1.

    layouts: packed maps that are made in place of their roles' own."""

    casts: tuple[int, ...]
    kind: str
    side: int = 1024
    bits: int = 8
    green: str = Green.UP.value
    layouts: tuple[str, ...] = ()
    vertex: tuple[float, ...] = BLACK


def order_export(project: Project, order: ExportOrder, by: Any) -> Job:
    """Queue the job. Raises Conflict when the casts are not of one master, BadDocument for what cannot be made."""
    casts = _rows(project, order.casts)
    if not casts or len(casts) < len(set(order.casts)):
        raise Conflict("there is no such cast")
    if len(casts) > _MAX_CASTS:
        raise BadDocument("at most {max_casts} casts are written at once", max_casts=_MAX_CASTS)
    if len({cast.master_id for cast in casts}) > 1:
        raise Conflict("casts of one master are written together; choose those of one")
    if order.kind not in KINDS:
        raise BadDocument("there is no format {kind}; there are {listed}", kind=order.kind, listed=", ".join(KINDS))
    if not 1 <= order.side <= LARGEST:
        raise BadDocument("maps are baked from 1 to {largest} texels a side", largest=LARGEST)
    _bake_order(project, order.side, order.bits, order.green, order.layouts, order.vertex)
    what = casts[0].name if len(casts) == 1 else f"{len(casts)} casts"
    title = f"Write {what} as {KINDS[order.kind]['title']}"
    return enqueue(
        project, "export", title, by, casts=list(order.casts), format=order.kind, side=order.side, bits=order.bits,
        green=order.green, layouts=list(order.layouts), vertex=list(order.vertex),
    )  # fmt: skip


def _rows(project: Project, casts: Iterable[int]) -> list[Cast]:
    rows = project.casts.select_related("master", "project", "parent").in_bulk(list(casts))
    return [rows[pk] for pk in dict.fromkeys(casts) if pk in rows]


def _bake_order(
    project: Project, side: int, bits: int, green: str, layouts: Iterable[str], vertex: Iterable[float]
) -> BakeOrder:
    """layouts: of the project's own, or ready-made ones. Raises BadDocument."""
    parts = tuple(vertex)
    if len(parts) != 4 or not all(0 <= part <= 1 for part in parts):
        raise BadDocument("a vertex colour has four numbers from 0 to 1: red, green, blue, alpha")
    own = documents_of(project, "layout")
    wanted_layouts = [parse_layout(own[name], name) if name in own else ready_layout(name) for name in layouts]
    return BakeOrder(side, side, bits, Green(green), tuple(wanted_layouts), (parts[0], parts[1], parts[2], parts[3]))


@job_kind("export", minutes=60)
def export_casts(job: Job, progress: Progress) -> str:
    """The job "export". Its payload tells in the end which file was made, and what the format could not say."""
    told = job.payload
    rows = _rows(job.project, told["casts"])
    if not rows:
        return "the casts are gone"
    sheet, filled = resolved(rows[0]).sheet, []
    for number, row in enumerate(rows):
        progress.report(number, len(rows) + 1, row.name)
        filled.append(_filled(row))
    progress.report(len(rows), len(rows) + 1, "writing")
    order = _bake_order(
        job.project, told["side"], told["bits"], told["green"], told["layouts"], told.get("vertex", BLACK)
    )
    if told["format"] == MAPS:
        made = export_maps(sheet, filled, order)
    else:
        made = export(sheet, told["format"], sheet.name, filled, told["side"], order.vertex)
    name, data = _one_file(sheet.name, made)
    key = blake3(data).hexdigest()
    store.save_bytes("export", key, data)
    facts = {"file": name, "digest": key, "size": len(data), "lost": list(made.lost), "baked": made.baked or {}}
    progress.add_facts(**facts)
    return f"{name}, {len(data) / 1e6:.1f} MB"


def _filled(cast: Cast) -> FilledCast:
    """The cast with what it inherits, and its maps as its slots take them."""
    told = resolved(cast)
    fills, sets = fills_of(cast.project, told.sheet, told.slots)
    surfaces = surfaces_of(cast.project, sets)
    sets |= {one.name: one for own in surfaces.values() for one in own.values()}
    against = refused(list(sets.values()))
    if against:
        name, why = next(iter(against.items()))
        raise BadDocument("{cast} is fed with {name}. {why}", cast=cast.name, name=name, why=why)
    maps: dict[str, Texels] = {}
    tiles: dict[str, dict[int, Texels]] = {}
    for slot, binding in fills.items():
        one = sets.get(binding.set)
        if one is None:
            raise BadDocument("{cast}: the set of slot {slot} is gone", cast=cast.name, slot=slot)
        target = slot_target(told.sheet.slots[slot], binding.role)
        if binding.set in surfaces:
            own = surfaces[binding.set]
            tiles[slot] = {at: tried_texels(each, target, OUTPUT) for at, each in own.items()}
            maps[slot] = next(iter(tiles[slot].values()))
        else:
            maps[slot] = tried_texels(one, target, OUTPUT)
    return FilledCast(cast.name, {name: told.values[name] for name in told.changes}, maps, tiles)


def _one_file(name: str, made: Exported) -> tuple[str, bytes]:
    if len(made.files) == 1:
        return next(iter(made.files.items()))
    packed = io.BytesIO()
    # PNGs do not get smaller.
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_STORED) as archive:
        for path, body in made.files.items():
            archive.writestr(zipfile.ZipInfo(path), body)
    return f"{name}.zip", packed.getvalue()


class ExportFacts(TypedDict):
    """file: "" until it is done. lost: what the format cannot say. baked: inputs that had to be, by cast."""

    id: int
    title: str
    format: str
    state: str
    message: str
    created: datetime
    by: str
    file: str
    size: int
    lost: list[str]
    baked: dict[str, list[str]]


def exports_of(project: Project) -> list[ExportFacts]:
    """The newest exports of a project, as the page shows them."""
    rows = project.jobs.filter(kind="export").select_related("by")[:30]
    return [
        {
            "id": row.pk, "title": row.title, "state": row.state, "message": row.message, "created": row.created,
            "by": row.by.username if row.by else "", "format": row.payload["format"],
            "file": row.payload.get("file", ""), "size": row.payload.get("size", 0),
            "lost": row.payload.get("lost", []), "baked": row.payload.get("baked", {}),
        }
        for row in rows
    ]  # fmt: skip
