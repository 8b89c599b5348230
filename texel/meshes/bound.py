"""A model with the materials of what its slots wear, as one binary glTF 2.0 file.

What the file of a glTF model holds beside its materials stays: nodes, levels of detail, bones, animations, extras.
A model from another format gets a node a part; its coarser levels are named "_LOD1" and linked by MSFT_lod.
"""

from __future__ import annotations

import copy
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from texel.atlas.regions import Region
from texel.errors import BadDocument
from texel.gltf_file import joined_glb, opened_gltf
from texel.materials.exchange.fixed import FilledCast
from texel.materials.exchange.gltf_write import WrittenMaterials, written_materials
from texel.materials.master import Master
from texel.meshes.accessors import Accessors
from texel.meshes.gltf import level_of_name
from texel.meshes.mesh import Floats, MeshFile, Piece, kept_name
from texel.meshes.painting import VertexStroke, painted_mesh
from texel.meshes.regions import UvPlace, moved, places_of
from texel.meshes.slots import Split, with_splits
from texel.meshes.writing import Arrays, attributes_of

__all__ = ["ATTRIBUTES", "BoundModel", "Paint", "WornSlot", "bound_glb", "painted_colours", "split_and_filled"]

Document = dict[str, Any]
_VARIANTS = "KHR_materials_variants"
_LINEAR_MIPMAP, _LINEAR, _REPEAT = 9987, 9729, 10497


@dataclass(frozen=True)
class WornSlot:
    """What a slot wears when the model is written. title: of the material in the file. side: texels of baked maps."""

    title: str
    master: Master
    cast: FilledCast
    side: int = 1024


# What painted colours are called: an attribute of our own, which other programs pass over, or glTF's vertex colours, by
# which its readers multiply the base colour (3.9.2).
ATTRIBUTES = {"layers": "_LAYERS", "color": "COLOR_0"}


class Paint(NamedTuple):
    """Painted vertex colours. written_as: one of ATTRIBUTES."""

    strokes: tuple[VertexStroke, ...]
    written_as: str = "layers"


class BoundModel(NamedTuple):
    """data: of a .glb file. lost: what glTF cannot say of the materials, by their titles."""

    data: bytes
    lost: dict[str, tuple[str, ...]]


def bound_glb(
    mesh: MeshFile, files: Mapping[str, bytes], splits: Sequence[Split], worn: Sequence[WornSlot | None],
    metres: float = 1.0, regions: Mapping[int, Region] | None = None, paint: Paint | None = None,
) -> BoundModel:  # fmt: skip
    """Write a model with its materials.

    mesh: as ``read_mesh`` gives it, not split. files: those that it was read from, as its document names them, and the
    mesh's own by ``mesh.name``. worn: for each slot, with those of the splits behind; None for one that nothing wears.
    metres: of one unit of the file; glTF is in metres, so other units become a scale on all that is there. regions: of
    what slots wear, by their index; their first UVs are moved there. paint: vertex colours.
    Raises BadDocument where a slot that parts wear has none.
    """
    split = split_and_filled(mesh, splits, worn)
    filled = [one for one in worn if one is not None]
    materials = written_materials([(one.master, one.cast._replace(name=one.title), one.side) for one in filled])
    written = iter(materials.documents)
    documents = [next(written) if one else {"name": slot.name} for one, slot in zip(worn, split.slots, strict=True)]
    for at, document in enumerate(documents):
        if any(len(piece.uvs) < 2 for piece in split.pieces if piece.slot == at):
            _read_first_uvs(document)
    places = places_of(split, regions or {}, metres)
    is_gltf = mesh.kind == "glTF"
    colours = painted_colours(split, paint)
    if is_gltf:
        document, arrays = _of_gltf(mesh, split, files, places)
        _paint(document, arrays, split, colours, ATTRIBUTES[paint.written_as] if paint else "")
    else:
        document, arrays = _of_pieces(moved(split, places), colours, ATTRIBUTES[paint.written_as] if paint else "")
    if metres != 1:
        _scale(document, metres)
    return BoundModel(_joined(document, arrays, documents, materials), materials.lost)


def split_and_filled(mesh: MeshFile, splits: Sequence[Split], worn: Sequence[WornSlot | None]) -> MeshFile:
    """The mesh with its slots split. Raises BadDocument where a slot that parts wear has nothing."""
    split = with_splits(mesh, splits)
    used = {piece.slot for piece in split.pieces}
    if len(worn) != len(split.slots) or any(worn[at] is None for at in used):
        raise BadDocument("{mesh}: a slot wears nothing", mesh=mesh.name)
    return split


