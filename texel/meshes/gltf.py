"""Meshes of glTF 2.0 files: nodes with their places, primitives, material slots, and levels of detail."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray

from texel.errors import BadDocument
from texel.gltf_file import BROKEN, broken_words, opened_gltf
from texel.meshes.accessors import Accessors
from texel.meshes.mesh import MAX_TRIANGLES, Counted, MeshFile, Piece, Slot, TextureUse, UnreadableMesh, checked_mesh

__all__ = ["level_of_name", "read_gltf_mesh"]

Document = dict[str, Any]
Matrix = NDArray[np.float64]
_PACKED = {
    "KHR_draco_mesh_compression": "its mesh is compressed (Draco)",
    "EXT_meshopt_compression": "its mesh is compressed (meshopt)",
    "KHR_meshopt_compression": "its mesh is compressed (meshopt)",
}
# What may be asked for and changes nothing of what is read here, or is read.
_FINE = {
    "KHR_mesh_quantization", "KHR_texture_transform", "KHR_materials_unlit", "MSFT_lod", "KHR_texture_basisu",
    "EXT_texture_webp", "KHR_lights_punctual", "KHR_materials_variants", "KHR_animation_pointer", "EXT_texture_avif",
    "KHR_node_visibility", "MSFT_texture_dds", "KHR_xmp_json_ld",
}  # fmt: skip
_TRIANGLES, _STRIP, _FAN = 4, 5, 6
_MAX_NODES, _MAX_DEPTH = 50_000, 200
_ALPHA = {"OPAQUE": "opaque", "MASK": "cut_out", "BLEND": "blend"}
# Of what else of a name says a level of detail: "hull_LOD2" (common practice).
_LEVEL = re.compile(r"(?:^|[_\-. ])lod[_\- ]?(\d{1,2})$", re.IGNORECASE)


def level_of_name(name: str) -> tuple[str, int]:
    """A part's name without its level of detail, and the level, 0 where it says none.

    >>> level_of_name("hull_LOD2"), level_of_name("hull")
    (('hull', 2), ('hull', 0))
    """
    match = _LEVEL.search(name)
    return (name[: match.start()], int(match[1])) if match and match.start() else (name, 0)


def read_gltf_mesh(name: str, data: bytes, beside: Mapping[str, bytes] | None = None) -> MeshFile:
    """The mesh of a .gltf or .glb file. beside: the files that lie beside it, by name. Raises UnreadableMesh."""
    try:
        document, chunk = opened_gltf(data)
        if str(document["asset"]["version"]).split(".")[0] != "2":
            raise UnreadableMesh(name, "it is glTF {version}; export glTF 2.0", version=document["asset"]["version"])
        _refuse_unknown(name, document)
        return checked_mesh(_Reader(name, document, Accessors(document, chunk, beside or {})).read())
    except FileNotFoundError as error:
        raise UnreadableMesh(
            name, "it needs {args} beside it; send both together, or one .glb", args=error.args[0]
        ) from None
    except (*BROKEN, BadDocument) as error:
        raise UnreadableMesh(name, "no glTF 2.0 that can be read: {problem}", problem=broken_words(error)) from None


def _refuse_unknown(name: str, document: Document) -> None:
    wanted = document.get("extensionsRequired", [])
    for extension, words in _PACKED.items():
        if extension in wanted:
            raise UnreadableMesh(name, "{words}; export it without mesh compression", words=words)
    for extension in wanted:
        if extension not in _FINE and not str(extension).startswith("KHR_materials_"):
            raise UnreadableMesh(
                name, "it cannot be read without {extension}; export it without that", extension=extension
            )


@dataclass
class _Reader:
    name: str
    document: Document
    arrays: Accessors
    pieces: list[Piece] = field(default_factory=list)
    remarks: dict[str, None] = field(default_factory=dict)
    _seen: int = 0
    # A slot for what has no material, made when it is met.
    _bare: int | None = None

    def read(self) -> MeshFile:
        document = self.document
        self.counted = Counted(self.name)
        self.slots = [_slot(document, one) for one in document.get("materials", [])]
        levels = self._levels()
        nodes = document.get("nodes", [])
        held = {child for one in nodes for child in one.get("children", [])} | set(levels)
        scenes = document.get("scenes", [])
        roots = scenes[document.get("scene", 0)].get("nodes", []) if scenes else []
        if not roots:
            roots = [at for at in range(len(nodes)) if at not in held]
        for root in roots:
            self._walk(root, np.eye(4), 0, 0, levels)
        if document.get("animations"):
            self.remarks["animations are kept, and not looked at"] = None
        return MeshFile(self.name, "glTF", tuple(self.slots), tuple(self.pieces), tuple(self.remarks))

    def _levels(self) -> dict[int, int]:
        """Nodes that are coarser levels of another (MSFT_lod), each with its level."""
        found = {}
        for node in self.document.get("nodes", []):
            ids = node.get("extensions", {}).get("MSFT_lod", {}).get("ids", [])
            found.update({at: level for level, at in enumerate(ids, 1)})
        return found

    def _walk(self, at: int, above: Matrix, depth: int, level: int, levels: Mapping[int, int]) -> None:
        self._seen += 1
        if self._seen > _MAX_NODES or depth > _MAX_DEPTH:
            raise ValueError("its nodes are too many, too deep, or hold themselves")
        node = self.document["nodes"][at]
        world = above @ _local(node)
        if "mesh" in node:
            self._mesh(at, node, np.eye(4) if "skin" in node else world, level)
            if "skin" in node:
                self.remarks["parts with bones are looked at as they were bound"] = None
        if "EXT_mesh_gpu_instancing" in node.get("extensions", {}):
            self.remarks["copies made while drawing (EXT_mesh_gpu_instancing) are not counted"] = None
        for child in node.get("children", []):
            self._walk(child, world, depth + 1, max(level, levels.get(child, 0)), levels)
        for coarser, other in enumerate(node.get("extensions", {}).get("MSFT_lod", {}).get("ids", []), 1):
            self._walk(other, above, depth + 1, max(level, coarser), levels)

    def _mesh(self, at: int, node: Document, world: Matrix, level: int) -> None:
        mesh = self.document["meshes"][node["mesh"]]
        title = str(node.get("name") or mesh.get("name") or f"part {node['mesh'] + 1}")
        part, named = level_of_name(title)
        for number, primitive in enumerate(mesh["primitives"]):
            extensions = primitive.get("extensions", {})
            packed = next((one for one in _PACKED if one in extensions), None)
            if packed:
                raise UnreadableMesh(self.name, "{packed}; export it without mesh compression", packed=_PACKED[packed])
            mode = primitive.get("mode", _TRIANGLES)
            if mode not in (_TRIANGLES, _STRIP, _FAN):
                self.remarks["points and lines are not looked at"] = None
                continue
            piece = self._piece(primitive, mode, part, world, max(level, named))
            self.pieces.append(replace(piece, place=(at, number)))
            self.counted.add(len(self.pieces[-1].triangles), len(self.pieces[-1].positions))

    def _piece(self, primitive: Document, mode: int, part: str, world: Matrix, level: int) -> Piece:
        attributes = primitive["attributes"]
        positions = self.arrays.numbers(attributes["POSITION"])
        count = len(positions)

        def of(name: str, parts: tuple[int, ...]) -> NDArray[np.float32] | None:
            if name not in attributes:
                return None
            values = self.arrays.numbers(attributes[name])
            if len(values) != count or values.shape[1] not in parts:
                raise ValueError(f"{name} does not fit the points")
            return values

        uvs: list[NDArray[np.float32]] = []
        while (uv := of(f"TEXCOORD_{len(uvs)}", (2,))) is not None:
            uvs.append(uv)
        indices = self._indices(primitive, count)
        mirrored = bool(np.linalg.det(world[:3, :3]) < 0)
        normals, tangents = of("NORMAL", (3,)), of("TANGENT", (4,))
        if normals is not None:
            normals = _turned(normals, np.asarray(np.linalg.pinv(world[:3, :3]).T, float))
        if tangents is not None:
            tangents = np.hstack([_turned(tangents[:, :3], world[:3, :3]), tangents[:, 3:]]).astype(np.float32)
        triangles = _triangles(indices, mode)
        if mirrored:
            triangles = np.ascontiguousarray(triangles[:, ::-1])
        with np.errstate(over="ignore", invalid="ignore"):
            placed = (positions @ world[:3, :3].T + world[:3, 3]).astype(np.float32)
        return Piece(
            part, self._slot_of(primitive), placed, triangles, tuple(uvs), normals, tangents, of("COLOR_0", (3, 4)),
            level,
        )  # fmt: skip

    def _indices(self, primitive: Document, count: int) -> NDArray[np.int64]:
        if "indices" not in primitive:
            return np.arange(count)
        indices = self.arrays.array(primitive["indices"])
        if indices.dtype.kind != "u" or indices.shape[1] != 1:
            raise ValueError("indices are no whole numbers")
        if len(indices) > 3 * MAX_TRIANGLES:
            raise UnreadableMesh(
                self.name, "a part has more than {max_triangles:,} triangles", max_triangles=MAX_TRIANGLES
            )
        return indices[:, 0].astype(np.int64)

    def _slot_of(self, primitive: Document) -> int:
        given = primitive.get("material")
        if given is not None:
            if not 0 <= given < len(self.document.get("materials", [])):
                raise IndexError("a part names a material that is not there")
            return int(given)
        if self._bare is None:
            self._bare = len(self.slots)
            self.slots.append(Slot(""))
        return self._bare


def _local(node: Document) -> Matrix:
    """A node's own place: its matrix, kept column by column, or translation, rotation and scale (section 3.5.2)."""
    if "matrix" in node:
        return np.array(node["matrix"], float).reshape(4, 4).T
    x, y, z, w = (float(one) for one in node.get("rotation", (0, 0, 0, 1)))
    turn = np.array([
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ])  # fmt: skip
    made = np.eye(4)
    made[:3, :3] = turn * np.array(node.get("scale", (1, 1, 1)), float)
    made[:3, 3] = node.get("translation", (0, 0, 0))
    return made


