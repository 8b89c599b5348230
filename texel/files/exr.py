"""Layers of an OpenEXR file: parts, and groups of channels within a part (OpenEXR technical introduction)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

import OpenImageIO as oiio

from texel.errors import UnreadableImage

__all__ = ["Layer", "layer_named", "layers_of"]

_ORDER = {letter: at for at, letter in enumerate("rgbxyzuvwa")}
_BITS = {"half": 32, "float": 32, "uint8": 8, "uint16": 16}
# Letters of Texels for the last words of channel names.
_LETTERS = {
    ("r", "g", "b"): "rgb",
    ("r", "g", "b", "a"): "rgba",
    ("x", "y", "z"): "rgb",
    ("r", "g"): "rg",
    ("x", "y"): "rg",
    ("u", "v"): "rg",
}


class Layer(NamedTuple):
    """A picture within a file. part: its number; columns: the part's channels that make up ``channels``, in order."""

    name: str
    part: int
    width: int
    height: int
    channels: str
    bits: int
    columns: tuple[int, ...]

    @classmethod
    def of(cls, document: Mapping[str, Any]) -> Layer:
        """From what ``_asdict`` gave, after a way through JSON."""
        return cls(**{**document, "columns": tuple(document["columns"])})


def _groups(names: list[str]) -> dict[str, list[int]]:
    """Channel numbers by the name before the last dot. Bare channels beside R, G, B, A are layers of their own."""
    groups: dict[str, list[int]] = {}
    for at, name in enumerate(names):
        group, _, last = name.rpartition(".")
        if not group and len(names) > 4 and last.lower() not in ("r", "g", "b", "a", "y"):
            group = last
        groups.setdefault(group, []).append(at)
    return groups


def _letters(names: list[str]) -> str | None:
    words = tuple(name.rpartition(".")[2].lower() for name in names)
    if len(words) == 1:
        return "y"
    return _LETTERS.get(words) or {2: "ya", 3: "rgb", 4: "rgba"}.get(len(words))


def layers_of(opened: oiio.ImageInput) -> list[Layer]:
    """Every picture of an open file, in the order of its parts. Groups of more than four channels are left out."""
    layers: list[Layer] = []
    part = 0
    while opened.seek_subimage(part, 0):
        spec = opened.spec()
        layers += _layers_of_part(spec, part)
        part += 1
    opened.seek_subimage(0, 0)
    return layers


def _layers_of_part(spec: Any, part: int) -> list[Layer]:
    title = str(spec.getattribute("oiio:subimagename") or spec.getattribute("name") or "")
    names = list(spec.channelnames)
    kind = str(spec.format)
    if spec.deep or kind not in _BITS:
        return []
    layers = []
    for group, columns in _groups(names).items():
        columns = sorted(columns, key=lambda at: (_ORDER.get(names[at].rpartition(".")[2].lower(), 99), at))
        letters = _letters([names[at] for at in columns])
        if letters is None:
            continue
        name = ".".join(word for word in (title, group) if word) or f"part {part + 1}"
        layers.append(Layer(name, part, spec.width, spec.height, letters, _BITS[kind], tuple(columns)))
    return layers


def layer_named(layers: list[Layer], name: str | None, file: str) -> Layer:
    """The layer called ``name``; without a name the first. Raises UnreadableImage."""
    if not layers:
        raise UnreadableImage(file, "an OpenEXR without a picture of 1 to 4 channels (deep data is not read)")
    if name is None:
        return layers[0]
    for layer in layers:
        if layer.name == name:
            return layer
    raise UnreadableImage(
        file,
        "there is no layer {name!r}; it has {listed}",
        name=name,
        listed=", ".join(layer.name for layer in layers),
    )
