"""What a model's files hold, measured by a job whenever the files, the scale or the split slots change."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Literal

from django.db import transaction

from studio import store
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.meshes.models import Mesh, MeshVersion
from studio.meshes.regions import region_worn
from texel.atlas.regions import Region
from texel.digest import of_document
from texel.document_types import VertexStrokeDocument
from texel.errors import TexelError
from texel.meshes.facts import measure_mesh
from texel.meshes.mesh import MeshFile as CoreMesh
from texel.meshes.painting import painted_mesh, parse_painting
from texel.meshes.reading import read_mesh
from texel.meshes.regions import moved, places_of
from texel.meshes.slots import Split, slot_keys, with_splits

__all__ = [
    "ask_for_facts", "core_mesh", "files_of", "key_of", "measure_again", "measure_outdated", "shape_of", "state_of",
    "strokes_of", "worn_mesh",
]  # fmt: skip

# Changes with what is measured, so that older facts are measured again.
_MEASURED_AS = 2


def key_of(mesh: Mesh) -> str:
    """What facts of a model depend on, as a digest."""
    return of_document([_MEASURED_AS, mesh.version_id, mesh.metres, mesh.splits])


def shape_of(mesh: Mesh) -> str:
    """What the shape and the UVs of a model depend on as it is worn, as a digest; not what is painted."""
    regions = {key: one["region"] for key, one in sorted(mesh.wears.items()) if one.get("region")}
    return of_document({"mesh": key_of(mesh), **({"regions": regions} if regions else {})})


def state_of(mesh: Mesh) -> Literal["measuring", "ready", "unreadable"]:
    if mesh.measured != key_of(mesh):
        return "measuring"
    return "unreadable" if mesh.problem else "ready"


def ask_for_facts(mesh: Mesh, by: Any) -> None:
    """Have a model measured, unless that is done or on its way."""
    key = key_of(mesh)
    if mesh.version_id is None or mesh.measured == key:
        return
    on_its_way = mesh.project.jobs.filter(kind="model", payload__key=key).exclude(state__in=Job.ENDED)
    if not on_its_way.exists():
        enqueue(mesh.project, "model", f"Measure {mesh.name}", by, mesh=mesh.pk, key=key)


def measure_again(mesh: Mesh, by: Any) -> None:
    """Have a model measured once more that could not be."""
    Mesh.objects.filter(pk=mesh.pk).update(measured="", problem="")
    mesh.measured = mesh.problem = ""
    ask_for_facts(mesh, by)


def measure_outdated() -> int:
    """Have all models measured whose facts an older release measured, or whose job was lost; how many."""
    rows = Mesh.objects.exclude(version=None).select_related("version", "project").defer("facts")
    outdated = [row for row in rows if row.measured != key_of(row)]
    for row in outdated:
        ask_for_facts(row, None)
    return len(outdated)


@contextmanager
def files_of(version: MeshVersion) -> Iterator[dict[str, Path]]:
    """The files of a version by name, as paths, for as long as the context lasts."""
    with store.local_copies() as copies:
        yield {one.name: copies.path(one.source_id, one.name) for one in version.files.all()}


def core_mesh(mesh: Mesh) -> CoreMesh:
    """The mesh in a model's files, slots split. Raises TexelError."""
    version = mesh.version
    if version is None:
        raise TexelError("{mesh} has no file", mesh=mesh.name)
    with files_of(version) as files:
        read = read_mesh(version.main, {name: path.read_bytes() for name, path in files.items()})
    return with_splits(read, [Split(one["slot"], one["part"]) for one in mesh.splits])


def worn_regions(mesh: Mesh, core: CoreMesh) -> dict[int, Region]:
    """The regions that slots wear, by the slots' indices."""
    found = {}
    for at, key in enumerate(slot_keys([one.name for one in core.slots])):
        wears = mesh.wears.get(key)
        region = region_worn(wears) if wears else None
        if region is not None:
            found[at] = region
    return found


def strokes_of(mesh: Mesh) -> list[VertexStrokeDocument]:
    """What was painted on a model, in the order of painting."""
    return [one.stroke for one in mesh.strokes.all()]


def worn_mesh(mesh: Mesh) -> CoreMesh:
    """The mesh as it is worn: UVs of slots that wear a region lie there, and vertex colours are painted. Raises
    TexelError."""
    core, strokes = core_mesh(mesh), strokes_of(mesh)
    if strokes:
        core = painted_mesh(core, parse_painting(strokes, mesh.name))
    return moved(core, places_of(core, worn_regions(mesh, core), mesh.metres))


def _write(
    pk: int, key: str, facts: dict[str, Any] | None, problem: str, progress: Progress | None = None
) -> None:  # fmt: skip
    with transaction.atomic():
        if progress is not None:
            progress.hold_lease()
        mesh = Mesh.objects.select_for_update().filter(pk=pk).first()
        if mesh is not None and key_of(mesh) == key:
            Mesh.objects.filter(pk=pk).update(facts=facts, measured=key, problem=problem[:400])
            announce(mesh.project_id, "models")


def _lost(job: Job) -> None:
    """A file that ended the process that read it would do so again."""
    if job.state != Job.State.CANCELLED:
        _write(job.payload["mesh"], job.payload["key"], None, job.message or "it could not be measured")


@job_kind("model", minutes=20, priority=15, on_loss=_lost)
def measure(job: Job, progress: Progress) -> str:
    """The job "model". payload: mesh; key: what it shall be measured of."""
    mesh = Mesh.objects.select_related("version").filter(pk=job.payload["mesh"]).first()
    if mesh is None or key_of(mesh) != job.payload["key"]:
        return "it has changed since"
    progress.report(0, 1, mesh.name)
    try:
        facts = measure_mesh(core_mesh(mesh), mesh.metres)
    except TexelError as error:
        _write(mesh.pk, job.payload["key"], None, str(error), progress)
        return str(error)
    _write(mesh.pk, job.payload["key"], facts.document(), "", progress)
    return f"{facts.triangles:,} triangles, {len(facts.slots)} slots"
