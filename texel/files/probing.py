"""Size, depth, channels and colour tags from the header, without decoding."""

from __future__ import annotations

import struct
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np
import OpenImageIO as oiio

from texel.blocks import BlockTexture, Format
from texel.errors import UnreadableImage
from texel.files import dds, ktx2, png
from texel.files.exr import Layer, layer_named, layers_of
from texel.files.icc import profile_primaries, profile_says
from texel.files.refusing import in_words
from texel.image import ColourTags
from texel.roles import Transfer

__all__ = ["KINDS", "READABLE", "Probe", "container_of", "open_with_oiio", "probe", "read_block_texture"]

READABLE = {
    ".png": "png",
    ".tga": "tga",
    ".jpg": "jpeg",
    ".jpeg": "jpeg",
    ".tif": "tiff",
    ".tiff": "tiff",
    ".exr": "exr",
    ".hdr": "hdr",
    ".webp": "webp",
    ".dds": "dds",
    ".ktx2": "ktx2",
}
# For messages.
KINDS = "PNG, TGA, JPEG, TIFF, OpenEXR, Radiance HDR, WebP, DDS or KTX2"
_MAGIC = (
    (png.SIGNATURE, "png"),
    (b"\xff\xd8\xff", "jpeg"),
    (b"II*\0", "tiff"),
    (b"MM\0*", "tiff"),
    (b"II+\0", "tiff"),
    (b"\x76\x2f\x31\x01", "exr"),
    (b"#?RADIANCE", "hdr"),
    (b"#?RGBE", "hdr"),
    (b"DDS ", "dds"),
    (ktx2.SIGNATURE, "ktx2"),
)
_HEAD_BYTES = 64 * 1024
_LETTERS = {1: "y", 2: "ya", 3: "rgb", 4: "rgba"}


@dataclass(frozen=True)
class Probe:
    """What a header says. bits: 8, 16 or 32 a channel; channels: letters as in Texels; bytes: the file's size.

    layers: the pictures within it, where there are several; the rest speaks of the first, or of the one asked for.
    format: what its blocks are (see texel.blocks), "" where it has none.
    """

    container: str
    width: int
    height: int
    channels: str
    bits: int
    bytes: int
    tags: ColourTags = field(default_factory=ColourTags)
    lossy: bool = False
    layers: tuple[Layer, ...] = ()
    format: str = ""

    def of_layer(self, name: str | None, file: str) -> Probe:
        """The same file, speaking of one layer. Raises UnreadableImage when there is none of that name."""
        if name is None:
            return self
        layer = layer_named(list(self.layers), name, file)
        return replace(self, width=layer.width, height=layer.height, channels=layer.channels, bits=layer.bits)


def container_of(path: Path) -> str:
    """The container by its first bytes; a TGA, which has none of its own, by its name.

    Raises UnreadableImage for anything else, an empty file included.
    """
    with path.open("rb") as stream:
        head = stream.read(16)
    if not head:
        raise UnreadableImage(path.name, "the file is empty (0 bytes)")
    for magic, container in _MAGIC:
        if head.startswith(magic):
            return container
    if head.startswith(b"RIFF") and head[8:12] == b"WEBP":
        return "webp"
    if path.suffix.lower() == ".tga":
        return "tga"
    raise UnreadableImage(path.name, "not a picture that can be read ({kinds})", kinds=KINDS)


def open_with_oiio(path: Path) -> oiio.ImageInput:
    """An open OpenImageIO input with unassociated alpha (or data in alpha would spoil the colours)."""
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), config)
    if opened is None:
        raise UnreadableImage(path.name, "{reason}", reason=_one_line(oiio.geterror()))
    return opened


def _one_line(text: str) -> str:
    return " ".join(text.split())[:200] or "the file cannot be read"


def _check_tga(path: Path) -> None:
    """A TGA has no magic number: refuse text and the like by the fields of its header (TGA 2.0, field 2 to 5)."""
    with path.open("rb") as stream:
        head = stream.read(18)
    if len(head) < 18:
        raise UnreadableImage(path.name, "too short for a TGA header")
    _, map_type, kind = struct.unpack_from("<BBB", head)
    if map_type > 1 or kind not in (1, 2, 3, 9, 10, 11) or head[16] not in (8, 15, 16, 24, 32):
        raise UnreadableImage(path.name, "not a TGA picture: its header makes no sense")


def _letters(spec: Any, container: str, name: str) -> str:
    names = [n.split(".")[-1].lower() for n in spec.channelnames]
    if spec.nchannels == 2 and container != "tga" and names == ["r", "g"]:
        return "rg"
    if spec.nchannels not in _LETTERS:
        raise UnreadableImage(
            name,
            "{nchannels} channels ({listed}); 1 to 4 are read",
            nchannels=spec.nchannels,
            listed=", ".join(spec.channelnames)[:80],
        )
    return _LETTERS[spec.nchannels]


