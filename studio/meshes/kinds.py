"""What a project's history keeps of its models: what slots wear, and which version of the files is in use."""

from __future__ import annotations

from typing import Any

from studio.changes.kinds import OBJECT, Kind, Touched, after_changes, free_name_in, register
from studio.jobs.announce import announce
from studio.meshes.measuring import ask_for_facts
from studio.meshes.models import Mesh, MeshStroke
from studio.projects.models import Project

register(
    Kind(
        "meshes", 80, Mesh, ("name", "version_id", "metres", "wears", "titles", "splits", "by_id"),
        lambda project: project.meshes.all(), lambda row: row.name,
        {"name": "the name", "version_id": "the version of its files", "metres": "its scale", "splits": "split slots"},
        parts={"wears": OBJECT, "titles": OBJECT}, name_field="name",
        free=lambda row, name: free_name_in(row.project.meshes, name, "Model"),
    ),
    Kind(
        "mesh_strokes", 81, MeshStroke, ("mesh_id", "stroke"),
        lambda project: MeshStroke.objects.filter(mesh__project=project), lambda row: "a stroke", revised=False,
    ),
)  # fmt: skip


@after_changes
def tell_of_meshes(project: Project, touched: Touched, by: Any) -> None:
    if not {"meshes", "mesh_strokes"} & touched.keys():
        return
    changed = [int(key) for key in touched.get("meshes", ())]
    for row in project.meshes.filter(pk__in=changed).select_related("version"):
        ask_for_facts(row, by)
    announce(project.pk, "models")
