"""What a project's history keeps of its models: what slots wear, and which version of the files is in use."""

from __future__ import annotations

from typing import Any

from studio.changes.kinds import OBJECT, Kind, Touched, after_changes, free_name_in, register
from studio.jobs.announce import announce
from studio.meshes.measuring import ask_for_facts
from studio.meshes.models import Mesh
from studio.projects.models import Project

register(
    Kind(
        "meshes", 80, Mesh, ("name", "version_id", "metres", "wears", "titles", "splits", "by_id"),
        lambda project: project.meshes.all(), lambda row: row.name,
        {"name": "the name", "version_id": "the version of its files", "metres": "its scale", "splits": "split slots"},
        parts={"wears": OBJECT, "titles": OBJECT}, name_field="name",
        free=lambda row, name: free_name_in(row.project.meshes, name, "Model"),
    )
)  # fmt: skip


@after_changes
def tell_of_meshes(project: Project, touched: Touched, by: Any) -> None:
    if "meshes" not in touched:
        return
    for row in project.meshes.filter(pk__in=[int(key) for key in touched["meshes"]]).select_related("version"):
        ask_for_facts(row, by)
    announce(project.pk, "models")
