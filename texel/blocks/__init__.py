"""Block formats: sizes, decoders, and textures as hardware takes them. Encoders are in texel.blocks.encoding."""

from texel.blocks.decoding import decode_level
from texel.blocks.formats import FAMILIES, FORMATS, WRITABLE_FORMATS, Format, format_named, memory
from texel.blocks.texture import BlockTexture

__all__ = [
    "FAMILIES",
    "FORMATS",
    "WRITABLE_FORMATS",
    "BlockTexture",
    "Format",
    "decode_level",
    "format_named",
    "memory",
]
