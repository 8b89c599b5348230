"""Split and pack channels by layout documents."""

from texel.channels.layout import Layout, Source, layout_named, parse_layout, spell_layout
from texel.channels.packing import pack, unpack

__all__ = ["Layout", "Source", "layout_named", "pack", "parse_layout", "spell_layout", "unpack"]
