"""Destinations as text. They stand beside what can be undone, as they do elsewhere."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from studio.changes.engine import Doing
from studio.changes.errors import Conflict
from studio.deliveries.places import add_destination, change_destination, remove_destination
from studio.projects.models import Project
from studio.text.kinds import Documents, TextKind, by_name, register, sets_rules

__all__: list[str] = []


def _read(project: Project) -> Documents:
    return {
        row.name: {
            "format": "fair-texel/destination", "version": 1, "name": row.name, "kind": row.kind, "place": row.place,
            "target": row.target,
        }
        for row in by_name(project.destinations.all())
    }  # fmt: skip


def _write(doing: Doing, documents: Mapping[str, Mapping[str, Any]], gone: set[str]) -> None:
    known = {row.name: row for row in doing.project.destinations.all()}
    for name, one in documents.items():
        row = known.get(name)
        if row is None:
            add_destination(doing.project, name, one["kind"], one["place"], one["target"], doing.by)
        elif row.kind != one["kind"]:
            raise Conflict("{name} is a {kind}; give the other one another name", name=name, kind=row.kind)
        else:
            change_destination(row, name, one["place"], one["target"])


def _remove(doing: Doing, names: set[str]) -> None:
    for row in doing.project.destinations.filter(name__in=names):
        remove_destination(row)


register(TextKind("destinations", _read, _write, _remove, sets_rules))
