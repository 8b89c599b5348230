"""Small meshes whose answers are known by arithmetic, as glTF and OBJ."""

import json

import numpy as np

from texel.gltf_file import joined_glb

__all__ = ["Sheet", "glb", "gltf_parts", "quad"]


class Sheet:
    """A flat square in x and z, ``metres`` wide at ``at``, with UVs from ``uv`` to ``uv_to``."""

    def __init__(self, part="deck", slot="deck", metres=1.0, uv=(0.0, 0.0), uv_to=(1.0, 1.0), at=0.0, **more):
        self.part, self.slot, self.more = part, slot, more
        x, z = np.array([0, 1, 1, 0]) * metres + at, np.array([0, 0, 1, 1]) * metres
        self.positions = np.stack([x, np.zeros(4), z], axis=1)
        (u0, v0), (u1, v1) = uv, uv_to
        self.uvs = np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]], float)
        # Counter-clockwise seen from above.
        self.triangles = np.array([[0, 2, 1], [0, 3, 2]])


def quad(**how):
    return Sheet(**how)


def gltf_parts(sheets, materials=None, nodes=None):
    """The document and the bytes of its buffer. more of a sheet: tangents, has_uvs, node (what its node has beside)."""
    names = list(dict.fromkeys(sheet.slot for sheet in sheets if sheet.slot is not None))
    chunks, views, accessors = [], [], []

    def add(values, kind, width):
        data = np.ascontiguousarray(values, kind).tobytes()
        views.append({"buffer": 0, "byteOffset": sum(map(len, chunks)), "byteLength": len(data)})
        chunks.append(data)
        accessors.append({
            "bufferView": len(views) - 1, "componentType": 5125 if kind == "<u4" else 5126, "count": len(values),
            "type": ["SCALAR", "VEC2", "VEC3", "VEC4"][width - 1],
        })  # fmt: skip
        if width == 3:
            accessors[-1] |= {"min": np.min(values, axis=0).tolist(), "max": np.max(values, axis=0).tolist()}
        return len(accessors) - 1

    document = {"asset": {"version": "2.0"}, "scene": 0, "nodes": [], "meshes": []}
    for sheet in sheets:
        attributes = {"POSITION": add(sheet.positions, "<f4", 3)}
        if sheet.more.get("has_uvs", True):
            attributes["TEXCOORD_0"] = add(sheet.uvs, "<f4", 2)
        if sheet.more.get("tangents"):
            attributes["TANGENT"] = add(np.tile([1.0, 0, 0, 1], (4, 1)), "<f4", 4)
        primitive = {"attributes": attributes, "indices": add(sheet.triangles.reshape(-1, 1), "<u4", 1)}
        if sheet.slot is not None:
            primitive["material"] = names.index(sheet.slot)
        document["meshes"].append({"primitives": [primitive]})
        document["nodes"].append(
            {"name": sheet.part, "mesh": len(document["meshes"]) - 1, **sheet.more.get("node", {})}
        )
    document["nodes"] += nodes or []
    document["scenes"] = [{"nodes": list(range(len(document["nodes"])))}]
    data = b"".join(chunks)
    document["materials"] = materials if materials is not None else [{"name": name} for name in names]
    if not document["materials"]:
        del document["materials"]
    document |= {"accessors": accessors, "bufferViews": views, "buffers": [{"byteLength": len(data)}]}
    return document, data


def glb(*sheets, **how):
    """Bytes of a binary file of such squares."""
    document, data = gltf_parts(sheets, **how)
    return joined_glb(json.loads(json.dumps(document)), data)
