"""Models: mesh files taken in, what their slots wear, and what is wrong with them."""

from __future__ import annotations

from collections import Counter
from typing import Any

from django.db.models import Prefetch
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, Path, Router, Status
from ninja.files import UploadedFile

from studio.api.access import name_of, project_for, user_of
from studio.api.caching import png
from studio.api.masters import sheet_out
from studio.api.schemas.jobs import JobOut
from studio.api.schemas.models import (
    ModelChange,
    ModelOut,
    ModelRow,
    ModelSlotOut,
    ModelVersionOut,
    PaintedOut,
    SlotProposals,
    SlotWearsIn,
    SplitIn,
    VertexStrokeIn,
    WornOut,
    WornSheet,
)
from studio.api.seen import IfMatch, newest_of, seen
from studio.changes.errors import Conflict
from studio.materials.casts import resolved
from studio.materials.models import Wears
from studio.meshes import slots as slotting
from studio.meshes.asked import draw_model, draw_uvs, mesh_to_draw, picture_key, spacing_of_stroke
from studio.meshes.filling import fill_between_islands
from studio.meshes.measuring import measure_again, shape_of, state_of
from studio.meshes.models import Mesh, MeshStroke
from studio.meshes.own import ask_for_own_maps
from studio.meshes.painting import add_stroke, clear_strokes
from studio.meshes.regions import worn_region
from studio.meshes.slots import Standing
from studio.meshes.taking import ModelFile, bring_back, new_version, take_model
from studio.projects.models import Membership, Project
from studio.rules.models import models_of
from texel.checks.finding import Severity
from texel.meshes.facts import MeshFacts
from texel.meshes.judging import MeshFinding, density_of
from texel.meshes.proposals import SURE

router = Router(tags=["models"])
_PREPARE = Membership.Right.PREPARE
_MAX_SIDE = 1024


def _mesh(request: HttpRequest, slug: str, pk: int, right: str = Membership.Right.LOOK) -> Mesh:
    rows = project_for(request, slug, right).meshes.select_related("version", "project")
    return get_object_or_404(rows, pk=pk)


def _bare(mesh: Mesh, facts: MeshFacts | None, known: dict[tuple[str, int], Standing]) -> list[int]:
    """Indices of slots in use that wear nothing."""
    if facts is None:
        return []
    keys = facts.keys
    return [
        at for at, (key, slot) in enumerate(zip(keys, facts.slots, strict=True))
        if slot.is_worn and (key not in mesh.wears or _pair(mesh.wears[key]) not in known)
    ]  # fmt: skip


def _pair(wears: Wears) -> tuple[str, int]:
    return wears["kind"], wears["id"]


def _row(
    mesh: Mesh, facts: MeshFacts | None, known: dict[tuple[str, int], Standing], found: list[MeshFinding]
) -> ModelRow:
    bare = _bare(mesh, facts, known)
    return {
        "id": mesh.pk, "name": mesh.name, "file": mesh.version.main if mesh.version else "", "state": state_of(mesh),
        "problem": mesh.problem, "triangles": facts.triangles if facts else 0,
        "slots": sum(1 for one in facts.slots if one.is_worn) if facts else 0, "empty": len(bare),
        "errors": sum(1 for one in found if one.severity is Severity.ERROR),
        "warnings": sum(1 for one in found if one.severity is Severity.WARNING),
        "size": list(facts.size) if facts else [], "picture": picture_key(mesh, bare=bare)[:16],
    }  # fmt: skip


def _slots(mesh: Mesh, facts: MeshFacts, known: dict[tuple[str, int], Standing]) -> list[ModelSlotOut]:
    keys = facts.keys
    splits = {f"{one['slot']} ({one['part']})".strip(): one["slot"] for one in mesh.splits}
    told: list[ModelSlotOut] = []
    for at, (key, slot) in enumerate(zip(keys, facts.slots, strict=True)):
        wears: Wears | None = mesh.wears.get(key)
        standing = known.get(_pair(wears)) if wears else None
        worn: WornOut | None = None
        if wears is not None:
            region = wears.get("region")
            worn = {
                "kind": wears["kind"], "id": wears["id"], "name": standing.name if standing else None,
                "region": region["name"] if region else None,
            }  # fmt: skip
        told.append({
            "index": at, "key": key, "name": slot.name, "title": mesh.titles.get(key, ""), "parts": list(slot.parts),
            "triangles": slot.triangles, "area": slot.area,
            "density": density_of(slot, standing.worn_as(wears) if standing and wears else None),
            "density_of_one": slot.density,
            "overlap": slot.overlap, "islands": slot.islands, "gap": slot.gap, "uv_sets": slot.uv_sets,
            "has_tangents": slot.has_tangents, "has_colours": slot.has_colours,
            "textures": [{"use": use, "file": file, "is_inside": inside} for use, file, _, inside in slot.textures],
            "alpha": slot.alpha, "worn": worn, "regions": list(standing.regions) if standing else [],
            "shared_with": [
                other for other, name in enumerate(keys)
                if other != at and wears and mesh.wears.get(name) == wears and facts.slots[other].is_worn
            ],
            "split_from": splits.get(slot.name),
        })  # fmt: skip
    return [one for one, slot in zip(told, facts.slots, strict=True) if slot.is_worn]


