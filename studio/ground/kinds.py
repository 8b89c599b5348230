"""What a project's history keeps of its ground: patches and, one by one, the strokes on them."""

from __future__ import annotations

from typing import Any

from studio.changes.kinds import Kind, Touched, after_changes, free_name_in, register
from studio.ground.models import Ground, GroundStroke
from studio.jobs.announce import announce
from studio.projects.models import Project

register(
    Kind(
        "grounds", 82, Ground,
        ("name", "metres", "side", "far", "each", "bits", "shape", "height_id", "layers", "by_id"),
        lambda project: project.grounds.all(), lambda row: row.name,
        {
            "name": "the name", "metres": "the size", "side": "the texels", "shape": "the shape",
            "layers": "the layers", "height_id": "the height map",
        },
        name_field="name", free=lambda row, name: free_name_in(row.project.grounds, name, "Ground"),
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
