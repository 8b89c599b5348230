"""Meshes from files of any kind that is read, with what lies beside them."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import PurePosixPath

from texel.meshes.gltf import read_gltf_mesh
from texel.meshes.mesh import MeshFile, UnreadableMesh
from texel.meshes.obj import read_obj

__all__ = ["MESH_KINDS", "beside", "is_mesh", "main_file", "read_mesh"]

MESH_KINDS = "glTF (.glb, .gltf), OBJ (.obj)"
_READ = (".glb", ".gltf", ".obj", ".usd", ".usda", ".usdc", ".usdz")
# What other programs write, and what to export instead.
_OTHERS = {
    ".fbx": "FBX", ".blend": "a scene of a modelling program", ".max": "a scene of a modelling program",
    ".ma": "a scene of a modelling program", ".mb": "a scene of a modelling program", ".c4d": "a scene of a modelling "
    "program", ".3ds": "3DS", ".dae": "COLLADA", ".ply": "PLY", ".stl": "STL", ".abc": "Alembic", ".vrm": "VRM",
}  # fmt: skip


def is_mesh(name: str) -> bool:
    return PurePosixPath(name).suffix.lower() in _READ


def main_file(names: Mapping[str, bytes]) -> str:
    """The mesh among files that came together. Raises UnreadableMesh where there is none, or several."""
    meshes = sorted(name for name in names if is_mesh(name))
    if len(meshes) == 1:
        return meshes[0]
    if meshes:
        raise UnreadableMesh(meshes[0], "{meshes} came with it; take meshes in one at a time", meshes=meshes[1])
    name = min(names, key=lambda one: (PurePosixPath(one).suffix.lower() not in _OTHERS, one), default="nothing")
    kind = _OTHERS.get(PurePosixPath(name).suffix.lower())
    what = f"{kind} is not read" if kind else "this is no mesh that is read"
    raise UnreadableMesh(name, "{what}; export {mesh_kinds} instead", what=what, mesh_kinds=MESH_KINDS)


def read_mesh(name: str, files: Mapping[str, bytes]) -> MeshFile:
    """The mesh in the file ``name`` of ``files``. Raises UnreadableMesh.

    >>> square = b"v 0 0 0\\nv 1 0 0\\nv 1 1 0\\nv 0 1 0\\nvt 0 0\\nvt 1 0\\nvt 1 1\\nvt 0 1\\nusemtl deck\\n"
    >>> mesh = read_mesh("deck.obj", {"deck.obj": square + b"f 1/1 2/2 3/3 4/4"})
    >>> mesh.slots[0].name, len(mesh.pieces[0].triangles)
    ('deck', 2)
    """
    suffix = PurePosixPath(name).suffix.lower()
    if suffix in (".glb", ".gltf"):
        return read_gltf_mesh(name, files[name], beside(name, files))
    if suffix == ".obj":
        return read_obj(name, files[name], beside(name, files))
    if suffix in _READ:
        from texel.meshes.usd import read_usd

        return read_usd(name, files)
    main_file({name: b""})
    raise AssertionError("main_file refuses what is not read")


def beside(name: str, files: Mapping[str, bytes]) -> dict[str, bytes]:
    """The files by how the mesh names them, from its own folder; and by their names alone, for those that lie elsewhere
    than it says."""
    folder = PurePosixPath(name).parent
    named = {PurePosixPath(other).name: data for other, data in files.items()}
    for other, data in files.items():
        path = PurePosixPath(other)
        named[path.relative_to(folder).as_posix() if path.is_relative_to(folder) else other] = data
    return named