def _versions(mesh: Mesh) -> list[ModelVersionOut]:
    rows = mesh.versions.select_related("by").prefetch_related("files").order_by("-number")
    return [
        {
            "number": one.number, "at": one.at, "by": name_of(one.by),
            "files": [file.name for file in one.files.all()], "is_current": one.pk == mesh.version_id,
        }
        for one in rows
    ]  # fmt: skip


def _out(mesh: Mesh) -> ModelOut:
    mesh = Mesh.objects.select_related("version", "project").get(pk=mesh.pk)
    facts = slotting.facts_of(mesh)
    known = slotting.standings(mesh.project, list(mesh.wears.values()))
    found = slotting.findings_of(mesh, known)
    painted = Counter(mesh.strokes.values_list("stroke__channel", flat=True))
    return {
        **_row(mesh, facts, known, found), "revision": mesh.revision, "kind": facts.kind if facts else "",
        "metres": mesh.metres, "points": facts.points if facts else 0, "remarks": list(facts.remarks) if facts else [],
        "parts": [
            {"name": one.name, "levels": list(one.levels), "slots": list(one.slots)}
            for one in (facts.parts if facts else ())
        ],
        "slots_out": _slots(mesh, facts, known) if facts else [],
        "findings": [
            {
                "check": one.check, "severity": one.severity.value, "slot": one.slot, "message": str(one.message),
                "measure": one.measure, "threshold": one.threshold,
            }
            for one in found
        ],
        "versions": _versions(mesh), "wanted_density": models_of(mesh.project).density,
        "shape": shape_of(mesh),
        "strokes": sum(painted.values()),
        "painted": painted,
    }  # fmt: skip


@newest_of(Mesh)
def _newest(request: HttpRequest, row: Any) -> ModelOut:
    return _out(row)


@router.get("", response=list[ModelRow])
def list_models(request: HttpRequest, slug: Path[str]) -> Any:
    """All models of the project, with what is wrong with them."""
    project = project_for(request, slug)
    painted = Prefetch("strokes", MeshStroke.objects.only("mesh_id"))
    rows = list(project.meshes.select_related("version", "project").prefetch_related(painted))
    known = slotting.standings(project, [wears for row in rows for wears in row.wears.values()])
    return [_row(row, slotting.facts_of(row), known, slotting.findings_of(row, known)) for row in rows]


def _files(files: list[UploadedFile], paths: list[str]) -> list[ModelFile]:
    """Each file under the path that came with it, else under its own name."""
    return [(paths[at] if at < len(paths) else file.name or "unnamed", file) for at, file in enumerate(files)]


@router.post("", response=ModelOut)
def add_model(
    request: HttpRequest, slug: Path[str], file: File[list[UploadedFile]], path: Form[list[str]] = [], # noqa: B006
    name: Form[str] = "",
) -> Any:  # fmt: skip
    """Take a model in: its mesh file, and what that names (buffers, MTL, textures), each under its path."""
    project = project_for(request, slug, _PREPARE)
    return _out(take_model(project, _files(file, path), user_of(request), name))


