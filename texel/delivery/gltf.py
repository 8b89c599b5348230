"""A glTF 2.0 material that uses delivered maps, on a unit square so that any viewer shows it."""

from __future__ import annotations

import base64
import json
import struct
from collections.abc import Iterable
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import quote

from texel.delivery.plan import PlannedFile

__all__ = ["gltf_material", "gltf_of_maps", "unit_square"]

_LINEAR_MIPMAP, _LINEAR, _REPEAT = 9987, 9729, 10497
_FLOAT, _SHORT = 5126, 5123


def unit_square() -> tuple[bytes, list[dict[str, Any]], list[dict[str, Any]]]:
    """A unit square facing +Z: positions, normals, tangents, UV (origin top left, glTF 2.0, 3.6.2) and indices."""
    corners = [(-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)]
    parts = [
        ("VEC3", _FLOAT, struct.pack("<12f", *(v for x, y in corners for v in (x, y, 0.0)))),
        ("VEC3", _FLOAT, struct.pack("<12f", *(0.0, 0.0, 1.0) * 4)),
        ("VEC4", _FLOAT, struct.pack("<16f", *(1.0, 0.0, 0.0, 1.0) * 4)),
        ("VEC2", _FLOAT, struct.pack("<8f", *(v for x, y in corners for v in (x + 0.5, 0.5 - y)))),
        ("SCALAR", _SHORT, struct.pack("<6H", 0, 1, 2, 0, 2, 3)),
    ]
    data, views, accessors = b"", [], []
    for index, (shape, kind, body) in enumerate(parts):
        target = 34963 if shape == "SCALAR" else 34962
        views.append({"buffer": 0, "byteOffset": len(data), "byteLength": len(body), "target": target})
        count = 6 if shape == "SCALAR" else 4
        accessor: dict[str, Any] = {"bufferView": index, "componentType": kind, "count": count, "type": shape}
        if index == 0:
            accessor |= {"min": [-0.5, -0.5, 0.0], "max": [0.5, 0.5, 0.0]}
        accessors.append(accessor)
        data += body
    return data, views, accessors


def gltf_material(planned: PlannedFile, name: str, alpha: str | None) -> bytes:
    """The document's bytes, for a delivered material. planned.uses: pairs of slot and delivered path.

    alpha: "MASK" or "BLEND" when base colour carries opacity in alpha, else None (glTF 2.0, material.alphaMode).
    """
    return gltf_of_maps(planned.path, planned.uses, name, alpha)


def gltf_of_maps(
    path: str,
    uses: Iterable[tuple[str, str]],
    name: str,
    alpha: str | None,
    cut_off: float | None = None,
    emissive_strength: float = 1.0,
) -> bytes:
    """A document at ``path`` whose material uses maps: pairs of slot ("base_color", "normal", "pack", "emissive") and
    path. cut_off: of "MASK", 0.5 without one. emissive_strength: above 1 by KHR_materials_emissive_strength."""
    here = PurePosixPath(path).parent
    images: list[dict[str, Any]] = []
    textures: list[dict[str, Any]] = []
    slots: dict[str, dict[str, int]] = {}
    for slot, file in uses:
        slots[slot] = {"index": len(images)}
        images.append({"uri": quote(PurePosixPath(file).relative_to(here).as_posix())})
        textures.append({"sampler": 0, "source": slots[slot]["index"]})
    surface: dict[str, Any] = {}
    if "base_color" in slots:
        surface["baseColorTexture"] = slots["base_color"]
    if "pack" in slots:
        surface["metallicRoughnessTexture"] = slots["pack"]
    else:
        surface |= {"metallicFactor": 0.0, "roughnessFactor": 0.5}
    material: dict[str, Any] = {"name": name, "pbrMetallicRoughness": surface}
    if "normal" in slots:
        material["normalTexture"] = slots["normal"]
    if "pack" in slots:
        material["occlusionTexture"] = slots["pack"]
    if "emissive" in slots:
        material |= {"emissiveTexture": slots["emissive"], "emissiveFactor": [1.0, 1.0, 1.0]}
    if alpha:
        material |= {"alphaMode": alpha, "doubleSided": True}
    if alpha == "MASK" and cut_off is not None:
        material["alphaCutoff"] = cut_off
    extensions = []
    if "emissive" in slots and emissive_strength > 1:
        extensions.append("KHR_materials_emissive_strength")
        material["extensions"] = {extensions[0]: {"emissiveStrength": emissive_strength}}
    data, views, accessors = unit_square()
    attributes = {"POSITION": 0, "NORMAL": 1, "TANGENT": 2, "TEXCOORD_0": 3}
    document: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": "Fair Texel"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": name}],
        "meshes": [{"primitives": [{"attributes": attributes, "indices": 4, "material": 0}]}],
        "materials": [material],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [
            {
                "byteLength": len(data),
                "uri": "data:application/octet-stream;base64," + base64.b64encode(data).decode(),
            }
        ],
    }
    if extensions:
        document["extensionsUsed"] = extensions
    if images:
        sampler = {"magFilter": _LINEAR, "minFilter": _LINEAR_MIPMAP, "wrapS": _REPEAT, "wrapT": _REPEAT}
        document |= {"images": images, "textures": textures, "samplers": [sampler]}
    return (json.dumps(document, indent=2, ensure_ascii=False) + "\n").encode()