def painted_colours(mesh: MeshFile, paint: Paint | None) -> list[Floats | None]:
    """Vertex colours of each piece, (n, 4) from 0 to 1, as they are painted; [] where nothing is."""
    return [one.colours for one in painted_mesh(mesh, paint.strokes).pieces] if paint else []


def _scale(document: Document, metres: float) -> None:
    """Hang what each scene shows below a node that scales it."""
    nodes = document.setdefault("nodes", [])
    for scene in document.get("scenes", ()):
        if scene.get("nodes"):
            nodes.append({"name": "metres", "scale": [metres] * 3, "children": scene["nodes"]})
            scene["nodes"] = [len(nodes) - 1]


def _read_first_uvs(part: Any) -> None:
    """Let textures be read by the first UVs, as sheets do where a mesh has no second ones."""
    if isinstance(part, dict):
        part.pop("texCoord", None)
    for one in part.values() if isinstance(part, dict) else part if isinstance(part, list) else ():
        _read_first_uvs(one)


def _joined(document: Document, arrays: Arrays, documents: list[Document], materials: WrittenMaterials) -> bytes:
    images = []
    for name, body in materials.images:
        images.append({"name": name, "mimeType": "image/png", "bufferView": arrays.view(body)})
    gathered, data = arrays.document()
    document |= gathered | {"asset": {"version": "2.0", "generator": "Fair Texel"}, "materials": documents}
    if images:
        document |= {
            "images": images, "textures": [{"sampler": 0, "source": at} for at in range(len(images))],
            "samplers": [{"magFilter": _LINEAR, "minFilter": _LINEAR_MIPMAP, "wrapS": _REPEAT, "wrapT": _REPEAT}],
        }  # fmt: skip
    document["extensionsUsed"] = sorted({*document.get("extensionsUsed", ()), *materials.extensions})
    return joined_glb({key: value for key, value in document.items() if value not in ([], {})}, data)


def _of_gltf(
    mesh: MeshFile, split: MeshFile, files: Mapping[str, bytes], places: Mapping[int, UvPlace]
) -> tuple[Document, Arrays]:
    """The document of a glTF model without its materials, and its buffers as one. places: of UVs, by slot."""
    source, chunk = opened_gltf(files[mesh.name])
    document = copy.deepcopy(source)
    reader = Accessors(source, chunk, files)
    arrays = Arrays()
    pictures = {one["bufferView"] for one in source.get("images", ()) if "bufferView" in one}
    views: dict[int, int] = {}
    for at, view in enumerate(source.get("bufferViews", ())):
        if at in pictures:
            continue
        kept = {key: view[key] for key in ("byteStride", "target", "name", "extras") if key in view}
        views[at] = arrays.view(reader.view(at)[0], **kept)
    for accessor in document.get("accessors", ()):
        for holder in (accessor, *(accessor.get("sparse", {}).get(key, {}) for key in ("indices", "values"))):
            if "bufferView" in holder:
                holder["bufferView"] = views[holder["bufferView"]]
    arrays.accessors = document.pop("accessors", [])
    for gone in ("images", "textures", "samplers", "materials", "bufferViews", "buffers"):
        document.pop(gone, None)
    _wear(document, mesh, split, len(source.get("materials", ())))
    _move_uvs(document, reader, arrays, places)
    _forget(document)
    return document, arrays


def _move_uvs(document: Document, reader: Accessors, arrays: Arrays, places: Mapping[int, UvPlace]) -> None:
    """Give primitives whose slot wears a region UVs of their own; what others share with them stays."""
    made: dict[tuple[int, UvPlace], int] = {}
    for shown in document.get("meshes", ()):
        for primitive in shown["primitives"]:
            place, uvs = places.get(primitive.get("material", -1)), primitive["attributes"].get("TEXCOORD_0")
            if place is None or uvs is None:
                continue
            if (uvs, place) not in made:
                made[uvs, place] = arrays.add(place.of(reader.numbers(uvs)))
            primitive["attributes"] = {**primitive["attributes"], "TEXCOORD_0": made[uvs, place]}


