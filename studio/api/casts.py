"""A project's materials: the masters it uses, its casts, and what an update would do."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import Path, Router, Status

from studio import store
from studio.api.access import name_of, project_for, user_of
from studio.api.masters import change_out, sheet_out
from studio.api.schemas.casts import (
    AdoptIn,
    AdoptionNow,
    AdoptionOut,
    BindingRemarkOut,
    CastChange,
    CastOut,
    CastRow,
    Comparison,
    ExportIn,
    FillIn,
    FromSet,
    Impact,
    Materials,
    NewCast,
    Pin,
    StackIn,
    StackOut,
    TakeIn,
    TakenInOut,
)
from studio.api.schemas.jobs import JobOut
from studio.api.schemas.masters import CostOut
from studio.api.seen import IfMatch, newest_of, seen
from studio.changes.errors import Conflict
from studio.materials import asked, casts, exports, imports, library, stacking
from studio.materials.casts import Worst
from studio.materials.memory import memory_of
from studio.materials.models import Adoption, Cast, Master, MasterVersion
from studio.projects.models import Membership, Project
from studio.rules.models import table_of
from texel.errors import BadDocument
from texel.materials import over_budget, read_sheet, used_variants
from texel.materials.cost import Cost
from texel.materials.filling import BindingRemark
from texel.materials.versions import changes_between
from texel.roles import Role, Transfer

router = Router(tags=["casts"])
_LARGEST = 2048


def _values(kind: type[Role] | type[Transfer]) -> list[str]:
    return [one.value for one in kind]


def _cast(request: HttpRequest, slug: str, pk: int, right: str = Membership.Right.LOOK) -> Cast:
    project = project_for(request, slug, right)
    return get_object_or_404(project.casts.select_related("master", "parent", "project"), pk=pk)


def _worst(cast: Cast, told: casts.Resolved) -> Worst:
    severities = [remark.severity.value for remark in casts.remarks_of(cast, told)]
    return casts.worst_of(severities)


def _fills(slots: Mapping[str, FillIn | None]) -> dict[str, casts.Fill | None]:
    fills: dict[str, casts.Fill | None] = {}
    for slot, one in slots.items():
        fills[slot] = None if one is None else {"set": one.set, "role": one.role} if one.role else {"set": one.set}
    return fills


def _cast_row(cast: Cast | casts.CastFacts, master: str, worst: Worst) -> CastRow:
    return {
        "id": cast.pk, "name": cast.name, "master": master, "parent": cast.parent_id,
        "changes": len(cast.changes) + len(cast.slots), "worst": worst,
    }  # fmt: skip


def _cast_out(cast: Cast) -> CastOut:
    cast = Cast.objects.select_related("master", "parent", "project", "by").get(pk=cast.pk)
    told = casts.resolved(cast)
    sets = cast.project.sets.filter(pk__in=[value["set"] for value in told.slots.values()])
    names, versions = dict(sets.values_list("pk", "name")), dict(sets.values_list("pk", "revision"))
    adoption = Adoption.objects.select_related("version").get(project=cast.project, master=cast.master)
    return {
        **_cast_row(cast, cast.master.name, _worst(cast, told)), "revision": cast.revision,
        "sheet": sheet_out(told.sheet),
        "number": adoption.version.number,
        "values": {name: list(value) for name, value in told.values.items()}, "changed": list(cast.changes),
        "inherited": [name for name in told.changes if name not in cast.changes],
        "fills": [
            {"slot": slot, "set": value["set"], "set_name": names.get(value["set"], ""), "role": value.get("role"),
             "own": slot in cast.slots, "version": versions.get(value["set"], 0)}
            for slot, value in told.slots.items()
        ],
        "remarks": [_remark(one) for one in casts.remarks_of(cast, told)], "memory": memory_of(cast, told),
        "by": name_of(cast.by), "created": cast.created,
    }  # fmt: skip


def _remark(one: BindingRemark) -> BindingRemarkOut:
    return {"check": one.check, "severity": one.severity.value, "slot": one.slot, "message": one.message}


def _cost(one: Cost) -> CostOut:
    return {
        "reads": one.reads, "samplers": one.samplers, "arithmetic": one.arithmetic, "variants": one.variants,
    }  # fmt: skip


@newest_of(Cast)
def _newest_cast(request: HttpRequest, row: Cast) -> CastOut:
    return _cast_out(row)


@newest_of(Adoption)
def _newest_adoption(request: HttpRequest, row: Adoption) -> AdoptionNow:
    return {"master": row.master.name, "number": row.version.number, "pinned": row.pinned, "revision": row.revision}


def _adoption_out(
    one: Adoption, newest: MasterVersion | None, rows: list[casts.Resolved], limits: Mapping[str, int]
) -> AdoptionOut:
    cost, deciding = library.cost_of_version(one.version)
    number = (one.version.major, one.version.minor, one.version.patch)
    newer = newest is not None and (newest.major, newest.minor, newest.patch) > number
    return {
        "master": one.master.name, "title": one.master.title, "number": one.version.number,
        "newest": newest.number if newest else None, "update_available": newer and not one.pinned, "pinned": one.pinned,
        "deprecated": one.version.deprecated, "casts": len(rows), "revision": one.revision,
        "cost": _cost(cost), "over_budget": over_budget(cost, limits),
        "used_variants": used_variants(deciding, [row.values for row in rows]),
    }  # fmt: skip


@router.get("", response=Materials)
def show(request: HttpRequest, slug: Path[str]) -> Any:
    """The masters that the project uses, and its casts."""
    project = project_for(request, slug)
    adoptions = library.adoptions_of(project)
    rows = casts.overview(project, adoptions)
    told: dict[int, list[casts.Resolved]] = {}
    for row in rows:
        told.setdefault(row.cast.master_id, []).append(row.told)
    limits = table_of(project).sheets
    names = {one.master_id: one.master.name for one in adoptions}
    newest = library.latest_of([one.master_id for one in adoptions])
    document = {
        "masters": [
            _adoption_out(one, newest.get(one.master_id), told.get(one.master_id, []), limits) for one in adoptions
        ],
        "casts": [_cast_row(row.cast, names[row.cast.master_id], row.worst) for row in rows],
    }
    # Written as it is: with thousands of casts, holding every row against the schema takes longer than making it.
    return HttpResponse(json.dumps(document), content_type="application/json")


@router.post("", response=CastOut)
def create(request: HttpRequest, slug: Path[str], given: NewCast) -> Any:
    """A cast of a master, or of another cast."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    master = get_object_or_404(Master, name=given.master) if given.master else None
    return _cast_out(casts.create_cast(project, given.name, master, given.parent, user_of(request)))


