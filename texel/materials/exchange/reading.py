"""Materials from files of any format that can be read, told by their names."""

from __future__ import annotations

from pathlib import Path

from texel.errors import BadDocument
from texel.materials.exchange.imported import Imported
from texel.materials.exchange.mtlx_read import read_materialx

__all__ = ["MATERIAL_SUFFIXES", "read_material"]

MATERIAL_SUFFIXES = (".mtlx",)


def read_material(path: Path) -> list[Imported]:
    """Every material of a file. Raises BadDocument with the reason, OSError."""
    suffix = path.suffix.lower()
    if suffix not in MATERIAL_SUFFIXES:
        raise BadDocument(f"{path.name}: materials are read from {', '.join(MATERIAL_SUFFIXES)}")
    try:
        return read_materialx(path.read_text("utf-8"), path.name)
    except UnicodeDecodeError:
        raise BadDocument(f"{path.name} is not text in UTF-8") from None
