"""Vertex colours painted on a model, stroke by stroke; each can be undone."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.meshes.models import Mesh, MeshStroke
from studio.meshes.slots import facts_of
from studio.projects.models import Project
from texel.meshes.painting import parse_painting

__all__ = ["add_stroke", "clear_strokes"]

# All are laid down whenever the model is drawn or delivered: strokes, and points that they look at together.
_MAX_STROKES = 1000
_MAX_LOOKED_AT = 2_000_000_000


def add_stroke(project: Project, pk: int, stroke: Mapping[str, Any], by: Any) -> Mesh:
    """Paint a stroke onto a model. Raises Conflict for a slot that it has not, or when it can hold no more;
    BadDocument."""
    parse_painting([stroke], "the stroke")
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk)
        facts, slot = facts_of(mesh), stroke.get("slot")
        if slot is not None and (facts is None or slot not in facts.keys):
            raise Conflict("{model} has no slot {slot!r}", model=mesh.name, slot=slot)
        count = mesh.strokes.count()
        if count >= _MAX_STROKES or count * (facts.points if facts else 0) > _MAX_LOOKED_AT:
            raise Conflict(
                "{model} has {count} strokes, which is all it can hold", model=mesh.name, count=count
            )  # fmt: skip
        doing.label = f"{'Take away' if stroke['strength'] < 0 else 'Paint'} {stroke['channel']} of {mesh.name}"
        doing.create(MeshStroke, mesh=mesh, stroke=dict(stroke))
    return mesh


def clear_strokes(project: Project, pk: int, channel: str | None, by: Any) -> Mesh:
    """Take what was painted off a model, or off one channel of its vertex colours."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk)
        rows = mesh.strokes.filter(stroke__channel=channel) if channel else mesh.strokes.all()
        doing.label = f"Clear painting of {mesh.name}"
        doing.delete_many(list(rows))
    return mesh
