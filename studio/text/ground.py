"""Patches of ground as text: the document of a patch, and what its layers wear."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast

from studio.changes.engine import Doing
from studio.changes.errors import Conflict
from studio.ground.documents import document_of
from studio.ground.editing import kept_layers, must_be_sound
from studio.ground.models import Ground, GroundStroke
from studio.projects.models import Project
from studio.text.kinds import Documents, TextKind, by_name, register
from studio.text.models import ids_by_name, names_by_id
from texel.ground.painting import stroke_reach
from texel.ground.patch import parse_patch

__all__: list[str] = []


def _read(project: Project) -> Documents:
    names = names_by_id(project)
    return {row.name: _document(row, names) for row in by_name(project.grounds.select_related("project"))}


def _document(row: Ground, names: Mapping[tuple[str, int], str]) -> dict[str, object]:
    worn = [one["wears"] for one in row.layers]
    kinds = [one["kind"] if one and (one["kind"], one["id"]) in names else None for one in worn]
    document: dict[str, object] = {
        "format": "fair-texel/project-ground", "version": 1, "ground": document_of(row), "wears": kinds,
    }  # fmt: skip
    if row.height_id is not None:
        document["height"] = row.height_id
    return document


def _write(doing: Doing, documents: Mapping[str, Mapping[str, Any]], gone: set[str]) -> None:
    ids = ids_by_name(doing.project)
    known = {row.name: row for row in doing.project.grounds.select_related("project").prefetch_related("strokes")}
    heights = {row.height_id for row in known.values()}
    for name, document in documents.items():
        patch = parse_patch(document["ground"], f"ground/{name}")
        height = document.get("height")
        if height is not None and height not in heights:
            raise Conflict("{name}: upload its height map first", name=name)
        row = known.get(name)
        values = _values(doing.project, row, name, document, ids) | {"height_id": height}
        if row is None:
            row = doing.create(Ground, project=doing.project, by=doing.by, name=name, **values)
        else:
            doing.update(row, **values)
        must_be_sound(row)
        keys = {one["name"]: one["key"] for one in row.layers}
        reaches = [stroke_reach(stroke, patch.metres, patch.side) for stroke in patch.strokes]
        told = [{**stroke, "layer": keys[stroke["layer"]]} for stroke in document["ground"].get("strokes", ())]
        there = list(row.strokes.all())
        if [one.stroke for one in there] != told:
            doing.delete_many(there)
            doing.create_many(
                GroundStroke(ground=row, stroke=stroke, reach=reach)
                for stroke, reach in zip(told, reaches, strict=True)
            )


def _values(
    project: Project, row: Ground | None, name: str, document: Mapping[str, Any], ids: Mapping[tuple[str, str], int]
) -> dict[str, object]:
    ground = document["ground"]
    if len(document["wears"]) != len(ground["layers"]):
        raise Conflict("{name}: wears has as many entries as there are layers", name=name)
    known = {one["name"]: one["key"] for one in row.layers} if row is not None else {}
    layers = []
    for layer, kind in zip(ground["layers"], document["wears"], strict=True):
        worn = None
        if kind is not None:
            if (kind, layer.get("wears", "")) not in ids:
                raise Conflict("{name}: there is no {kind} {worn}", name=name, kind=kind, worn=layer.get("wears", ""))
            worn = {"kind": kind, "id": ids[kind, layer["wears"]]}
        layers.append({**layer, "wears": worn, "key": known.get(layer["name"], "")})
    painted = row.strokes.values_list("stroke__layer", flat=True).distinct() if row is not None else ()
    kept = kept_layers(project, layers, [*known.values(), *painted])
    keys = {one["name"]: one["key"] for one in kept}
    for one in kept:
        one["rule"] = [
            {**term, "of": keys.get(cast(str, term["of"]), "")} if "of" in term else dict(term) for term in one["rule"]
        ]
    weights = ground["weights"]
    return {
        "metres": ground["metres"], "side": ground["side"], "far": ground["far"], "each": weights["each"],
        "bits": weights["bits"], "shape": ground["shape"], "layers": kept,
    }  # fmt: skip


def _remove(doing: Doing, names: set[str]) -> None:
    for row in doing.project.grounds.filter(name__in=names).prefetch_related("strokes"):
        doing.delete_many(list(row.strokes.all()))
        doing.delete(row)


register(TextKind("ground", _read, _write, _remove))
