"""Masters and casts in open formats."""

from texel.materials.exchange.imported import Imported, cast_document
from texel.materials.exchange.mtlx_document import problems_of
from texel.materials.exchange.mtlx_read import read_materialx
from texel.materials.exchange.mtlx_write import CastOf, element_name, materialx_of, output_name
from texel.materials.exchange.reading import read_material

__all__ = [
    "CastOf", "Imported", "cast_document", "element_name", "materialx_of", "output_name", "problems_of",
    "read_material", "read_materialx",
]  # fmt: skip
