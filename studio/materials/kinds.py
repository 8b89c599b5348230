"""What a project's history keeps of its materials: which masters it uses, and its casts."""

from __future__ import annotations

from typing import Any

from studio.changes.kinds import OBJECT, Kind, Touched, after_changes, free_name_in, register
from studio.jobs.announce import announce
from studio.materials.models import Adoption, Cast
from studio.projects.models import Project


def _derived_from(cast: Cast) -> str:
    names = list(cast.derived.values_list("name", flat=True)[:3])
    return f"{', '.join(names)} derive from it" if names else ""


def _cast_by(adoption: Adoption) -> str:
    used = Cast.objects.filter(project=adoption.project_id, master=adoption.master_id)
    return "casts that came since use it" if used.exists() else ""


register(
    Kind(
        "adoptions", 50, Adoption, ("version_id", "pinned"),
        lambda project: project.adoptions.select_related("master"), lambda row: row.master.title,
        {"version_id": "the version in use", "pinned": "whether it stays"}, key="master_id", still_used=_cast_by,
    ),
    Kind(
        "casts", 60, Cast, ("master_id", "parent_id", "name", "changes", "slots", "by_id"),
        lambda project: project.casts.all(), lambda row: row.name,
        {"name": "the name", "parent_id": "what it derives from"}, parts={"changes": OBJECT, "slots": OBJECT},
        name_field="name", free=lambda row, name: free_name_in(row.project.casts, name, "Cast"), parent="parent_id",
        still_used=_derived_from,
    ),
)  # fmt: skip


@after_changes
def tell_of_materials(project: Project, touched: Touched, by: Any) -> None:
    if touched.keys() & {"casts", "adoptions"}:
        announce(project.pk, "materials")
