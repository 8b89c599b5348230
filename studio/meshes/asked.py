"""What is read and drawn of models, apart: whether files can be read, the mesh for the page, and pictures."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path

from django.http import Http404
from typing_extensions import TypedDict

from studio import store
from studio.apart import Made, apart
from studio.meshes.atlas import AtlasOrder, atlas_sets, moves_of, planned
from studio.meshes.measuring import core_mesh, shape_of, worn_mesh
from studio.meshes.models import Mesh
from studio.projects.models import Project
from studio.sets.documents import core_sets, library_of
from studio.sets.models import TextureSet
from texel.atlas.building import atlas_roles, map_for, own_sizes
from texel.atlas.packing import Cell, clean_levels
from texel.digest import of_document
from texel.document_types import VertexStrokeDocument
from texel.files import encode
from texel.meshes.drawing import mesh_picture, uv_picture
from texel.meshes.facts import mesh_facts_of
from texel.meshes.filling import filling_step
from texel.meshes.painting import parse_painting, spacing_under
from texel.meshes.reading import read_mesh
from texel.meshes.writing import drawn_glb

__all__ = [
    "AtlasPlanned", "check_model", "draw_model", "draw_uvs", "mesh_to_draw", "picture_key", "plan_of_atlas",
    "spacing_of_stroke", "step_between_islands",
]  # fmt: skip


class ReadModel(TypedDict):
    slots: list[str]
    triangles: int


@apart
def check_model(main: str, paths: dict[str, str]) -> Made:
    """said: what is in a model's files, when they can be read. Raises TexelError."""
    mesh = read_mesh(main, {name: Path(path).read_bytes() for name, path in paths.items()})
    told: ReadModel = {
        "slots": [one.name for one in mesh.slots], "triangles": sum(len(one.triangles) for one in mesh.pieces)
    }  # fmt: skip
    return Made(said=told)


def _mesh(pk: int) -> Mesh:
    mesh = Mesh.objects.select_related("version").filter(pk=pk).first()
    if mesh is None:
        raise Http404("There is no such model any more.")
    return mesh


def picture_key(mesh: Mesh, **how: object) -> str:
    """What a picture of a model depends on, as a digest."""
    strokes = [one.pk for one in mesh.strokes.all()]
    return of_document({"mesh": shape_of(mesh), **how, **({"strokes": strokes} if strokes else {})})


@apart
def mesh_to_draw(mesh: int, level: int) -> Made:
    """A level of detail as a binary glTF file for the page, kept. Raises TexelError."""
    one = _mesh(mesh)
    key = picture_key(one, drawn=level)
    return Made(store.cached("drawn", key, lambda: drawn_glb(worn_mesh(one), level, one.metres)))


class StrokeSpacing(TypedDict):
    """In units of the file. there: how far points lie apart under a stroke, None where it meets none; wanted: how near
    its border wants them."""

    there: float | None
    wanted: float


@apart
def spacing_of_stroke(mesh: int, stroke: VertexStrokeDocument) -> Made:
    """said: StrokeSpacing. Raises TexelError."""
    (one,) = parse_painting([stroke], "the stroke")
    found = spacing_under(core_mesh(_mesh(mesh)), one)
    told: StrokeSpacing = {"there": found.there if found else None, "wanted": found.wanted if found else 0.0}
    return Made(said=told)


@apart
def step_between_islands(mesh: int, slots: list[int]) -> Made:
    """said: the step that fills maps between the UV islands of these slots. Raises TexelError."""
    one = _mesh(mesh)
    return Made(said=filling_step(worn_mesh(one), mesh_facts_of(one.facts or {}), slots))


@apart
def draw_model(mesh: int, side: int, bare: list[int]) -> Made:
    """The PNG of a model, kept. bare: indices of slots that wear nothing. Raises TexelError."""
    one = _mesh(mesh)

    def make() -> bytes:
        return encode(mesh_picture(worn_mesh(one), side, frozenset(bare)), "png")

    return Made(store.cached("drawn", picture_key(one, side=side, bare=bare), make))


@apart
def draw_uvs(mesh: int, slot: int, side: int) -> Made:
    """The PNG of a slot's UVs with what lies over each other, kept. Raises TexelError, Http404 without UVs."""
    one = _mesh(mesh)

    def make() -> bytes:
        drawn = uv_picture(worn_mesh(one), slot, side)
        if drawn is None:
            raise Http404("This slot has no UVs.")
        return encode(drawn, "png")

    return Made(store.cached("drawn", picture_key(one, uvs=slot, side=side), make))


class PlannedCell(TypedDict):
    """x, y, width, height: texels. own: width and height of the set's largest map."""

    set: int
    name: str
    x: int
    y: int
    width: int
    height: int
    own: list[int]


class PlannedMove(TypedDict):
    """A slot that wears one of the sets. density: texels a metre on its cell. problem: why it stays as it is, or ""."""

    model: str
    slot: str
    set: int
    density: float | None
    problem: str


class AtlasPlanned(TypedDict):
    """padding: texels of room around each cell, and clean: mips that stay clean with it. used: share of the atlas that
    cells cover. missing: names of sets that have no map, by the role of a map of the atlas."""

    width: int
    height: int
    padding: int
    clean: int
    used: float
    cells: list[PlannedCell]
    missing: dict[str, list[str]]
    moves: list[PlannedMove]


@apart
def plan_of_atlas(project: int, order: AtlasOrder) -> Made:
    """said: AtlasPlanned. Raises Conflict for what is gone, BadDocument where the sets do not fit."""
    of = Project.objects.get(pk=project)
    rows, moves = atlas_sets(of, order["sets"]), moves_of(of, order)
    sets, files = core_sets(rows)
    by_name = {one.name: one for one in sets}
    with store.local_copies() as copies:
        own = own_sizes(by_name, library_of(files, copies))
    ids = {row.name: row.pk for row in rows}
    plan = planned(order, sets, own, moves, {pk: name for name, pk in ids.items()})
    cells = {one.set: one for one in plan.cells}
    told: AtlasPlanned = {
        "width": plan.width, "height": plan.height, "padding": plan.padding, "clean": clean_levels(plan.padding),
        "used": plan.used,
        "cells": [
            {"set": ids[one.set], "name": one.set, "x": one.x, "y": one.y, "width": one.width, "height": one.height,
             "own": list(own[one.set])}
            for one in plan.cells
        ],
        "missing": {
            role.value: missing for role in atlas_roles(by_name)
            if (missing := [name for name, one in by_name.items() if map_for(role, one) is None])
        },
        "moves": [
            {
                "model": one.mesh.name, "slot": one.key, "set": one.set, "problem": one.problem,
                "density": one.slot.density and one.slot.density * _side(cells, rows, one.set),
            }
            for one in moves
        ],
    }  # fmt: skip
    return Made(said=told)


def _side(cells: Mapping[str, Cell], rows: Iterable[TextureSet], pk: int) -> int:
    """The longer side of a set's cell."""
    cell = next(cells[row.name] for row in rows if row.pk == pk)
    return max(cell.width, cell.height)
