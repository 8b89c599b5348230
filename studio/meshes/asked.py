"""What is read and drawn of models, apart: whether files can be read, the mesh for the page, and pictures."""

from __future__ import annotations

from pathlib import Path
from typing import TypedDict

from django.http import Http404

from studio import store
from studio.apart import Made, apart
from studio.meshes.measuring import core_mesh, key_of
from studio.meshes.models import Mesh
from texel.digest import of_document
from texel.files import encode
from texel.meshes.drawing import mesh_picture, uv_picture
from texel.meshes.facts import mesh_facts_of
from texel.meshes.filling import filling_step
from texel.meshes.reading import read_mesh
from texel.meshes.writing import drawn_glb

__all__ = ["check_model", "draw_model", "draw_uvs", "mesh_to_draw", "picture_key", "step_between_islands"]


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
    return of_document({"mesh": key_of(mesh), **how})


@apart
def mesh_to_draw(mesh: int, level: int) -> Made:
    """A level of detail as a binary glTF file for the page, kept. Raises TexelError."""
    one = _mesh(mesh)
    key = picture_key(one, drawn=level)
    return Made(store.cached("drawn", key, lambda: drawn_glb(core_mesh(one), level, one.metres)))


@apart
def step_between_islands(mesh: int, slots: list[int]) -> Made:
    """said: the step that fills maps between the UV islands of these slots. Raises TexelError."""
    one = _mesh(mesh)
    return Made(said=filling_step(core_mesh(one), mesh_facts_of(one.facts or {}), slots))


@apart
def draw_model(mesh: int, side: int, bare: list[int]) -> Made:
    """The PNG of a model, kept. bare: indices of slots that wear nothing. Raises TexelError."""
    one = _mesh(mesh)

    def make() -> bytes:
        return encode(mesh_picture(core_mesh(one), side, frozenset(bare)), "png")

    return Made(store.cached("drawn", picture_key(one, side=side, bare=bare), make))


@apart
def draw_uvs(mesh: int, slot: int, side: int) -> Made:
    """The PNG of a slot's UVs with what lies over each other, kept. Raises TexelError, Http404 without UVs."""
    one = _mesh(mesh)

    def make() -> bytes:
        drawn = uv_picture(core_mesh(one), slot, side)
        if drawn is None:
            raise Http404("This slot has no UVs.")
        return encode(drawn, "png")

    return Made(store.cached("drawn", picture_key(one, uvs=slot, side=side), make))
