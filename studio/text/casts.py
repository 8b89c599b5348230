"""Casts as text: what each derives from, and what differs."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from studio.changes.engine import Doing
from studio.changes.errors import Conflict
from studio.materials.library import sheet_of
from studio.materials.models import Adoption, Cast
from studio.projects.models import Project
from studio.text.kinds import Documents, TextKind, by_name, register
from texel.materials import checked_changes
from texel.materials.casts import MAX_DEPTH
from texel.materials.filling import parse_binding

__all__: list[str] = []


def _read(project: Project) -> Documents:
    sets = dict(project.sets.values_list("pk", "name"))
    documents = {}
    for row in by_name(project.casts.select_related("master", "parent")):
        document = {"format": "fair-texel/project-cast", "version": 1, "name": row.name, "master": row.master.name}
        if row.parent is not None:
            document["parent"] = row.parent.name
        slots = {
            slot: {"set": sets[fill["set"]], **({"role": fill["role"]} if fill.get("role") else {})}
            for slot, fill in row.slots.items() if fill["set"] in sets
        }  # fmt: skip
        documents[row.name] = {**document, "changes": row.changes, "slots": slots}
    return documents


def _write(doing: Doing, documents: Mapping[str, Mapping[str, Any]], gone: set[str]) -> None:
    project = doing.project
    known = {row.name: row for row in project.casts.select_related("master")}
    sets = dict(project.sets.values_list("name", "pk"))
    versions = {
        one.master.name: one.version
        for one in Adoption.objects.select_related("master", "version__master").filter(project=project)
    }
    for name in _parents_first(documents):
        document = documents[name]
        version = versions.get(document["master"])
        if version is None:
            raise Conflict("{name}: the project does not use the master {master}", name=name, master=document["master"])
        sheet = sheet_of(version)
        checked_changes(sheet, document.get("changes", {}), name)
        slots = {}
        for slot, fill in document.get("slots", {}).items():
            parse_binding(sheet, slot, fill)
            if fill["set"] not in sets:
                raise Conflict("{name}: there is no set {set}", name=name, set=fill["set"])
            slots[slot] = {**fill, "set": sets[fill["set"]]}
        parent = document.get("parent")
        if parent is not None and (parent not in known or parent in gone):
            raise Conflict("{name}: there is no cast {parent}", name=name, parent=parent)
        values = {
            "changes": dict(document.get("changes", {})), "slots": slots,
            "parent_id": known[parent].pk if parent is not None else None,
        }  # fmt: skip
        row = known.get(name)
        if row is None:
            known[name] = doing.create(
                Cast, project=project, name=name, master=version.master, by=doing.by, **values
            )  # fmt: skip
            continue
        if row.master_id != version.master_id:
            raise Conflict(
                "{name} is a cast of {title}; give the other one another name", name=name, title=row.master.title
            )
        doing.update(row, **values)
    _must_end(list(known.values()))


def _must_end(rows: Collection[Cast]) -> None:
    """Raises Conflict where casts derive from each other in a circle, or too deep."""
    parents = {row.pk: row.parent_id for row in rows}
    names = {row.pk: row.name for row in rows}
    for pk in parents:
        at: int | None = pk
        for _ in range(MAX_DEPTH + 1):
            at = parents.get(at) if at is not None else None
        if at is not None:
            raise Conflict("{name} derives from too many casts, or from itself", name=names[pk])


def _parents_first(documents: Mapping[str, Mapping[str, Any]]) -> list[str]:
    """Names in an order in which every cast comes behind the one that it derives from. Raises Conflict for a circle."""
    ordered: list[str] = []

    def visit(name: str, below: tuple[str, ...]) -> None:
        if name in below or len(below) > MAX_DEPTH:
            raise Conflict("{name} derives from too many casts, or from itself", name=name)
        parent = documents[name].get("parent")
        if parent in documents:
            visit(str(parent), (*below, name))
        if name not in ordered:
            ordered.append(name)

    for name in documents:
        visit(name, ())
    return ordered


def _remove(doing: Doing, names: set[str]) -> None:
    """Derived ones first. Raises Conflict for one that others derive from, which stay."""
    rows = {row.pk: row for row in doing.project.casts.filter(name__in=names)}
    staying = doing.project.casts.filter(parent__in=rows).exclude(pk__in=rows)
    if staying:
        raise Conflict("{listed} derive from what shall go away", listed=", ".join(row.name for row in staying[:3]))
    while rows:
        parents = {row.parent_id for row in rows.values()}
        for pk in [pk for pk in rows if pk not in parents]:
            doing.delete(rows.pop(pk))


register(TextKind("casts", _read, _write, _remove))
