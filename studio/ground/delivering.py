"""Ground for a delivery: with its height maps, and all that its layers wear."""

from __future__ import annotations

from collections.abc import Iterable

from studio.changes.errors import Conflict
from studio.deliveries.ordered import OrderedCasts, OrderedGround
from studio.ground.documents import document_of, height_digest, height_file, standings
from studio.projects.models import Project

__all__ = ["with_ground"]


def with_ground(project: Project, casts: OrderedCasts, ids: Iterable[int] | None, keep_others: bool) -> OrderedCasts:
    """What is delivered beside sets, with patches of ground. ids: of patches; None for all of the project. keep_others:
    the other patches stay as they were delivered last.

    Raises Conflict for a patch that is gone, or a layer that wears nothing; BadDocument for a cast that does not fit
    its master, or a height map that is gone.
    """
    rows = list(project.grounds.select_related("project"))
    wanted = None if ids is None else set(ids)
    chosen = sorted((row for row in rows if wanted is None or row.pk in wanted), key=lambda row: row.name)
    if wanted is not None and len(chosen) < len(wanted):
        raise Conflict("a patch of ground that was chosen is gone")
    ordered: list[OrderedGround] = []
    sets: set[int] = set(casts["sets"])
    files = dict(casts["mesh_files"])
    for standing in standings(project, chosen):
        row = standing.ground
        for layer, worn in zip(row.layers, standing.worn, strict=True):
            if worn is None:
                raise Conflict("{row}: the layer {name} wears nothing", row=row.name, name=layer["name"])
        sets |= standing.sets
        height = height_file(row)
        if height:
            files[height] = height_digest(row)
        ordered.append(
            {"ground": document_of(row), "height": height, "layers": [one.order for one in standing.worn if one]}
        )  # fmt: skip
    others = [row.name for row in rows if row not in chosen] if keep_others else []
    return {**casts, "grounds": ordered, "sets": sorted(sets), "mesh_files": files, "carry_grounds": sorted(others)}
