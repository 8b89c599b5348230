"""Layout documents: which source goes into which channel of a packed map."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any

from texel.document_types import LayoutDocument
from texel.errors import BadDocument
from texel.naming.tokens import spell_channels
from texel.roles import Role, facts
from texel.schemas import check_document, packaged_documents, read_json

__all__ = ["Layout", "Source", "builtin_layouts", "layout_named", "parse_layout", "ready_layout", "spell_layout"]

_ORDER = "rgba"


@dataclass(frozen=True)
class Source:
    """Where one output channel comes from.

    role: None for a constant only. channel: of the source map. missing: value, 0 to 1, when the role has no map; None
    leaves the channel out (alpha only). black, white: the values, 0 to 1, that become 0 and 1; power: exponent of the
    curve after that; invert comes last.
    """

    role: Role | None
    channel: str = "r"
    invert: bool = False
    missing: float | None = 0.0
    black: float = 0.0
    white: float = 1.0
    power: float = 1.0

    @property
    def bends(self) -> bool:
        """Whether values change by more than inversion, so that packing is not bit-exact."""
        return (self.black, self.white, self.power) != (0.0, 1.0, 1.0)


@dataclass(frozen=True)
class Layout:
    """channels: output letters in order ("r", "rg", "rgb" or "rgba") to their sources."""

    name: str
    channels: dict[str, Source]
    title: str = ""

    @cached_property
    def roles(self) -> tuple[Role, ...]:
        """The roles it takes, each once, in channel order."""
        every_role = dict.fromkeys(s.role for s in self.channels.values() if s.role is not None)
        return tuple(every_role)

    def document(self) -> dict[str, Any]:
        """The JSON document that parse_layout reads."""
        channels = {}
        for letter, source in self.channels.items():
            entry: dict[str, Any] = {"missing": source.missing}
            if source.role is not None:
                entry |= {"role": source.role.value, "channel": source.channel, "invert": source.invert}
            if source.bends:
                entry |= {"black": source.black, "white": source.white, "power": source.power}
            channels[letter] = entry
        return {
            "format": "fair-texel/layout",
            "version": 1,
            "name": self.name,
            "title": self.title,
            "channels": channels,
        }


def parse_layout(document: Any, where: str = "the layout") -> Layout:
    """A layout from its JSON document. Raises BadDocument."""
    check_document(document, "layout", where)
    letters = "".join(letter for letter in _ORDER if letter in document["channels"])
    if not _ORDER.startswith(letters):
        raise BadDocument(
            "{where}: channels must be r, r+g, r+g+b or r+g+b+a without gaps, not {letters!r}",
            where=where,
            letters=letters,
        )
    channels = {letter: _parse_source(document["channels"][letter], letter, where) for letter in letters}
    return Layout(document["name"], channels, document.get("title", ""))


def _parse_source(entry: dict[str, Any], letter: str, where: str) -> Source:
    role = Role(entry["role"]) if "role" in entry else None
    default = facts(role).neutral if role else 0.0
    missing = entry.get("missing", default)
    if missing is None and letter != "a":
        raise BadDocument(
            "{where}: only the alpha channel may be left out; give {letter!r} a value for missing",
            where=where,
            letter=letter,
        )
    black, white = float(entry.get("black", 0)), float(entry.get("white", 1))
    if black >= white:
        raise BadDocument(
            "{where}: in {letter!r} black must lie below white; to turn values over, invert", where=where, letter=letter
        )
    power = float(entry.get("power", 1))
    return Source(role, entry.get("channel", "r"), entry.get("invert", False), missing, black, white, power)


def spell_layout(word: str) -> Layout:
    """The layout that a packed suffix spells: orm is R occlusion, G roughness, B metallic (common practice).

    >>> [s.role.value for s in spell_layout("mrao").channels.values()]
    ['metallic', 'roughness', 'occlusion']

    Raises BadDocument when the word spells none.
    """
    roles = spell_channels(word.lower())
    if roles is None:
        raise BadDocument(
            "{word!r} is neither a layout file nor a word that spells channels (for example orm, mrao, ard)", word=word
        )
    channels = {letter: Source(role, missing=facts(role).neutral) for letter, role in zip(_ORDER, roles, strict=False)}
    return Layout(word.lower(), channels)


@lru_cache
def builtin_layouts() -> dict[str, LayoutDocument]:
    """The documents of the ready-made layouts, by name. They are described by what they hold."""
    return packaged_documents("texel.channels", "layouts")


def layout_named(name: str) -> Layout:
    """A layout from a file's path, a ready-made one by its name, or the word that spells it.

    Raises BadDocument, OSError.
    """
    path = Path(name)
    if name not in builtin_layouts() and (path.suffix == ".json" or path.is_file()):
        return parse_layout(read_json(path), path.name)
    return ready_layout(name)


def ready_layout(name: str) -> Layout:
    """A ready-made layout by its name, or the word that spells it; no file is read. Raises BadDocument."""
    if name in builtin_layouts():
        return parse_layout(builtin_layouts()[name], name)
    return spell_layout(name)


def dump_layout(layout: Layout) -> str:
    return json.dumps(layout.document(), indent=2) + "\n"
