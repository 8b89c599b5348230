"""Models as text: their files by digest, and what their slots wear."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from studio.changes.engine import Doing
from studio.changes.errors import Conflict
from studio.meshes.models import Mesh, MeshStroke
from studio.meshes.slots import facts_of
from studio.projects.models import Project
from studio.text.kinds import Documents, TextKind, by_name, register
from texel.atlas.regions import region_of
from texel.meshes.painting import parse_painting

__all__ = ["ids_by_name", "names_by_id"]


def names_by_id(project: Project) -> dict[tuple[str, int], str]:
    """What casts and sets are called, by kind and id."""
    casts = project.casts.values_list("pk", "name")
    sets = project.sets.values_list("pk", "name")
    return {("cast", pk): name for pk, name in casts} | {("set", pk): name for pk, name in sets}


def ids_by_name(project: Project) -> dict[tuple[str, str], int]:
    """Ids of casts and sets, by kind and name."""
    return {(kind, name): pk for (kind, pk), name in names_by_id(project).items()}


def _read(project: Project) -> Documents:
    names = names_by_id(project)
    rows = project.meshes.select_related("version", "project").prefetch_related("version__files", "strokes")
    return {row.name: _document(row, names) for row in by_name(rows) if row.version is not None}


def _document(row: Mesh, names: Mapping[tuple[str, int], str]) -> dict[str, object]:
    version = row.version
    assert version is not None, "models without files are not told"
    document: dict[str, object] = {
        "format": "fair-texel/project-model", "version": 1, "name": row.name, "main": version.main,
        "files": {file.name: file.source_id for file in version.files.all()}, "metres": row.metres,
        "wears": {key: told for key, one in row.wears.items() if (told := _worn(one, names)) is not None},
    }  # fmt: skip
    strokes = [one.stroke for one in row.strokes.all()]
    for key, value in (("titles", row.titles), ("splits", row.splits), ("strokes", strokes)):
        if value:
            document[key] = value
    facts = facts_of(row)
    if facts is not None:
        slots = [
            {"key": key, "name": slot.name, "parts": list(slot.parts)}
            for key, slot in zip(facts.keys, facts.slots, strict=True)
        ]
        document["told"] = {"slots": slots}
    return document


def _worn(one: Mapping[str, Any], names: Mapping[tuple[str, int], str]) -> dict[str, object] | None:
    name = names.get((one["kind"], one["id"]))
    if name is None:
        return None
    told: dict[str, object] = {"kind": one["kind"], "name": name}
    region = one.get("region")
    if region is not None and ("set", region["set"]) in names:
        told["region"] = {**region, "set": names["set", region["set"]]}
    return told


def _write(doing: Doing, documents: Mapping[str, Mapping[str, Any]], gone: set[str]) -> None:
    ids = ids_by_name(doing.project)
    rows = doing.project.meshes.select_related("version").prefetch_related("version__files", "strokes")
    known = {row.name: row for row in rows}
    for name, document in documents.items():
        row = known.get(name)
        there = {file.name: file.source_id for file in row.version.files.all()} if row and row.version else {}
        if row is None or there != document["files"]:
            raise Conflict("{name}: upload the files of this model first, or this version of them", name=name)
        wears = {key: _wears(name, one, ids) for key, one in document.get("wears", {}).items()}
        facts = facts_of(row)
        keys = {*row.wears, *(facts.keys if facts is not None else ())}
        unknown = next((key for key in [*wears, *document.get("titles", {})] if key not in keys), None)
        if unknown is not None:
            raise Conflict("{name} has no slot {unknown!r}", name=name, unknown=unknown)
        doing.update(
            row, metres=document.get("metres", 1.0), wears=wears, titles=dict(document.get("titles", {})),
            splits=list(document.get("splits", ())),
        )  # fmt: skip
        _paint(doing, row, list(document.get("strokes", ())))


def _wears(model: str, one: Mapping[str, Any], ids: Mapping[tuple[str, str], int]) -> dict[str, object]:
    def id_of(kind: str, name: str) -> int:
        if (kind, name) not in ids:
            raise Conflict("{model}: there is no {kind} {name}", model=model, kind=kind, name=name)
        return ids[kind, name]

    worn: dict[str, object] = {"kind": one["kind"], "id": id_of(one["kind"], one["name"])}
    region = one.get("region")
    if region is not None:
        region_of({key: value for key, value in region.items() if key != "set"})
        worn["region"] = {**region, "set": id_of("set", region["set"])}
    return worn


def _paint(doing: Doing, row: Mesh, strokes: list[Mapping[str, Any]]) -> None:
    there = list(row.strokes.all())
    if [one.stroke for one in there] == strokes:
        return
    parse_painting(strokes, row.name)
    doing.delete_many(there)
    doing.create_many(MeshStroke(mesh=row, stroke=dict(one)) for one in strokes)


def _remove(doing: Doing, names: set[str]) -> None:
    for row in doing.project.meshes.filter(name__in=names).prefetch_related("strokes"):
        doing.delete_many(list(row.strokes.all()))
        doing.delete(row)


register(TextKind("models", _read, _write, _remove))