def _turned(vectors: NDArray[np.float32], by: Matrix) -> NDArray[np.float32]:
    turned = vectors @ by.T
    length = np.linalg.norm(turned, axis=1, keepdims=True)
    return np.asarray(turned / np.where(length > 0, length, 1), np.float32)


def _triangles(indices: NDArray[np.int64], mode: int) -> NDArray[np.int32]:
    """Strips and fans as single triangles, all turning the same way (section 3.7.2.1)."""
    if mode == _TRIANGLES:
        made = indices[: len(indices) // 3 * 3].reshape(-1, 3)
    elif len(indices) < 3:
        made = np.zeros((0, 3), np.int64)
    elif mode == _STRIP:
        made = np.stack([indices[:-2], indices[1:-1], indices[2:]], axis=1)
        made[1::2] = made[1::2][:, [0, 2, 1]]
    else:
        made = np.stack([indices[1:-1], indices[2:], np.full(len(indices) - 2, indices[0])], axis=1)
    return np.ascontiguousarray(made, np.int32)


def _slot(document: Document, material: Document) -> Slot:
    uses = []
    pbr = material.get("pbrMetallicRoughness", {})
    infos = {
        "baseColorTexture": pbr.get("baseColorTexture"),
        "metallicRoughnessTexture": pbr.get("metallicRoughnessTexture"),
        **{use: material.get(use) for use in ("normalTexture", "occlusionTexture", "emissiveTexture")},
    }
    for extension in material.get("extensions", {}).values():
        if isinstance(extension, dict):
            infos.update({use: one for use, one in extension.items() if use.endswith("Texture")})
    for use, info in infos.items():
        if not info:
            continue
        texture = document["textures"][info["index"]]
        sources = [texture.get("source"), *(
            one.get("source") for one in texture.get("extensions", {}).values() if isinstance(one, dict)
        )]  # fmt: skip
        source = next((one for one in sources if one is not None), None)
        if source is None:
            continue
        image = document["images"][source]
        uri = image.get("uri", "")
        is_inside = not uri or uri.startswith("data:")
        file = str(image.get("name", "")) if is_inside else unquote(uri).replace("\\", "/")
        uv_set = info.get("extensions", {}).get("KHR_texture_transform", {}).get("texCoord", info.get("texCoord", 0))
        uses.append(TextureUse(use, file, int(uv_set), is_inside, source if is_inside else None))
    return Slot(
        str(material.get("name", "")), tuple(uses), _ALPHA.get(material.get("alphaMode", "OPAQUE"), "opaque"),
        bool(material.get("doubleSided", False)),
    )  # fmt: skip
