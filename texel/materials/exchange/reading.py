"""Materials from files of any format that can be read, told by their names."""

from __future__ import annotations

from pathlib import Path, PurePath

from texel.errors import BadDocument
from texel.materials.exchange.gltf_read import read_gltf
from texel.materials.exchange.grouped import gathered
from texel.materials.exchange.imported import Imported
from texel.materials.exchange.mtlx_read import read_materialx

__all__ = ["MATERIAL_SUFFIXES", "read_material", "read_material_bytes"]

MATERIAL_SUFFIXES = (".mtlx", ".gltf", ".glb")


def read_material(path: Path) -> list[Imported]:
    """Every material of a file, those that are built alike as casts of one master. Raises BadDocument with the
    reason, OSError."""
    return read_material_bytes(path.read_bytes(), path.name)


def read_material_bytes(data: bytes, name: str) -> list[Imported]:
    """As read_material, from the bytes of a file of that name."""
    suffix, title = PurePath(name).suffix.lower(), PurePath(name).stem[:200] or "material"
    if suffix in (".gltf", ".glb"):
        return gathered(read_gltf(data, name), title)
    if suffix not in MATERIAL_SUFFIXES:
        raise BadDocument("{name}: materials are read from {listed}", name=name, listed=", ".join(MATERIAL_SUFFIXES))
    try:
        materials = read_materialx(data.decode("utf-8"), name)
    except UnicodeDecodeError:
        raise BadDocument("{name} is not text in UTF-8", name=name) from None
    return [one for one in materials if one.own] + gathered([one for one in materials if not one.own], title)
