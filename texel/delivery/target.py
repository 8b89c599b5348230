"""Target documents: what one engine or platform wants."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import Any

from texel import digest
from texel.channels.layout import Layout, parse_layout
from texel.errors import BadDocument
from texel.roles import Green, Role, Transfer
from texel.schemas import check_document, load_json

__all__ = ["Output", "Target", "builtin_targets", "parse_target", "target_named"]

_BITS = {"png": (8, 16), "tga": (8,), "exr": (32,), "tiff": (8, 16, 32)}


@dataclass(frozen=True)
class Output:
    """One file that the target wants of every set. needs: built only when the set has one of these roles."""

    output: str
    layout: Layout
    colour_space: Transfer
    container: str
    bits: int
    needs: tuple[Role, ...]


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


def parse_target(document: Any, where: str = "the target") -> Target:
    """A target from its JSON document. Raises BadDocument."""
    check_document(document, "target", where)
    names = document["names"]
    outputs = tuple(_parse_output(entry, where) for entry in document["outputs"])
    if len({o.output.lower() for o in outputs}) < len(outputs):
        raise BadDocument(f"{where}: two outputs have one name, so their files would too")
    if len(outputs) > 1 and "{output}" not in names["pattern"]:
        raise BadDocument(f"{where}: the pattern needs {{output}}, or all outputs of a set share one name")
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
    )


def _parse_output(entry: dict[str, Any], where: str) -> Output:
    name = entry["output"]
    layout = parse_layout(
        {"format": "fair-texel/layout", "version": 1, "name": name.lower(), "channels": entry["channels"]},
        f"{where}, output {name}",
    )
    if entry["bits"] not in _BITS[entry["container"]]:
        allowed = " or ".join(str(b) for b in _BITS[entry["container"]])
        raise BadDocument(f"{where}, output {name}: {entry['container']} holds {allowed} bits, not {entry['bits']}")
    if len(layout.channels) == 2 and entry["container"] != "exr":
        raise BadDocument(f"{where}, output {name}: two channels need exr; give png and tga one, three or four")
    if entry["container"] == "exr" and entry["colour_space"] == "srgb":
        raise BadDocument(f"{where}, output {name}: exr holds linear light; set colour_space to linear")
    needs = tuple(_role(word, where) for word in entry.get("needs", [])) or layout.roles
    return Output(name, layout, Transfer(entry["colour_space"]), entry["container"], entry["bits"], needs)


def _role(word: str, where: str) -> Role:
    try:
        return Role(word)
    except ValueError:
        raise BadDocument(f"{where}: {word!r} is not a role; roles are {', '.join(r.value for r in Role)}") from None


@lru_cache
def builtin_targets() -> dict[str, dict[str, Any]]:
    """The documents of the ready-made targets, by name. They are described by what they do."""
    folder = resources.files("texel.delivery").joinpath("targets")
    found = {}
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".json"):
            document = load_json(entry.read_text("utf-8"), entry.name)
            found[document["name"]] = document
    return found


def target_named(name: str) -> Target:
    """A target from a file's path, or a ready-made one by its name. Raises BadDocument, OSError."""
    if name in builtin_targets():
        return parse_target(builtin_targets()[name], name)
    path = Path(name)
    if path.suffix == ".json" or path.is_file():
        return parse_target(load_json(path.read_text("utf-8"), path.name), path.name)
    raise BadDocument(f"there is no target {name!r}; give a file, or one of {', '.join(builtin_targets())}")
