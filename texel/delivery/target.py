"""Target documents: what one engine or platform wants."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from texel import digest
from texel.blocks import WRITABLE_FORMATS, Format, format_named
from texel.channels.layout import Layout, parse_layout
from texel.delivery.names import RESERVED
from texel.delivery.sidecars import EACH, Sidecar, check_template
from texel.document_types import TargetDocument
from texel.errors import BadDocument
from texel.roles import Green, Role, Transfer
from texel.schemas import check_document, packaged_documents, read_json

__all__ = ["Budget", "Encoding", "Output", "Target", "builtin_targets", "parse_target", "target_named"]

BLOCK_CONTAINERS = ("dds", "ktx2")
# Bits of a channel that each plain container holds.
PLAIN_CONTAINERS: dict[str, tuple[int, ...]] = {"png": (8, 16), "tga": (8,), "exr": (32,), "tiff": (8, 16, 32)}


@dataclass(frozen=True)
class Encoding:
    """How pixels become a file. bits: of a channel. format, quality, mips, zstd: for dds and ktx2 alone. dither: deeper
    maps are dithered to the 8 bits of a plain container instead of rounded."""

    container: str
    bits: int = 8
    format: Format | None = None
    quality: str = "normal"
    mips: bool = False
    zstd: bool = False
    dither: bool = False

    def document(self) -> dict[str, Any]:
        written: dict[str, Any] = {"container": self.container, "bits": self.bits}
        if self.format is not None:
            written |= {"format": self.format.key, "quality": self.quality, "mips": self.mips, "zstd": self.zstd}
        return written | ({"dither": True} if self.dither else {})


@dataclass(frozen=True)
class Output:
    """One file that the target wants of every set. needs: built only when the set has one of these roles.

    largest: texels of its longest side at most, None for no limit.
    """

    output: str
    layout: Layout
    colour_space: Transfer
    encoding: Encoding
    needs: tuple[Role, ...]
    largest: int | None = None


@dataclass(frozen=True)
class Budget:
    """What a project may use: graphics memory in MiB, of all sets and of one; texels per metre. None for no limit."""

    memory_mib: float | None = None
    set_mib: float | None = None
    density: float | None = None


@dataclass(frozen=True)
class Target:
    name: str
    title: str
    green: Green
    pattern: str
    folder: str
    case: str
    outputs: tuple[Output, ...]
    material: str | None
    digest: str
    budget: Budget = Budget()
    sidecars: tuple[Sidecar, ...] = ()
    mirror: str = ""
    casts: tuple[str, ...] = ("glb",)
    refuses: str = ""
    models: tuple[str, ...] = ("glb",)
    vertex_colours: str = "layers"

    @property
    def largest(self) -> dict[Role, int]:
        """The most texels a side that any output takes of a role; roles that one takes without a limit are left out."""
        sizes: dict[Role, int | None] = {}
        for output in self.outputs:
            for role in output.layout.roles:
                most = sizes.get(role, 0)
                sizes[role] = None if most is None or output.largest is None else max(most, output.largest)
        return {role: most for role, most in sizes.items() if most is not None}


def parse_target(document: Any, where: str = "the target") -> Target:
    """A target from its JSON document. Raises BadDocument."""
    check_document(document, "target", where)
    names = document["names"]
    outputs = tuple(_parse_output(entry, document.get("largest"), where) for entry in document["outputs"])
    if len({o.output.lower() for o in outputs}) < len(outputs):
        raise BadDocument("{where}: two outputs have one name, so their files would too", where=where)
    if len(outputs) > 1 and "{output}" not in names["pattern"]:
        raise BadDocument("{where}: the pattern needs {{output}}, or all outputs of a set share one name", where=where)
    return Target(
        document["name"],
        document.get("title", document["name"]),
        Green(document["green"]),
        names["pattern"],
        names.get("folder", ""),
        names.get("case", "keep"),
        outputs,
        document.get("material", "gltf"),
        digest.of_document(document),
        Budget(**document.get("budget", {})),
        tuple(_parse_sidecar(entry, where) for entry in document.get("sidecars", ())),
        document.get("mirror", ""),
        tuple(document.get("casts", ("glb",))),
        document.get("refuses", ""),
        tuple(document.get("models", ("glb",))),
        document.get("vertex_colours", "layers"),
    )


def _parse_sidecar(entry: dict[str, Any], where: str) -> Sidecar:
    name = entry["name"]
    parts = name.split("/")
    if any(part in (".", "..") or part.startswith(".") for part in parts) or not name.isprintable():
        raise BadDocument(
            "{where}, sidecar {name}: its parts are names of folders and a file, none of them hidden",
            where=where,
            name=name,
        )
    for each in EACH[:-1]:
        if (entry["each"] == each) is not (f"{{{each}}}" in name):
            raise BadDocument(
                "{where}, sidecar {name}: {{{each}}} stands in the name of a file for each {each}, and only there",
                where=where,
                name=name,
                each=each,
            )
    if name.lower() in RESERVED:
        raise BadDocument(
            "{where}, sidecar {name}: every delivery has a file of this name already", where=where, name=name
        )
    check_template(entry["template"], f"{where}, sidecar {name}")
    return Sidecar(name, entry["each"], entry["template"])


def _parse_output(entry: dict[str, Any], largest: int | None, where: str) -> Output:
    name = entry["output"]
    layout = parse_layout(
        {"format": "fair-texel/layout", "version": 1, "name": name.lower(), "channels": entry["channels"]},
        f"{where}, output {name}",
    )
    transfer = Transfer(entry["colour_space"])
    encoding = _parse_encoding(entry, f"{where}, output {name}")
    _check_fit(encoding, len(layout.channels), transfer, f"{where}, output {name}")
    needs = tuple(_role(word, where) for word in entry.get("needs", [])) or layout.roles
    return Output(name, layout, transfer, encoding, needs, entry.get("largest", largest))


def _parse_encoding(entry: dict[str, Any], where: str) -> Encoding:
    container = entry["container"]
    if container in BLOCK_CONTAINERS:
        if "format" not in entry:
            raise BadDocument("{where}: {container} needs a format, for example bc7", where=where, container=container)
        format_ = format_named(entry["format"])
        if format_.key not in WRITABLE_FORMATS:
            raise BadDocument("{where}: {label} is read, but not written", where=where, label=format_.label)
        if container == "dds" and format_.dxgi[0] is None:
            raise BadDocument("{where}: dds has no code for {label}; use ktx2", where=where, label=format_.label)
        if entry.get("bits", format_.bits) != format_.bits:
            raise BadDocument(
                "{where}: {label} has {bits} bits a channel, not {bits2}",
                where=where,
                label=format_.label,
                bits=format_.bits,
                bits2=entry["bits"],
            )
        if entry.get("dither"):
            raise BadDocument(
                "{where}: dither is for png, tga and tiff; encoders of {container} would take it for detail",
                where=where,
                container=container,
            )
        if entry.get("zstd") and container != "ktx2":
            raise BadDocument("{where}: only ktx2 can be packed with Zstandard", where=where)
        return Encoding(
            container, format_.bits, format_, entry.get("quality", "normal"), entry.get("mips", True),
            entry.get("zstd", False),
        )  # fmt: skip
    for word in ("format", "quality", "zstd"):
        if word in entry:
            raise BadDocument(
                "{where}: {word} is for dds and ktx2; {container} has none", where=where, word=word, container=container
            )
    if entry.get("mips"):
        raise BadDocument("{where}: {container} holds no mip chain; use dds or ktx2", where=where, container=container)
    if entry.get("bits") not in PLAIN_CONTAINERS[container]:
        allowed = " or ".join(str(b) for b in PLAIN_CONTAINERS[container])
        raise BadDocument(
            "{where}: {container} holds {allowed} bits, not {entry}",
            where=where,
            container=container,
            allowed=allowed,
            entry=entry.get("bits"),
        )
    if entry.get("dither") and entry["bits"] != 8:
        raise BadDocument("{where}: dither is for 8 bits, where deeper maps would be rounded", where=where)
    return Encoding(container, entry["bits"], dither=entry.get("dither", False))


def _check_fit(encoding: Encoding, count: int, transfer: Transfer, where: str) -> None:
    """Raises BadDocument when the container or format cannot hold so many channels, or not in that colour space."""
    format_ = encoding.format
    if encoding.bits == 32 and transfer is Transfer.SRGB and encoding.container != "tiff":
        raise BadDocument("{where}: floats hold linear light; set colour_space to linear", where=where)
    if format_ is None:
        if count == 2 and encoding.container != "exr":
            raise BadDocument(
                "{where}: two channels need exr or a format of two; give {container} three",
                where=where,
                container=encoding.container,
            )
        return
    if transfer is Transfer.SRGB and format_.vk[1] is None:
        raise BadDocument(
            "{where}: {label} has no sRGB form; set colour_space to linear, or use bc7 or astc",
            where=where,
            label=format_.label,
        )
    if count > len(format_.channels):
        holds = len(format_.channels)
        raise BadDocument(
            "{where}: {label} holds {holds} channels, the output has {count}",
            where=where,
            label=format_.label,
            holds=holds,
            count=count,
        )
    if len(format_.channels) == 2 and count != 2:
        raise BadDocument(
            "{where}: {label} takes two channels, the output has {count}", where=where, label=format_.label, count=count
        )


def _role(word: str, where: str) -> Role:
    try:
        return Role(word)
    except ValueError:
        raise BadDocument(
            "{where}: {word!r} is not a role; roles are {listed}",
            where=where,
            word=word,
            listed=", ".join(r.value for r in Role),
        ) from None


@lru_cache
def builtin_targets() -> dict[str, TargetDocument]:
    """The documents of the ready-made targets, by name. They are described by what they do."""
    return packaged_documents("texel.delivery", "targets")


def target_named(name: str) -> Target:
    """A target from a file's path, or a ready-made one by its name. Raises BadDocument, OSError."""
    if name in builtin_targets():
        return parse_target(builtin_targets()[name], name)
    path = Path(name)
    if path.suffix == ".json" or path.is_file():
        return parse_target(read_json(path), path.name)
    raise BadDocument(
        "there is no target {name!r}; give a file, or one of {listed}", name=name, listed=", ".join(builtin_targets())
    )
