"""The textures of a model's own materials as sets: what each is for is said by where the material binds it.

glTF 2.0: base colour in RGB and opacity in A (3.9.2), roughness in G and metallic in B of one picture (3.9.2),
occlusion in R (3.9.3), normals with Y+ (3.9.3). MTL by its keywords, of which bump may be a height or a normal map.
"""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from pathlib import Path, PurePosixPath

from texel.errors import BadDocument, TexelError
from texel.files import read
from texel.gltf_file import BROKEN, broken_words, opened_gltf
from texel.materials.exchange.gltf_read import Pictures
from texel.meshes.mesh import MeshFile
from texel.meshes.reading import beside
from texel.meshes.slots import slot_keys
from texel.roles import Role
from texel.sets import MapRef, TextureSet
from texel.sorting.looks import Kind, look_at

__all__ = ["OwnMaps", "own_maps"]

Places = tuple[tuple[Role, str | None], ...]
_USES: dict[str, Places] = {
    "baseColorTexture": ((Role.BASE_COLOR, None),),
    "metallicRoughnessTexture": ((Role.ROUGHNESS, "g"), (Role.METALLIC, "b")),
    "normalTexture": ((Role.NORMAL, None),),
    "occlusionTexture": ((Role.OCCLUSION, "r"),),
    "emissiveTexture": ((Role.EMISSIVE, None),),
    # KHR_materials_pbrSpecularGlossiness.
    "diffuseTexture": ((Role.BASE_COLOR, None),),
    "specularGlossinessTexture": ((Role.SPECULAR, None), (Role.GLOSSINESS, "a")),
    "map_kd": ((Role.BASE_COLOR, None),), "map_ks": ((Role.SPECULAR, None),), "map_ns": ((Role.GLOSSINESS, None),),
    "map_d": ((Role.OPACITY, None),), "norm": ((Role.NORMAL, None),), "map_kn": ((Role.NORMAL, None),),
    "map_pr": ((Role.ROUGHNESS, None),), "map_pm": ((Role.METALLIC, None),), "map_ke": ((Role.EMISSIVE, None),),
    "disp": ((Role.HEIGHT, None),), "map_disp": ((Role.HEIGHT, None),),
}  # fmt: skip
_BUMP = ("map_bump", "bump")


@dataclass(frozen=True)
class OwnMaps:
    """sets: with the slot that wears each, by key. pictures: what they are made of, by name. missing: files that the
    materials name and that are not there."""

    sets: dict[str, TextureSet]
    pictures: dict[str, bytes]
    missing: tuple[str, ...]


def own_maps(mesh: MeshFile, files: Mapping[str, bytes]) -> OwnMaps:
    """The sets of a model's own materials; slots without textures have none.

    files: those that came with the mesh. Raises BadDocument for a picture in the file that cannot be taken out.
    """
    named = beside(mesh.name, files)
    inside = _inside(mesh, files) if mesh.kind == "glTF" else {}
    pictures: dict[str, bytes] = {}
    missing: dict[str, None] = {}
    sets: dict[str, TextureSet] = {}
    for at, (slot, key) in enumerate(zip(mesh.slots, slot_keys([one.name for one in mesh.slots]), strict=True)):
        maps: dict[tuple[Role, str | None], MapRef] = {}
        for number, use in enumerate(slot.textures):
            name = inside.get((at, number), (use.file, b""))[0] if use.is_inside else use.file
            body = inside.get((at, number), ("", b""))[1] if use.is_inside else named.get(name)
            if body is None:
                body = named.get(PurePosixPath(name).name)
            if not body:
                missing[name or f"a picture of {slot.name}"] = None
                continue
            name = _kept(pictures, name, body)
            for role, channel in _places(use.use, slot.alpha, partial(_holds_normals, name, body)):
                why = f"the model's material binds it as {use.use}"
                maps.setdefault((role, channel), MapRef(role, name, channel, 1.0, why))
        if maps:
            title = slot.name or f"{PurePosixPath(mesh.name).stem} {at + 1}"
            sets[key] = TextureSet(title, tuple(maps.values()))
    return OwnMaps(sets, pictures, tuple(missing))


def _places(use: str, alpha: str, is_normal: Callable[[], bool]) -> Places:
    if use in _BUMP:
        return ((Role.NORMAL if is_normal() else Role.HEIGHT, None),)
    places = _USES.get(use, ())
    if places and places[0][0] is Role.BASE_COLOR and alpha != "opaque" and not use.startswith("map_"):
        return (*places, (Role.OPACITY, "a"))
    return places


def _holds_normals(name: str, body: bytes) -> bool:
    """Whether a picture looks like a normal map; one that cannot be read does not."""
    with tempfile.TemporaryDirectory(prefix="texel-look-") as folder:
        path = Path(folder) / f"look{PurePosixPath(name).suffix}"
        path.write_bytes(body)
        try:
            return look_at(read(path)).kind is Kind.NORMAL
        except (TexelError, OSError):
            return False


def _kept(pictures: dict[str, bytes], name: str, body: bytes) -> str:
    """Keep a picture under its name, with a number where another has it; gives what it is called."""
    name = PurePosixPath(name.replace("\\", "/")).name
    wanted, count = name, 1
    while name in pictures and pictures[name] != body:
        count += 1
        name = f"{PurePosixPath(wanted).stem}_{count}{PurePosixPath(wanted).suffix}"
    pictures[name] = body
    return name


def _inside(mesh: MeshFile, files: Mapping[str, bytes]) -> dict[tuple[int, int], tuple[str, bytes]]:
    """Pictures that lie in the file, by slot and number of the texture."""
    document, chunk = opened_gltf(files[mesh.name] if mesh.name in files else beside(mesh.name, files)[mesh.name])
    pictures = Pictures(document, chunk)
    found: dict[tuple[int, int], tuple[str, bytes]] = {}
    for at, slot in enumerate(mesh.slots[: len(document.get("materials", ()))]):
        for number, use in enumerate(slot.textures):
            if use.is_inside and use.image is not None:
                try:
                    name = pictures.name(use.image)
                    found[at, number] = name, pictures.inside[name]
                except BROKEN as error:
                    raise BadDocument(
                        "{mesh}: a picture in it cannot be read: {problem}", mesh=mesh.name, problem=broken_words(error)
                    ) from None
    return found
