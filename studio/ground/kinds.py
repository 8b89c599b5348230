"""What a project's history keeps of its ground: patches and, one by one, the strokes on them."""

from __future__ import annotations

from typing import Any

from studio.changes.kinds import Kind, Touched, after_changes, register
from studio.ground.models import Ground, GroundStroke
from studio.jobs.announce import announce
from studio.projects.models import Project

__all__ = ["free_ground_name"]


def free_ground_name(project: Project, wanted: str) -> str:
    """The name, with a number behind it where another patch of the project has it."""
    base = " ".join(wanted.split())[:90] or "Ground"
    taken = set(project.grounds.filter(name__startswith=base).values_list("name", flat=True))
    name, count = base, 1
    while name in taken:
        count += 1
        name = f"{base} {count}"
    return name


register(
    Kind(
        "grounds", 82, Ground,
        ("name", "metres", "side", "far", "each", "bits", "shape", "height_id", "layers", "by_id"),
        lambda project: project.grounds.all(), lambda row: row.name,
        {
            "name": "the name", "metres": "the size", "side": "the texels", "shape": "the shape",
            "layers": "the layers", "height_id": "the height map",
        },
        name_field="name", free=lambda row, name: free_ground_name(row.project, name),
    ),
    Kind(
        "ground_strokes", 83, GroundStroke, ("ground_id", "stroke", "reach"),
        lambda project: GroundStroke.objects.filter(ground__project=project), lambda row: "a stroke", revised=False,
    ),
)  # fmt: skip


@after_changes
def tell_of_ground(project: Project, touched: Touched, by: Any) -> None:
    if "grounds" in touched or "ground_strokes" in touched:
        announce(project.pk, "ground")
