"""Formats that graphics hardware reads: block formats and plain ones, with their sizes and their codes in containers.

Block sizes: Khronos Data Format Specification 1.3, chapters S3TC, RGTC, BPTC, ETC2 and ASTC. Codes: VkFormat of the
Vulkan specification (KTX 2.0 uses them), DXGI_FORMAT of the DDS programming guide, colour models of the Khronos Data
Format Specification, table of ``colorModel``.
"""

from __future__ import annotations

from dataclasses import dataclass

from texel.errors import BadDocument
from texel.mips.sizes import level_sizes

__all__ = ["FAMILIES", "FORMATS", "WRITABLE_FORMATS", "Format", "format_named", "memory", "plain_format"]

# Families of formats, by what a graphics card must support, with the title that people read.
FAMILIES = {
    "plain": "Not compressed, every card", "s3tc": "BC1 to BC3, desktop", "rgtc": "BC4 and BC5, desktop",
    "bptc": "BC6H and BC7, desktop", "etc2": "ETC2 and EAC, mobile", "astc": "ASTC, mobile",
}  # fmt: skip


@dataclass(frozen=True)
class Format:
    """channels: letters as in Texels. block: its width and height in texels; size: its bytes. A plain format has blocks
    of one texel. bits: depth of a channel once decoded, 32 for floats. vk, dxgi: (linear, sRGB) codes, None where there
    is none. family: what hardware must support."""

    key: str
    label: str
    channels: str
    block: tuple[int, int]
    size: int
    vk: tuple[int, int | None]
    dxgi: tuple[int | None, int | None]
    model: int
    bits: int = 8
    family: str = "plain"

    @property
    def is_block(self) -> bool:
        return self.block != (1, 1)

    @property
    def bits_per_texel(self) -> float:
        return self.size * 8 / (self.block[0] * self.block[1])

    def bytes_of(self, width: int, height: int) -> int:
        """Bytes of one picture: partial blocks count as whole ones.

        >>> FORMATS["bc1"].bytes_of(1024, 1024), FORMATS["bc7"].bytes_of(5, 5)
        (524288, 64)
        """
        across, down = (-(-side // of) for side, of in zip((width, height), self.block, strict=True))
        return across * down * self.size


_S3TC, _RGTC, _BPTC = "s3tc", "rgtc", "bptc"
_FOOTPRINTS = (
    (4, 4), (5, 4), (5, 5), (6, 5), (6, 6), (8, 5), (8, 6), (8, 8), (10, 5), (10, 6), (10, 8), (10, 10), (12, 10),
    (12, 12),
)  # fmt: skip
_FIRST_ASTC = 157
_QUAD = (4, 4)
_ONE = (1, 1)
_ALL = (
    Format("r8", "8 bits, one channel", "y", _ONE, 1, (9, 15), (61, None), 1),
    Format("rg8", "8 bits, two channels", "rg", _ONE, 2, (16, 22), (49, None), 1),
    Format("rgb8", "8 bits, three channels", "rgb", _ONE, 3, (23, 29), (None, None), 1),
    Format("rgba8", "8 bits, four channels", "rgba", _ONE, 4, (37, 43), (28, 29), 1),
    Format("r16", "16 bits, one channel", "y", _ONE, 2, (70, None), (56, None), 1, 16),
    Format("rg16", "16 bits, two channels", "rg", _ONE, 4, (77, None), (35, None), 1, 16),
    Format("rgba16", "16 bits, four channels", "rgba", _ONE, 8, (91, None), (11, None), 1, 16),
    Format("rgba16f", "half floats, four channels", "rgba", _ONE, 8, (97, None), (10, None), 1, 32),
    Format("r32f", "floats, one channel", "y", _ONE, 4, (100, None), (41, None), 1, 32),
    Format("rgba32f", "floats, four channels", "rgba", _ONE, 16, (109, None), (2, None), 1, 32),
    Format("bc1", "BC1", "rgb", _QUAD, 8, (131, 132), (71, 72), 128, family=_S3TC),
    Format("bc1a", "BC1 with cut-out alpha", "rgba", _QUAD, 8, (133, 134), (None, None), 128, family=_S3TC),
    Format("bc2", "BC2", "rgba", _QUAD, 16, (135, 136), (74, 75), 129, family=_S3TC),
    Format("bc3", "BC3", "rgba", _QUAD, 16, (137, 138), (77, 78), 130, family=_S3TC),
    Format("bc4", "BC4", "y", _QUAD, 8, (139, None), (80, None), 131, family=_RGTC),
    Format("bc5", "BC5", "rg", _QUAD, 16, (141, None), (83, None), 132, family=_RGTC),
    Format("bc6h", "BC6H", "rgb", _QUAD, 16, (143, None), (95, None), 133, 32, _BPTC),
    Format("bc7", "BC7", "rgba", _QUAD, 16, (145, 146), (98, 99), 134, family=_BPTC),
    Format("etc2", "ETC2", "rgb", _QUAD, 8, (147, 148), (None, None), 161, family="etc2"),
    Format("etc2a", "ETC2 with alpha", "rgba", _QUAD, 16, (151, 152), (None, None), 161, family="etc2"),
    Format("eac_r", "EAC, one channel", "y", _QUAD, 8, (153, None), (None, None), 161, family="etc2"),
    Format("eac_rg", "EAC, two channels", "rg", _QUAD, 16, (155, None), (None, None), 161, family="etc2"),
    *(
        Format(
            f"astc_{w}x{h}", f"ASTC {w} x {h}", "rgba", (w, h), 16,
            (_FIRST_ASTC + 2 * at, _FIRST_ASTC + 2 * at + 1), (None, None), 162, family="astc",
        )
        for at, (w, h) in enumerate(_FOOTPRINTS)
    ),
)  # fmt: skip
FORMATS: dict[str, Format] = {one.key: one for one in _ALL}
# Read, but not written: three channels are no format of common hardware, the others have a better successor.
_READ_ONLY = ("rgb8", "bc1a", "bc2")
WRITABLE_FORMATS: tuple[str, ...] = tuple(key for key in FORMATS if key not in _READ_ONLY)


def format_named(key: str) -> Format:
    """Raises BadDocument when there is none of that name."""
    if key not in FORMATS:
        raise BadDocument(
            "there is no format {key!r}; formats are {listed}", key=key, listed=", ".join(WRITABLE_FORMATS)
        )
    return FORMATS[key]


def plain_format(channels: int, bits: int) -> Format:
    """What a picture becomes in graphics memory when nothing compresses it: three channels take the room of four.

    >>> plain_format(3, 8).key, plain_format(1, 16).key
    ('rgba8', 'r16')
    """
    by_count = {8: ("r8", "rg8", "rgba8"), 16: ("r16", "rg16", "rgba16"), 32: ("r32f", "rgba32f", "rgba32f")}
    return FORMATS[by_count[bits][min(channels, 3) - 1]]


def memory(format_: Format, width: int, height: int, mips: bool = True) -> int:
    """Bytes of graphics memory that a texture takes, all levels together.

    >>> memory(FORMATS["bc7"], 4, 4), memory(FORMATS["rgba8"], 2, 2)
    (48, 20)
    """
    return sum(format_.bytes_of(*size) for size in level_sizes(width, height, mips))
