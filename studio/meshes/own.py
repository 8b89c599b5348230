"""The textures of a model's own materials, taken in as sets that its empty slots wear at once: the job "model-maps"."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.intake.models import Intake
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.materials.models import Wears
from studio.meshes.measuring import files_of
from studio.meshes.models import Mesh
from studio.projects.models import Project
from studio.sorting.intakes import write_down
from studio.sorting.made import drop_made, made_intake
from texel.errors import TexelError
from texel.meshes.own_maps import own_maps
from texel.meshes.reading import read_mesh
from texel.sorting import Sorted

__all__ = ["ask_for_own_maps"]


def ask_for_own_maps(project: Project, mesh: Mesh, by: Any) -> Job:
    """Queue it. Raises Conflict while it is on its way."""
    on_its_way = project.jobs.filter(kind="model-maps", payload__mesh=mesh.pk).exclude(state__in=Job.ENDED)
    if on_its_way.exists():
        raise Conflict("the textures of {mesh} are being taken in already", mesh=mesh.name)
    return enqueue(project, "model-maps", f"Textures of {mesh.name}", by, mesh=mesh.pk)


@job_kind("model-maps", minutes=60, on_loss=drop_made)
def take_own_maps(job: Job, progress: Progress) -> str:
    """payload: mesh."""
    mesh = Mesh.objects.select_related("version", "project").filter(pk=job.payload["mesh"]).first()
    if mesh is None or mesh.version is None:
        return "this model is not there any more"
    with files_of(mesh.version) as paths:
        files = {name: path.read_bytes() for name, path in paths.items()}
    found = own_maps(read_mesh(mesh.version.main, files), files)
    if not found.sets:
        named = f"; it names {', '.join(found.missing[:5])}, which did not come with it" if found.missing else ""
        raise TexelError("{mesh} has no textures of its own{named}", mesh=mesh.name, named=named)
    name = f"{mesh.name}, its own textures"
    intake = made_intake(job, progress, mesh.project, name, found.pictures.items(), len(found.pictures))
    entries = {entry.path: entry for entry in intake.files.select_related("source")}
    readable = {path for path, entry in entries.items() if not entry.problem}
    sets = {key: one for key, one in found.sets.items() if all(ref.file in readable for ref in one.maps)}
    with transaction.atomic(), change(mesh.project, job.by, f"Take in the textures of {mesh.name}") as doing:
        progress.hold_lease()
        # Taken back, it is open again, as other intakes are.
        Intake.objects.filter(pk=intake.pk).update(state=Intake.State.OPEN)
        made = write_down(doing, intake, entries, Sorted(list(sets.values())))
        doing.update(doing.row(Intake, intake.pk), state=Intake.State.SORTED)
        row = doing.row(Mesh, mesh.pk)
        fresh: dict[str, Wears] = {
            key: {"kind": "set", "id": one.pk} for key, one in zip(sets, made, strict=True) if key not in row.wears
        }
        doing.update(row, wears={**row.wears, **fresh})
    left = [entry.path for entry in entries.values() if entry.problem]
    told = [f"{len(made)} sets"]
    told += [f"cannot be read: {', '.join(left[:5])}"] if left else []
    told += [f"not there: {', '.join(found.missing[:5])}"] if found.missing else []
    return "; ".join(told)