@router.get("/{int:pk}", response=CastOut)
def show_cast(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    return _cast_out(_cast(request, slug, pk))


@router.patch("/{int:pk}", response=CastOut)
def change(request: HttpRequest, slug: Path[str], pk: int, given: CastChange, if_match: IfMatch = None) -> Any:
    """Change parameters, slots or the name; of several casts at once where others are named."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    revision = seen(if_match)
    saw = given.seen if revision is None else {**given.seen, pk: revision}
    casts.change_casts(
        project, [pk, *given.casts], user_of(request), given.changes, _fills(given.slots), given.name, saw
    )  # fmt: skip
    return _cast_out(_cast(request, slug, pk))


@router.post("/{int:pk}/fill", response=CastOut)
def fill(request: HttpRequest, slug: Path[str], pk: int, given: FromSet, if_match: IfMatch = None) -> Any:
    """Fill every slot that a set has maps for."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    casts.fill_from_set(project, pk, given.set, user_of(request), given.layer, seen(if_match))
    return _cast_out(_cast(request, slug, pk))


@router.post("/stack", response=StackOut)
def stack(request: HttpRequest, slug: Path[str], given: StackIn) -> Any:
    """A new layered master, as a draft, of casts as they are, the lowest first."""
    project = project_for(request, slug, Membership.Right.RULES)
    rows = {cast.pk: cast for cast in project.casts.select_related("master", "parent", "project")}
    if not all(pk in rows for pk in given.casts):
        raise Conflict("there is no such cast")
    return {"master": stacking.stack_casts(given.title, [rows[pk] for pk in given.casts], user_of(request)).name}


@router.post("/import", response=TakenInOut)
def take_in(request: HttpRequest, slug: Path[str], given: TakeIn) -> Any:
    """Put a master that was read from a file into the library, with a version, and cast it in the project at once.

    Slots are filled from sets that hold files of the same names.
    """
    project = project_for(request, slug, Membership.Right.RULES)
    read = [imports.ReadCast(one.name, one.changes, one.files) for one in given.casts]
    made = imports.take_in(project, given.document, read, given.note or "Read from a file", user_of(request))
    return {
        "master": made.master.name, "casts": [{"id": cast.pk, "name": cast.name} for cast in made.casts],
        "unfilled": [{"cast": cast, "slot": slot, "file": file} for cast, slot, file in made.unfilled],
    }  # fmt: skip


@router.get("/exports", response=list[exports.ExportFacts])
def list_exports(request: HttpRequest, slug: Path[str]) -> Any:
    """What was written of casts lately, the newest first."""
    return exports.exports_of(project_for(request, slug))


@router.post("/exports", response=JobOut)
def order_export(request: HttpRequest, slug: Path[str], given: ExportIn) -> Any:
    """Write casts of one master in an open format, or bake them into maps, in a worker."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    order = exports.ExportOrder(
        tuple(given.casts),
        given.format,
        given.side,
        given.bits,
        given.green,
        tuple(given.layouts),
        tuple(given.vertex),
    )
    return exports.order_export(project, order, user_of(request))


@router.get("/exports/{int:pk}/file")
def export_file(request: HttpRequest, slug: Path[str], pk: int) -> HttpResponse:
    """The file that was written."""
    job = get_object_or_404(project_for(request, slug).jobs, pk=pk, kind="export")
    data = store.read_bytes("export", job.payload["digest"]) if "digest" in job.payload else None
    if data is None:
        raise Http404("This export is not whole.")
    headers = {"Content-Disposition": content_disposition_header(True, job.payload["file"])}
    return HttpResponse(data, content_type="application/octet-stream", headers=headers)


@router.delete("/{int:pk}", response={204: None})
def delete(request: HttpRequest, slug: Path[str], pk: int, if_match: IfMatch = None) -> Any:
    project = project_for(request, slug, Membership.Right.PREPARE)
    casts.delete_cast(project, pk, user_of(request), seen(if_match))
    return Status(204, None)


@router.get("/picture")
def slot_picture(
    request: HttpRequest, slug: Path[str], set: int, expects: str, space: str, taken: str = "", side: int = 1024
) -> HttpResponse:
    """A PNG of what a set gives a slot, packed and turned as the slot takes it.

    expects: the slot's role or layout; space: its colour space; taken: the role of the map
    that is taken instead, if any.
    """
    project = project_for(request, slug)
    one = get_object_or_404(project.sets, pk=set)
    if space not in _values(Transfer) or taken not in ("", *_values(Role)):
        raise BadDocument("space is srgb or linear, taken a role")
    made = asked.draw_slot.ask(
        user_of(request).pk, set=one.pk, expects=expects, space=space, taken=taken, side=max(16, min(side, _LARGEST))
    )
    return HttpResponse(made.data, content_type="image/png", headers={"Cache-Control": "no-cache"})


@router.get("/masters/{name}/compare", response=Comparison)
def compare(request: HttpRequest, slug: Path[str], name: Path[str]) -> Any:
    """All casts of a master side by side: every parameter's value in each, and which set fills each slot."""
    project = project_for(request, slug)
    adoption = get_object_or_404(project.adoptions.select_related("version__master"), master__name=name)
    rows = [row for row in casts.overview(project) if row.cast.master_id == adoption.master_id]
    names = dict(project.sets.values_list("pk", "name"))
    sheet = read_sheet(library.sheet_of(adoption.version))
    return {
        "title": sheet["title"], "parameters": sheet["parameters"], "slots": sheet["slots"],
        "casts": [
            {
                "id": row.cast.pk, "name": row.cast.name, "changed": list(row.cast.changes),
                "values": {key: list(value) for key, value in row.told.values.items()},
                "fills": {slot: names.get(value["set"], "") for slot, value in row.told.slots.items()},
            }
            for row in rows
        ],
    }  # fmt: skip


def _impact(project: Project, name: str, number: str, renames: dict[str, str]) -> Impact:
    version = library.version_of(get_object_or_404(Master, name=name), number)
    before = project.adoptions.filter(master=version.master).select_related("version__master").first()
    changes = changes_between(library.sheet_of(before.version), library.sheet_of(version)) if before else []
    effects = library.impact_of(project, version, renames)
    used = {fill["set"] for one in effects for fill in one.fills.values()}
    revisions = dict(project.sets.filter(pk__in=used).values_list("pk", "revision"))
    return {
        "number": version.number, "before": before.version.number if before else None,
        "changes": [change_out(one) for one in changes],
        "casts": [
            {
                "cast": one.cast, "name": one.name, "kept": one.kept, "lost": dict(one.lost),
                "values": {name: list(value) for name, value in one.values.items()},
                "fills": [
                    {"slot": slot, "set": fill["set"], "role": fill.get("role"),
                     "version": revisions.get(fill["set"], 0)}
                    for slot, fill in one.fills.items()
                ],
            }
            for one in effects
        ],
    }  # fmt: skip


@router.post("/masters/{name}/impact", response=Impact)
def impact(request: HttpRequest, slug: Path[str], name: Path[str], given: AdoptIn) -> Any:
    """What taking a version would do to the project's casts. Nothing is changed."""
    return _impact(project_for(request, slug), name, given.number, given.renames)


@router.put("/masters/{name}", response=Impact)
def adopt(request: HttpRequest, slug: Path[str], name: Path[str], given: AdoptIn, if_match: IfMatch = None) -> Any:
    """Use a version of a master; casts are carried over. Can be undone."""
    project = project_for(request, slug, Membership.Right.RULES)
    told = _impact(project, name, given.number, given.renames)
    version = library.version_of(get_object_or_404(Master, name=name), given.number)
    library.adopt(project, version, user_of(request), given.renames, seen(if_match))
    return told


@router.put("/masters/{name}/pinned", response={204: None})
def put_pinned(request: HttpRequest, slug: Path[str], name: Path[str], given: Pin, if_match: IfMatch = None) -> Any:
    """Stay with the version in use, whatever comes."""
    project = project_for(request, slug, Membership.Right.RULES)
    library.pin(project, name, given.pinned, user_of(request), seen(if_match))
    return Status(204, None)
