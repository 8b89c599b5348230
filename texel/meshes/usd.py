"""Meshes of OpenUSD files, where OpenUSD's own library (PyPI: usd-core) is installed.

Files that are put together of others are refused: they would have the reader open whatever they name.
"""

from __future__ import annotations

import tempfile
from collections.abc import Mapping
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.meshes.gltf import level_of_name
from texel.meshes.mesh import MeshFile, Piece, Slot, UnreadableMesh, checked_mesh

__all__ = ["read_usd"]

_WITHOUT = "reading OpenUSD needs its library (usd-core), which is not installed here; export glTF instead"


def read_usd(name: str, files: Mapping[str, bytes]) -> MeshFile:
    """The mesh of a .usd, .usda, .usdc or .usdz file, in metres, y up. Raises UnreadableMesh."""
    try:
        from pxr import Sdf, Tf, Usd
    except ImportError:
        raise UnreadableMesh(name, _WITHOUT) from None
    with tempfile.TemporaryDirectory(prefix="texel-usd-") as folder:
        path = Path(folder) / ("mesh" + PurePosixPath(name).suffix.lower())
        path.write_bytes(files[name])
        try:
            layer = Sdf.Layer.FindOrOpen(str(path))
            if layer is None:
                raise UnreadableMesh(name, "no OpenUSD that can be read")
            others = sorted(layer.GetCompositionAssetDependencies())
            if others:
                raise UnreadableMesh(
                    name, "it is put together of other files ({others}); export it flattened", others=others[0]
                )
            stage = Usd.Stage.Open(layer)
            return checked_mesh(_read(name, stage))
        except Tf.ErrorException as error:
            told = str(error).replace(folder, "").strip().splitlines()[0][-200:]
            raise UnreadableMesh(name, "no OpenUSD that can be read: {told}", told=told) from None
        except (ValueError, IndexError, TypeError, RuntimeError) as error:
            raise UnreadableMesh(name, "no OpenUSD that can be read: {problem}", problem=error) from None


def _read(name: str, stage: Any) -> MeshFile:
    from pxr import Usd, UsdGeom

    scale = UsdGeom.GetStageMetersPerUnit(stage)
    turned = np.eye(3)
    if UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.z:
        turned = np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]], float)
    places = UsdGeom.XformCache(Usd.TimeCode.EarliestTime())
    slots: dict[str, int] = {}
    pieces: list[Piece] = []
    for prim in Usd.PrimRange(stage.GetPseudoRoot(), Usd.TraverseInstanceProxies()):
        if prim.IsA(UsdGeom.Mesh):
            world = np.array(places.GetLocalToWorldTransform(prim), float)
            # OpenUSD multiplies rows; places come first.
            pieces += _pieces(UsdGeom.Mesh(prim), world, turned * scale, slots)
    return MeshFile(name, "USD", tuple(Slot(one) for one in slots), tuple(pieces))


def _pieces(mesh: Any, world: NDArray[Any], turned: NDArray[Any], slots: dict[str, int]) -> list[Piece]:
    from pxr import Usd, UsdGeom

    first = Usd.TimeCode.EarliestTime()
    points = np.array(mesh.GetPointsAttr().Get(first) or [], float).reshape(-1, 3)
    counts = np.array(mesh.GetFaceVertexCountsAttr().Get(first) or [], np.int64)
    corners = np.array(mesh.GetFaceVertexIndicesAttr().Get(first) or [], np.int64)
    if counts.sum() != len(corners) or (counts < 0).any():
        raise ValueError("its faces do not fit their corners")
    placed = ((points @ world[:3, :3] + world[3, :3]) @ turned.T).astype(np.float32)
    mirrored = (mesh.GetOrientationAttr().Get() == UsdGeom.Tokens.leftHanded) != (np.linalg.det(world[:3, :3]) < 0)
    uv = _uv(mesh, corners, first)
    colours, normals = _colours(mesh, corners, counts, first), _normals(mesh, corners, world, turned, first)
    part, level = level_of_name(mesh.GetPrim().GetName())
    made = []
    for slot, faces in _bound(mesh, len(counts)).items():
        at = slots.setdefault(slot, len(slots))
        rows = _fans(counts, faces)
        if mirrored:
            rows = rows[:, ::-1]
        used = rows.ravel()
        made.append(Piece(
            part, at, placed[corners[used]], np.arange(len(used), dtype=np.int32).reshape(-1, 3),
            () if uv is None else (uv[used],), level=level,
            normals=None if normals is None else normals[used], colours=None if colours is None else colours[used],
        ))  # fmt: skip
    return [one for one in made if len(one.triangles)]


