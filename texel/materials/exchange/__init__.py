"""Masters and casts in open formats."""

from texel.materials.exchange.export import (
    ENDINGS,
    FORMATS,
    MAPS,
    OPENPBR,
    WRITTEN_AS,
    BakeOrder,
    Exported,
    export,
    export_maps,
)
from texel.materials.exchange.fixed import FilledCast
from texel.materials.exchange.gltf_read import read_gltf
from texel.materials.exchange.gltf_write import WrittenGltf, glb_of
from texel.materials.exchange.imported import Imported, cast_document
from texel.materials.exchange.lost import BLACK
from texel.materials.exchange.mtlx_document import problems_of
from texel.materials.exchange.mtlx_function import materialx_of_function
from texel.materials.exchange.mtlx_read import read_materialx
from texel.materials.exchange.mtlx_write import CastOf, element_name, materialx_of, output_name
from texel.materials.exchange.reading import MATERIAL_SUFFIXES, read_material, read_material_bytes
from texel.materials.exchange.usd_write import WrittenUsd, usda_of

__all__ = [
    "BLACK", "ENDINGS", "FORMATS", "MAPS", "MATERIAL_SUFFIXES", "OPENPBR", "WRITTEN_AS", "BakeOrder", "CastOf",
    "Exported", "FilledCast", "Imported", "WrittenGltf", "WrittenUsd", "cast_document", "element_name", "export",
    "export_maps", "glb_of", "materialx_of", "materialx_of_function", "output_name", "problems_of", "read_gltf",
    "read_material", "read_material_bytes", "read_materialx", "usda_of",
]  # fmt: skip