@router.get("/{int:pk}", response=ModelOut)
def show_model(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    return _out(_mesh(request, slug, pk))


@router.post("/{int:pk}/models", response=ModelOut)
def add_version(
    request: HttpRequest, slug: Path[str], pk: int, file: File[list[UploadedFile]],
    path: Form[list[str]] = [],  # noqa: B006
    if_match: IfMatch = None,
) -> Any:  # fmt: skip
    """The model exported again: slots of the same names keep what they wear."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    return _out(new_version(mesh.project, pk, _files(file, path), user_of(request), seen(if_match)))


@router.post("/{int:pk}/versions/{int:number}", response=ModelOut)
def use_version(request: HttpRequest, slug: Path[str], pk: int, number: int, if_match: IfMatch = None) -> Any:
    """Use a former version of its files."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    return _out(bring_back(mesh.project, pk, number, user_of(request), seen(if_match)))


@router.patch("/{int:pk}", response=ModelOut)
def change_model(request: HttpRequest, slug: Path[str], pk: int, given: ModelChange, if_match: IfMatch = None) -> Any:
    """What slots wear or are called, the model's name, or its scale; one of them at a time."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    by, saw = user_of(request), seen(if_match)
    if sum(one is not None for one in (given.name, given.metres, given.wears, given.titles)) != 1:
        raise Conflict("change one thing of a model at a time: name, metres, wears or titles")
    if given.wears is not None:
        wears = {key: None if one is None else _wears_of(mesh.project, one) for key, one in given.wears.items()}
        slotting.assign(mesh.project, pk, wears, by, saw)
    elif given.titles is not None:
        slotting.call_slots(mesh.project, pk, given.titles, by, saw)
    elif given.name is not None:
        slotting.rename_model(mesh.project, pk, given.name, by, saw)
    elif given.metres is not None:
        slotting.set_scale(mesh.project, pk, given.metres, by, saw)
    return _out(mesh)


def _wears_of(project: Project, given: SlotWearsIn) -> Wears:
    wears: Wears = {"kind": given.kind, "id": given.id}
    if given.region is not None:
        wears["region"] = worn_region(project, given.kind, given.id, given.region)
    return wears


@router.post("/{int:pk}/call-by-worn", response=ModelOut)
def call_by_worn(request: HttpRequest, slug: Path[str], pk: int, if_match: IfMatch = None) -> Any:
    """Call every slot after what it wears, as the target writes names."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    slotting.call_by_worn(mesh.project, pk, user_of(request), seen(if_match))
    return _out(mesh)


@router.post("/{int:pk}/split", response=ModelOut)
def split(request: HttpRequest, slug: Path[str], pk: int, given: SplitIn, if_match: IfMatch = None) -> Any:
    """Give one part that shares a slot a slot of its own."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    slotting.split_slot(mesh.project, pk, given.slot, given.part, user_of(request), seen(if_match))
    return _out(mesh)


@router.post("/{int:pk}/join", response=ModelOut)
def join(request: HttpRequest, slug: Path[str], pk: int, given: SplitIn, if_match: IfMatch = None) -> Any:
    """Let a part share its slot again."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    slotting.join_slot(mesh.project, pk, given.slot, given.part, user_of(request), seen(if_match))
    return _out(mesh)


@router.post("/{int:pk}/slots/{int:index}/fill", response=ModelOut)
def fill_between(request: HttpRequest, slug: Path[str], pk: int, index: int) -> Any:
    """Fill the maps of what a slot wears between its UV islands, by a step on each, so that smaller mips stay clean."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    fill_between_islands(mesh.project, mesh, index, user_of(request))
    return _out(mesh)


@router.post("/{int:pk}/strokes", response=PaintedOut)
def paint_model(request: HttpRequest, slug: Path[str], pk: int, given: VertexStrokeIn) -> Any:
    """Paint one stroke onto the vertex colours; tells where the mesh is too coarse for its border."""
    mesh, person = _mesh(request, slug, pk, _PREPARE), user_of(request)
    add_stroke(mesh.project, pk, given.stroke, person)
    told = spacing_of_stroke.ask(person.pk, near=f"mesh {pk}", mesh=pk, stroke=given.stroke).said
    there, wanted = told["there"], told["wanted"]
    is_coarse = there is not None and there > wanted
    return {"model": _out(mesh), "spacing": there if is_coarse else None, "wanted": wanted if is_coarse else None}


@router.delete("/{int:pk}/strokes", response=ModelOut)
def clear_vertex_painting(request: HttpRequest, slug: Path[str], pk: int, channel: str = "") -> Any:
    """Take what was painted off the vertex colours, or off one of red, green, blue and alpha."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    return _out(clear_strokes(mesh.project, pk, channel or None, user_of(request)))


@router.post("/{int:pk}/own-textures", response=JobOut)
def own_textures(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Take the textures of the file's own materials in as sets; slots that wear nothing wear them."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    return ask_for_own_maps(mesh.project, mesh, user_of(request))


@router.post("/{int:pk}/measure", response=ModelOut)
def measure(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Try once more to measure a model that could not be."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    measure_again(mesh, user_of(request))
    return _out(mesh)


@router.delete("/{int:pk}", response={204: None})
def delete_model(request: HttpRequest, slug: Path[str], pk: int, if_match: IfMatch = None) -> Any:
    """Take a model out; undo brings it back."""
    mesh = _mesh(request, slug, pk, _PREPARE)
    slotting.delete_model(mesh.project, pk, user_of(request), seen(if_match))
    return Status(204, None)


@router.get("/{int:pk}/proposals", response=list[SlotProposals])
def proposals(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """What each slot probably wears: from the textures that the file mentions, and from names."""
    mesh = _mesh(request, slug, pk)
    facts = slotting.facts_of(mesh)
    keys = facts.keys if facts else []
    some = slotting.proposals_for(mesh)
    names = _names(mesh.project)
    return [
        {
            "key": key,
            "proposals": [
                {
                    "kind": one.key.split()[0], "id": int(one.key.split()[1]), "name": names[one.key],
                    "share": round(one.share, 3), "is_sure": one.share >= SURE, "why": one.why, "word": one.word,
                }
                for one in ranked
            ],
        }
        for key, ranked in zip(keys, some, strict=True)
    ]  # fmt: skip


def _names(project: Project) -> dict[str, str]:
    casts = {f"cast {pk}": name for pk, name in project.casts.values_list("pk", "name")}
    return casts | {f"set {pk}": name for pk, name in project.sets.values_list("pk", "name")}


@router.get("/{int:pk}/mesh")
def mesh_file(request: HttpRequest, slug: Path[str], pk: int, level: int = 0) -> HttpResponse:
    """One level of detail as binary glTF for drawing: materials are called after the index of their slot."""
    mesh = _mesh(request, slug, pk)
    made = mesh_to_draw.ask(user_of(request).pk, near=f"mesh {pk}", mesh=pk, level=max(0, min(level, 99)))
    headers = {"Cache-Control": "no-store", "ETag": f'"{picture_key(mesh, drawn=level)[:16]}"'}
    return HttpResponse(made.data, content_type="model/gltf-binary", headers=headers)


@router.get("/{int:pk}/picture.png")
def model_picture(request: HttpRequest, slug: Path[str], pk: int, side: int = 256) -> HttpResponse:
    """The model from the front left, slots in greys; those that wear nothing are orange."""
    mesh = _mesh(request, slug, pk)
    known = slotting.standings(mesh.project, list(mesh.wears.values()))
    bare = _bare(mesh, slotting.facts_of(mesh), known)
    side = max(16, min(side, _MAX_SIDE))
    made = draw_model.ask(user_of(request).pk, near=f"mesh {pk}", mesh=pk, side=side, bare=bare)
    return png(request, made.data, picture_key(mesh, bare=bare))


@router.get("/{int:pk}/slots/{int:index}/uvs.png")
def uv_picture(request: HttpRequest, slug: Path[str], pk: int, index: int, side: int = 512) -> HttpResponse:
    """A slot's UVs: islands in greys, what lies over each other in orange."""
    mesh = _mesh(request, slug, pk)
    side = max(16, min(side, _MAX_SIDE))
    made = draw_uvs.ask(user_of(request).pk, near=f"mesh {pk}", mesh=pk, slot=index, side=side)
    return png(request, made.data, picture_key(mesh, uvs=index))


@router.get("/worn/{kind}/{int:pk}", response=WornSheet)
def worn_sheet(request: HttpRequest, slug: Path[str], kind: str, pk: int) -> Any:
    """What draws a cast, or a set that no cast uses: a sheet, its values, and the sets that fill its slots."""
    project = project_for(request, slug)
    if kind == "cast":
        told = resolved(get_object_or_404(project.casts.select_related("master", "parent", "project"), pk=pk))
        sheet, fills = told.sheet, told.slots
        values = {name: list(value) for name, value in told.values.items()}
    elif kind == "set":
        one = get_object_or_404(project.sets.prefetch_related("placements"), pk=pk)
        sheet, names = slotting.plain_sheet_of(one)
        fills, values = {name: {"set": one.pk} for name in names}, {}
    else:
        raise Conflict("a slot wears a cast or a set")
    rows = project.sets.filter(pk__in=[fill["set"] for fill in fills.values()])
    known = {pk: (name, revision) for pk, name, revision in rows.values_list("pk", "name", "revision")}
    return {
        "sheet": sheet_out(sheet), "values": values,
        "fills": [
            {
                "slot": slot, "set": fill["set"], "set_name": known.get(fill["set"], ("", 0))[0],
                "role": fill.get("role"), "own": True, "version": known.get(fill["set"], ("", 0))[1],
            }
            for slot, fill in fills.items()
        ],
    }  # fmt: skip