def _colours(
    mesh: Any, corners: NDArray[np.int64], counts: NDArray[np.int64], first: Any
) -> NDArray[np.float32] | None:  # fmt: skip
    """displayColor of every corner, with displayOpacity behind it where there is some; None without."""
    from pxr import UsdGeom

    columns = []
    for name, width in (("displayColor", 3), ("displayOpacity", 1)):
        primvar = UsdGeom.PrimvarsAPI(mesh.GetPrim()).GetPrimvar(name)
        if not primvar or not primvar.HasValue():
            continue
        values = np.array(primvar.ComputeFlattened(first), np.float32).reshape(-1, width)
        kind = primvar.GetInterpolation()
        if kind == UsdGeom.Tokens.constant:
            continue
        if kind == UsdGeom.Tokens.uniform:
            values = np.repeat(values, counts, axis=0)
        elif kind != UsdGeom.Tokens.faceVarying:
            values = values[corners]
        if len(values) != len(corners):
            raise ValueError("its vertex colours do not fit its corners")
        columns.append(values)
    if not columns or columns[0].shape[1] != 3:
        return None
    return np.ascontiguousarray(np.concatenate(columns, axis=1), np.float32)


def _normals(
    mesh: Any, corners: NDArray[np.int64], world: NDArray[Any], turned: NDArray[Any], first: Any
) -> NDArray[np.float32] | None:  # fmt: skip
    """Normals of every corner in the world, unit length; None where there are none, or one a face."""
    from pxr import UsdGeom

    values = np.array(mesh.GetNormalsAttr().Get(first) or [], float).reshape(-1, 3)
    kind = mesh.GetNormalsInterpolation()
    if not len(values) or kind in (UsdGeom.Tokens.constant, UsdGeom.Tokens.uniform):
        return None
    values = values if kind == UsdGeom.Tokens.faceVarying else values[corners]
    if len(values) != len(corners):
        raise ValueError("its normals do not fit its corners")
    # Normals turn with the inverse transpose; scales of the unit do not matter once they are of unit length.
    placed = values @ np.linalg.pinv(world[:3, :3]).T @ turned.T
    made = placed / np.maximum(np.linalg.norm(placed, axis=1, keepdims=True), 1e-20)
    return np.ascontiguousarray(made, np.float32)


def _uv(mesh: Any, corners: NDArray[np.int64], first: Any) -> NDArray[np.float32] | None:
    """UVs of every corner, origin at the upper left; None where there are none."""
    from pxr import UsdGeom

    primvars = UsdGeom.PrimvarsAPI(mesh.GetPrim())
    named = [primvars.GetPrimvar(one) for one in ("st", "st0", "UVMap", "map1")]
    primvar = next((one for one in named if one and one.HasValue()), None)
    if primvar is None:
        return None
    values = np.array(primvar.ComputeFlattened(first), np.float32).reshape(-1, 2)
    uv = values if primvar.GetInterpolation() == UsdGeom.Tokens.faceVarying else values[corners]
    if len(uv) != len(corners):
        raise ValueError("its UVs do not fit its corners")
    return np.ascontiguousarray(np.stack([uv[:, 0], 1 - uv[:, 1]], axis=1), np.float32)


def _bound(mesh: Any, faces: int) -> dict[str, NDArray[np.int64]]:
    """Faces by the name of the material that they are bound to."""
    from pxr import UsdShade

    def name_of(prim: Any) -> str:
        material = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()[0]
        return str(material.GetPrim().GetName()) if material else ""

    bound: dict[str, NDArray[np.int64]] = {}
    left = np.ones(faces, bool)
    for subset in UsdShade.MaterialBindingAPI(mesh.GetPrim()).GetMaterialBindSubsets():
        some = np.array(subset.GetIndicesAttr().Get() or [], np.int64)
        if len(some) and not 0 <= some.min() <= some.max() < faces:
            raise ValueError("a part of its faces names some that are not there")
        name = name_of(subset.GetPrim())
        bound[name] = np.concatenate([bound.get(name, np.zeros(0, np.int64)), some[left[some]]])
        left[some] = False
    if left.any():
        name = name_of(mesh.GetPrim())
        bound[name] = np.concatenate([bound.get(name, np.zeros(0, np.int64)), np.flatnonzero(left)])
    return bound


def _fans(counts: NDArray[np.int64], faces: NDArray[np.int64]) -> NDArray[np.int64]:
    """Triangles of some faces, as rows of corners; each face as a fan from its first corner."""
    starts = np.concatenate([[0], np.cumsum(counts)])
    rows = [np.zeros((0, 3), np.int64)]
    for count in np.unique(counts[faces]):
        some = starts[faces[counts[faces] == count]]
        rows += [np.stack([some, some + at, some + at + 1], axis=1) for at in range(1, int(count) - 1)]
    return np.concatenate(rows)