def _wear(document: Document, mesh: MeshFile, split: MeshFile, named: int) -> None:
    """Let each primitive name the slot that it wears now; a mesh that several nodes show gets a copy where they differ.
    named: materials of the file; a slot behind them is for what has none."""
    bare = named if named < len(mesh.slots) else None
    now: dict[tuple[str, int], int] = {
        (piece.part, before.slot): piece.slot for piece, before in zip(split.pieces, mesh.pieces, strict=True)
    }
    made: dict[tuple[int, tuple[int | None, ...]], int] = {}
    for node in document.get("nodes", ()):
        if "mesh" not in node:
            continue
        at = node["mesh"]
        shown = document["meshes"][at]
        part = kept_name(level_of_name(str(node.get("name") or shown.get("name") or f"part {at + 1}"))[0])
        slots = tuple(
            now.get((part, given), given) if (given := one.get("material", bare)) is not None else None
            for one in shown["primitives"]
        )
        if (at, slots) not in made:
            first = not any(key[0] == at for key in made)
            target = copy.deepcopy(shown) if not first else shown
            if not first:
                document["meshes"].append(target)
            made[at, slots] = at if first else len(document["meshes"]) - 1
            for primitive, slot in zip(target["primitives"], slots, strict=True):
                primitive.get("extensions", {}).pop(_VARIANTS, None)
                if not primitive.get("extensions", True):
                    del primitive["extensions"]
                if slot is not None:
                    primitive["material"] = slot
        node["mesh"] = made[at, slots]


def _paint(
    document: Document, arrays: Arrays, mesh: MeshFile, colours: Sequence[Floats | None], attribute: str
) -> None:
    """Give the points of each node their painted colours; a mesh that several nodes show is copied."""
    shown: set[int] = set()
    nodes = document.get("nodes", [])
    for at in dict.fromkeys(piece.place[0] for piece, made in zip(mesh.pieces, colours, strict=False) if piece.place):
        node = nodes[at]
        if node["mesh"] in shown:
            document["meshes"].append(copy.deepcopy(document["meshes"][node["mesh"]]))
            node["mesh"] = len(document["meshes"]) - 1
        shown.add(node["mesh"])
    for piece, made in zip(mesh.pieces, colours, strict=False):
        if piece.place is not None and made is not None:
            primitive = document["meshes"][nodes[piece.place[0]]["mesh"]]["primitives"][piece.place[1]]
            primitive["attributes"] = {**primitive["attributes"], attribute: arrays.add_colours(made)}


def _forget(document: Document) -> None:
    """Take away extensions that only spoke of the materials and textures that are gone."""
    extensions = document.get("extensions", {})
    extensions.pop(_VARIANTS, None)
    if not extensions:
        document.pop("extensions", None)
    for key in ("extensionsUsed", "extensionsRequired"):
        left = [
            one for one in document.get(key, ())
            if not one.startswith(("KHR_materials_", "KHR_texture_", "EXT_texture_", "MSFT_texture_"))
        ]  # fmt: skip
        document[key] = left
        if not left:
            del document[key]


def _of_pieces(
    mesh: MeshFile, colours: Sequence[Floats | None] = (), attribute: str = ""
) -> tuple[Document, Arrays]:  # fmt: skip
    """A document of a mesh from another format: a node for each part and level. colours: painted, by piece."""
    painted = {id(piece): made for piece, made in zip(mesh.pieces, colours, strict=False)}
    arrays = Arrays()
    nodes: list[Document] = []
    meshes: list[Document] = []
    levels = mesh.levels()
    first: dict[str, int] = {}
    parts = list(dict.fromkeys((one.level, one.part) for one in mesh.pieces))
    for level, part in sorted(parts, key=lambda one: one[0]):
        pieces = [one for one in mesh.pieces if (one.level, one.part) == (level, part) and len(one.triangles)]
        if not pieces:
            continue
        meshes.append(
            {"name": part, "primitives": [_primitive(one, arrays, painted.get(id(one)), attribute) for one in pieces]}
        )
        name = part if len(levels) == 1 else f"{part}_LOD{level}"
        nodes.append({"name": name, "mesh": len(meshes) - 1})
        if level != levels[0] and part in first:
            finest = nodes[first[part]].setdefault("extensions", {}).setdefault("MSFT_lod", {"ids": []})
            finest["ids"].append(len(nodes) - 1)
        else:
            first[part] = len(nodes) - 1
    document: Document = {"scene": 0, "scenes": [{"nodes": list(first.values())}], "nodes": nodes, "meshes": meshes}
    if len(levels) > 1:
        document["extensionsUsed"] = ["MSFT_lod"]
    return document, arrays


def _primitive(piece: Piece, arrays: Arrays, colours: Floats | None, attribute: str) -> Document:
    attributes = attributes_of(piece, arrays)
    if colours is not None:
        attributes[attribute] = arrays.add_colours(colours)
    return {
        "attributes": attributes, "material": piece.slot,
        "indices": arrays.add(piece.triangles.reshape(-1, 1), is_index=True),
    }  # fmt: skip
