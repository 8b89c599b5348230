"""A model with the materials of what its slots wear, as one OpenUSD package (.usdz).

A mesh a part and level, with a subset of faces for each of its slots where it has several; materials are
UsdPreviewSurface over baked maps. Names and meanings of OpenUSD's schemas UsdGeom and UsdShade. Coarser levels of
detail are there, invisible, called "_LOD1" and so on. Bones and animations are not written.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.atlas.regions import Region
from texel.files import encode
from texel.materials.exchange.names import each_once
from texel.materials.exchange.usd_write import baked_for_usd, identifier, material_text, quoted
from texel.materials.exchange.usdz import usdz_of
from texel.meshes.bound import BoundModel, Paint, WornSlot, painted_colours, split_and_filled
from texel.meshes.mesh import Floats, MeshFile, Piece
from texel.meshes.regions import moved, places_of
from texel.meshes.slots import Split

__all__ = ["bound_usdz"]

# Numbers that are put into text at a time.
_AT_ONCE = 300_000


def bound_usdz(
    mesh: MeshFile, splits: Sequence[Split], worn: Sequence[WornSlot | None], metres: float = 1.0,
    regions: Mapping[int, Region] | None = None, paint: Paint | None = None,
) -> BoundModel:  # fmt: skip
    """Write a model with its materials; arguments as of ``texel.meshes.bound.bound_glb``.

    Raises BadDocument where a slot that parts wear has nothing.
    """
    split = split_and_filled(mesh, splits, worn)
    layers = painted_colours(split, paint)
    if paint and paint.written_as == "color":
        pieces = (replace(one, colours=made) for one, made in zip(split.pieces, layers, strict=True))
        split, layers = replace(split, pieces=tuple(pieces)), []
    split = moved(split, places_of(split, regions or {}, metres))
    root = identifier(mesh.name.rsplit("/", 1)[-1].rsplit(".", 1)[0])
    names = each_once([identifier(one.title) if one else f"slot_{at + 1}" for at, one in enumerate(worn)])
    paths = [f"/{root}/Materials/{name}" for name in names]
    written = _Materials(worn, paths)
    text = (
        "#usda 1.0\n(\n"
        f'    defaultPrim = "{root}"\n    doc = "{quoted(mesh.name)}, written by Fair Texel"\n'
        f'    metersPerUnit = {metres:.9g}\n    upAxis = "Y"\n)\n\n'
        f'def Xform "{root}" (\n    kind = "component"\n)\n{{\n'
        + "".join(_meshes(split, paths, layers))
        + '    def Scope "Materials"\n    {\n'
        + "\n".join(written.texts)
        + "    }\n}\n"
    )
    return BoundModel(usdz_of({f"{root}.usda": text.encode(), **written.pictures}), written.lost)


class _Materials:
    """texts: of the materials. pictures: their maps as PNG, by path; equal ones are there once."""

    def __init__(self, worn: Sequence[WornSlot | None], paths: Sequence[str]):
        self.texts: list[str] = []
        self.pictures: dict[str, bytes] = {}
        self.lost: dict[str, tuple[str, ...]] = {}
        self._known: dict[str, str] = {}
        for one, path in zip(worn, paths, strict=True):
            if one is not None:
                self._write(one, path)

    def _write(self, one: WornSlot, path: str) -> None:
        baked = baked_for_usd(one.master, one.cast, one.side)
        name = path.rsplit("/", 1)[-1]
        files = {key: self._file(f"maps/{name}_{key}.png", encode(made, "png")) for key, made in baked.maps.items()}
        self.texts.append(material_text(one.master, path, files, baked.emissive_strength, baked.numbers, one.title))
        self.lost[one.title] = baked.lost

    def _file(self, path: str, body: bytes) -> str:
        known = self._known.setdefault(hashlib.sha256(body).hexdigest(), path)
        if known == path:
            self.pictures[path] = body
        return known


def _meshes(mesh: MeshFile, paths: Sequence[str], layers: Sequence[Floats | None]) -> list[str]:
    """The prims of all parts. layers: painted colours, by piece."""
    painted = {id(piece): made for piece, made in zip(mesh.pieces, layers, strict=False)}
    levels = mesh.levels()
    parts = list(dict.fromkeys((one.level, one.part) for one in mesh.pieces if len(one.triangles)))
    parts.sort(key=lambda one: one[0])
    ends = ["" if len(levels) == 1 else f"_LOD{level}" for level, _ in parts]
    names = [identifier(part) + end for (_, part), end in zip(parts, ends, strict=True)]
    made = []
    for (level, part), name in zip(parts, each_once(names, taken={"Materials"}), strict=True):
        pieces = [one for one in mesh.pieces if (one.level, one.part) == (level, part) and len(one.triangles)]
        two_sided = any(mesh.slots[one.slot].double_sided for one in pieces)
        some = [one for piece in pieces if (one := painted.get(id(piece))) is not None]
        made.append(_mesh(name, part, pieces, paths, some, is_shown=level == levels[0], two_sided=two_sided))
    return made


def _mesh(
    name: str, part: str, pieces: list[Piece], paths: Sequence[str], layers: list[Floats], *, is_shown: bool,
    two_sided: bool,
) -> str:  # fmt: skip
    one = _joined(pieces)
    slots = np.concatenate([np.full(len(piece.triangles), piece.slot) for piece in pieces])
    low, high = one.positions.min(axis=0), one.positions.max(axis=0)
    lines = [
        f'    def Mesh "{name}" (', f'        displayName = "{quoted(part)}"',
        '        prepend apiSchemas = ["MaterialBindingAPI"]', "    )", "    {",
        *(["        uniform bool doubleSided = 1"] if two_sided else []),
        f"        float3[] extent = [{_rows(np.stack([low, high]))}]",
        f"        int[] faceVertexCounts = [{_flat(np.full(len(one.triangles), 3))}]",
        f"        int[] faceVertexIndices = [{_flat(one.triangles.ravel())}]",
    ]  # fmt: skip
    several = list(dict.fromkeys(slots.tolist()))
    if len(several) == 1:
        lines.append(f"        rel material:binding = <{paths[several[0]]}>")
    if one.normals is not None:
        lines += _points("normal3f[] normals", one.normals)
    lines.append(f"        point3f[] points = [{_rows(one.positions)}]")
    if one.colours is not None:
        lines += _points("color3f[] primvars:displayColor", one.colours[:, :3])
        if one.colours.shape[1] > 3:
            lines += _points("float[] primvars:displayOpacity", one.colours[:, 3])
    if layers:
        lines += _points("color4f[] primvars:layers", np.concatenate(layers))
    for at, uv in enumerate(one.uvs[:2]):
        # V grows upwards there.
        lines += _points(f"texCoord2f[] primvars:st{at or ''}", np.stack([uv[:, 0], 1 - uv[:, 1]], axis=1))
    lines.append('        uniform token subdivisionScheme = "none"')
    if not is_shown:
        lines.append('        token visibility = "invisible"')
    if len(several) > 1:
        lines.append('        uniform token subsetFamily:materialBind:familyType = "partition"')
        for slot in several:
            lines += _subset(paths[slot], np.flatnonzero(slots == slot))
    return "\n".join([*lines, "    }", "", ""])


def _subset(path: str, faces: NDArray[np.intp]) -> list[str]:
    return [
        "", f'        def GeomSubset "{path.rsplit("/", 1)[-1]}" (',
        '            prepend apiSchemas = ["MaterialBindingAPI"]', "        )", "        {",
        '            uniform token elementType = "face"', '            uniform token familyName = "materialBind"',
        f"            int[] indices = [{_flat(faces)}]", f"            rel material:binding = <{path}>", "        }",
    ]  # fmt: skip


def _points(name: str, values: NDArray[np.floating[Any]]) -> list[str]:
    text = _flat(values) if values.ndim == 1 else _rows(values)
    return [f"        {name} = [{text}] (", '            interpolation = "vertex"', "        )"]


def _joined(pieces: list[Piece]) -> Piece:
    """Pieces of one part as one: what only some of them have is 0 on the others, normals and tangents excepted."""
    if len(pieces) == 1:
        return pieces[0]
    starts = np.cumsum([0, *(len(one.positions) for one in pieces)])
    triangles = [one.triangles + start for one, start in zip(pieces, starts, strict=False)]
    normals = [one.normals for one in pieces if one.normals is not None]
    sets = max(len(one.uvs) for one in pieces)
    uvs = tuple(
        np.concatenate([one.uvs[at] if at < len(one.uvs) else np.zeros((len(one.positions), 2), np.float32)
                        for one in pieces])
        for at in range(sets)
    )  # fmt: skip
    colours = None
    if any(one.colours is not None for one in pieces):
        colours = np.concatenate([_colours_of(one) for one in pieces])
    return replace(
        pieces[0], positions=np.concatenate([one.positions for one in pieces]), triangles=np.concatenate(triangles),
        uvs=uvs, colours=colours, normals=np.concatenate(normals) if len(normals) == len(pieces) else None,
    )  # fmt: skip


def _colours_of(piece: Piece) -> NDArray[np.float32]:
    """Red, green, blue and alpha of every point; white where a piece has no colours, as glTF has it."""
    made = np.ones((len(piece.positions), 4), np.float32)
    if piece.colours is not None:
        made[:, : piece.colours.shape[1]] = piece.colours
    return made


def _rows(values: NDArray[np.floating[Any]]) -> str:
    """Rows of numbers as text that gives the same 32-bit numbers when it is read (9 digits are enough)."""
    row = "(" + ", ".join(["%.9g"] * values.shape[1]) + ")"
    return _text(values.reshape(len(values), -1), row)


def _flat(values: NDArray[Any]) -> str:
    return _text(values.reshape(-1, 1), "%d" if values.dtype.kind in "iu" else "%.9g")


def _text(values: NDArray[Any], row: str) -> str:
    step = max(1, _AT_ONCE // values.shape[1])
    parts = (values[at : at + step] for at in range(0, len(values), step))
    return ", ".join(", ".join([row] * len(part)) % tuple(part.ravel().tolist()) for part in parts)