def _bits(spec: Any, name: str) -> int:
    kinds = {"uint8": 8, "uint16": 16, "half": 32, "float": 32}
    kind = str(spec.format)
    if kind not in kinds:
        raise UnreadableImage(name, "pixels of type {kind}; 8-bit, 16-bit, half and float are read", kind=kind)
    return kinds[kind]


def _check_dds(spec: Any, name: str) -> None:
    if spec.depth > 1 or str(spec.getattribute("texturetype") or "").lower().startswith(("volume", "cube", "env")):
        raise UnreadableImage(name, "a DDS with several faces or slices; only flat textures are read")


def _is_lossy(path: Path, container: str, spec: Any) -> bool:
    """Whether the container holds an approximation: JPEG, WebP's VP8 form, and the block formats of DDS."""
    if container == "webp":
        with path.open("rb") as stream:
            return b"VP8 " in stream.read(4096)
    return container == "jpeg" or (container == "dds" and spec.getattribute("compression") is not None)


def _icc_tags(spec: Any) -> ColourTags:
    """The profile's description, which OpenImageIO takes out of its desc tag, and what it is."""
    profile = spec.getattribute("ICCProfile")
    if profile is None:
        return ColourTags()
    name = str(spec.getattribute("ICCProfile:profile_description") or "unnamed profile")
    data = np.asarray(profile, np.uint8).tobytes()
    return ColourTags(icc=name, icc_transfer=profile_says(data), chromaticities=profile_primaries(data))


def _describe_exr(opened: oiio.ImageInput, path: Path, size: int) -> Probe:
    layers = layers_of(opened)
    first = layer_named(layers, None, path.name)
    told = opened.spec().getattribute("chromaticities")
    tags = ColourTags(chromaticities=tuple(round(float(one), 5) for one in told) if told else None)
    several = tuple(layers) if len(layers) > 1 else ()
    return Probe("exr", first.width, first.height, first.channels, first.bits, size, tags, layers=several)


def read_block_texture(path: Path, container: str, levels: int = 32) -> BlockTexture | None:
    """A DDS or KTX2 in a format that we decode ourselves; None for a DDS that is left to OpenImageIO.

    Raises UnreadableImage.
    """
    data = path.read_bytes()
    made: BlockTexture | None = (ktx2 if container == "ktx2" else dds).read_texture(data, path.name, levels)
    return made


def _describe_blocks(path: Path, container: str, size: int) -> Probe | None:
    with path.open("rb") as stream:
        start = stream.read(ktx2.HEAD_BYTES)
    head = (ktx2 if container == "ktx2" else dds).read_head(start, path.name)
    if head is None:
        return None
    format_: Format = head.format
    if container == "dds" and format_.key == "bc1":
        # Only its blocks tell whether it has see-through texels.
        texture = read_block_texture(path, container, 1)
        format_ = texture.format if texture else format_
    tags = {Transfer.SRGB: ColourTags(srgb=0), Transfer.LINEAR: ColourTags(gamma=1.0)}.get(head.transfer, ColourTags())
    return Probe(
        container, head.width, head.height, format_.channels, format_.bits, size, tags, format_.is_block,
        format=format_.key,
    )  # fmt: skip


def describe(path: Path, container: str, size: int) -> Probe:
    """The probe of any file but a PNG. Raises UnreadableImage."""
    if container in ("dds", "ktx2"):
        blocks = _describe_blocks(path, container, size)
        if blocks is not None:
            return blocks
    if container == "tga":
        _check_tga(path)
    opened = open_with_oiio(path)
    try:
        spec = opened.spec()
        if container == "dds":
            _check_dds(spec, path.name)
        if container == "exr":
            return _describe_exr(opened, path, size)
        return Probe(
            container,
            spec.width,
            spec.height,
            _letters(spec, container, path.name),
            _bits(spec, path.name),
            size,
            _icc_tags(spec),
            _is_lossy(path, container, spec),
        )
    finally:
        opened.close()


def probe(path: Path) -> Probe:
    """Read a header. Nothing is decoded and no limit is checked.

    Raises UnreadableImage when the file is no picture, and OSError when it cannot be opened.
    """
    with in_words(path):
        container = container_of(path)
        size = path.stat().st_size
        if container == "png":
            with path.open("rb") as stream:
                head = png.read_head(stream.read(_HEAD_BYTES), path.name, whole=False)
            return Probe("png", head.width, head.height, head.channels, head.bits, size, head.tags)
        return describe(path, container, size)
