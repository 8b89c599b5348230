"""The project itself as text: its target, what it asks for, and what was taught about its suffixes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from studio.changes.engine import Doing
from studio.changes.errors import Conflict
from studio.projects.models import Project
from studio.rules.models import target_for
from studio.text.kinds import Documents, TextKind, register, sets_rules
from texel.sorting import parse_habit

__all__: list[str] = []


def _read(project: Project) -> Documents:
    document = {
        "format": "fair-texel/project", "version": 1, "name": project.name, "target": project.target,
        "approval": project.approval, "keep_days": project.keep_days, "habit": project.habit,
    }  # fmt: skip
    return {"": document}


def _write(doing: Doing, documents: Mapping[str, Mapping[str, Any]], gone: set[str]) -> None:
    for document in documents.values():
        row = doing.row(Project, doing.project.pk)
        if document["name"] != row.name:
            raise Conflict("a project keeps the name that it was made with: {name}", name=row.name)
        target_for(doing.project, document["target"])
        habit = list(document.get("habit", ()))
        parse_habit({"format": "fair-texel/habit", "version": 1, "lines": habit}, "project.json")
        doing.update(
            row, target=document["target"], approval=bool(document.get("approval", False)),
            keep_days=document.get("keep_days"), habit=habit,
        )  # fmt: skip


def _remove(doing: Doing, names: set[str]) -> None:
    raise Conflict("the text lacks project.json, which every project has")


register(TextKind("", _read, _write, _remove, sets_rules))
