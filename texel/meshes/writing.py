"""Meshes as binary glTF 2.0: as the page draws them, and as they are delivered with the maps of what they wear."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.gltf_file import joined_glb
from texel.meshes.facts import triangle_areas
from texel.meshes.mesh import MeshFile, Piece

__all__ = ["Arrays", "attributes_of", "drawn_glb"]

_ARRAY, _ELEMENTS = 34962, 34963
_FLOAT, _WHOLE, _BYTE = 5126, 5125, 5121
_TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}
Document = dict[str, Any]


@dataclass
class Arrays:
    """Gathers the arrays of a document in one buffer."""

    views: list[Document] = field(default_factory=list)
    accessors: list[Document] = field(default_factory=list)
    chunks: list[bytes] = field(default_factory=list)
    length: int = 0

    def view(self, data: bytes, **more: Any) -> int:
        """Index of a view of these bytes, which start at a multiple of four."""
        self.views.append({"buffer": 0, "byteOffset": self.length, "byteLength": len(data), **more})
        padded = data + bytes(-len(data) % 4)
        self.chunks.append(padded)
        self.length += len(padded)
        return len(self.views) - 1

    def add(self, values: NDArray[Any], is_index: bool = False, bounds: bool = False) -> int:
        """Index of an accessor. values: (n, 1 to 4); whole numbers for indices, numbers otherwise."""
        kept = np.ascontiguousarray(values, np.uint32 if is_index else np.float32)
        view = self.view(kept.tobytes(), target=_ELEMENTS if is_index else _ARRAY)
        accessor: Document = {
            "bufferView": view, "componentType": _WHOLE if is_index else _FLOAT, "count": len(kept),
            "type": _TYPES[kept.shape[1]],
        }  # fmt: skip
        if bounds and len(kept):
            accessor |= {"min": kept.min(axis=0).tolist(), "max": kept.max(axis=0).tolist()}
        self.accessors.append(accessor)
        return len(self.accessors) - 1

    def add_colours(self, values: NDArray[np.floating[Any]]) -> int:
        """Index of an accessor of colours, 0 to 1, kept in 8 bits as graphics hardware takes them. values: (n, 4)."""
        kept = np.rint(np.clip(values, 0, 1) * 255).astype(np.uint8)
        accessor: Document = {
            "bufferView": self.view(kept.tobytes(), target=_ARRAY), "componentType": _BYTE, "normalized": True,
            "count": len(kept), "type": "VEC4",
        }  # fmt: skip
        self.accessors.append(accessor)
        return len(self.accessors) - 1

    def document(self) -> tuple[Document, bytes]:
        data = b"".join(self.chunks)
        return {"accessors": self.accessors, "bufferViews": self.views, "buffers": [{"byteLength": len(data)}]}, data


def drawn_glb(mesh: MeshFile, level: int = 0, scale: float = 1.0, names: bool = False) -> bytes:
    """One level of detail as the page draws it: a node a piece, called after its part, with the attribute _DENSITY.

    Materials are called "0", "1" ...: the slots by their index. _DENSITY: texels a metre on a map of one texel, for
    each point the mean of the triangles around it by their area; 0 without UVs. scale: metres of one unit. names: for a
    file rather than a page, so that materials are called as the slots are and there is no density.
    """
    arrays = Arrays()
    nodes: list[Document] = []
    meshes: list[Document] = []
    for piece in (one for one in mesh.pieces if one.level == level and len(one.triangles)):
        attributes = attributes_of(piece, arrays)
        if not names:
            attributes["_DENSITY"] = arrays.add(_density(piece, scale)[:, None])
        indices = arrays.add(piece.triangles.reshape(-1, 1), is_index=True)
        meshes.append({"primitives": [{"attributes": attributes, "indices": indices, "material": piece.slot}]})
        nodes.append({"name": piece.part, "mesh": len(meshes) - 1})
    gathered, data = arrays.document()
    document = {
        "asset": {"version": "2.0", "generator": "Fair Texel"}, "scene": 0,
        "scenes": [{"nodes": list(range(len(nodes)))}], "nodes": nodes, "meshes": meshes,
        "materials": [{"name": one.name if names else str(at)} for at, one in enumerate(mesh.slots)], **gathered,
    }  # fmt: skip
    return joined_glb(document, data)


def attributes_of(piece: Piece, arrays: Arrays) -> Document:
    """The attributes of a primitive: all that a piece has, of UVs the first two sets."""
    attributes = {"POSITION": arrays.add(piece.positions, bounds=True)}
    if piece.normals is not None:
        attributes["NORMAL"] = arrays.add(piece.normals)
    if piece.tangents is not None:
        attributes["TANGENT"] = arrays.add(piece.tangents)
    if piece.colours is not None:
        attributes["COLOR_0"] = arrays.add(piece.colours)
    for at, uv in enumerate(piece.uvs[:2]):
        attributes[f"TEXCOORD_{at}"] = arrays.add(uv)
    return attributes


def _density(piece: Piece, scale: float) -> NDArray[np.float32]:
    if not piece.uvs:
        return np.zeros(len(piece.positions), np.float32)
    uv = piece.uvs[0].astype(np.float64)[piece.triangles]
    edge_1, edge_2 = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    covered = np.abs(edge_1[:, 0] * edge_2[:, 1] - edge_1[:, 1] * edge_2[:, 0]) / 2
    areas = triangle_areas([piece]) * scale * scale
    count = len(piece.positions)
    corners = piece.triangles.ravel()
    uv_sum = np.bincount(corners, np.repeat(covered, 3), count)
    area_sum = np.bincount(corners, np.repeat(areas, 3), count)
    return np.sqrt(uv_sum / np.where(area_sum > 0, area_sum, np.inf)).astype(np.float32)
