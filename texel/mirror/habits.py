"""An engine's habits: how its importer reads files that come without explanation. See mirror.schema.json."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path, PurePosixPath
from typing import Any

from texel.blocks import Format, format_named
from texel.document_types import MirrorDocument
from texel.errors import BadDocument
from texel.files import Probe
from texel.naming.tokens import parse_name
from texel.roles import Green, Role, Transfer, facts
from texel.schemas import check_document, packaged_documents, read_json

__all__ = ["EngineHabits", "Line", "Taken", "builtin_mirrors", "mirror_named", "parse_mirror"]


@dataclass(frozen=True)
class Line:
    """suffixes: ends of names, in small letters. channels: the role of each. space: None as the roles ask for."""

    suffixes: tuple[str, ...]
    channels: Mapping[str, Role]
    space: Transfer | None


@dataclass(frozen=True)
class Compression:
    roles: tuple[Role, ...]
    above: int
    format: Format


@dataclass(frozen=True)
class Taken:
    """What an engine takes a file for. channels: the role that each has to it. by: how it decided about the colour
    space: "manifest", "tag", "suffix", "role" or "unknown". green: for files with normals. format: what it encodes the
    file as, or finds in it; "" for plain pixels. width, height: that it keeps."""

    channels: Mapping[str, Role]
    space: Transfer
    by: str
    green: Green | None
    format: str
    width: int
    height: int

    def document(self) -> dict[str, Any]:
        return {
            "channels": {letter: role.value for letter, role in self.channels.items()}, "space": self.space.value,
            "by": self.by, "green": self.green.value if self.green else None, "format": self.format,
            "width": self.width, "height": self.height,
        }  # fmt: skip


@dataclass(frozen=True)
class EngineHabits:
    name: str
    title: str
    green: Green
    lines: tuple[Line, ...]
    common_names: bool
    asks_manifest: bool
    obeys_tags: bool
    asks_roles: bool
    unknown: Transfer
    compress: tuple[Compression, ...]
    largest: int | None

    def take(self, path: str, head: Probe, manifest_space: str | None) -> Taken:
        """What the engine takes a file for. manifest_space: what the manifest says, None where it says nothing."""
        channels, wanted = self._by_name(path, head)
        roles = list(dict.fromkeys(channels.values()))
        space, by = self._space(head, roles, wanted, manifest_space)
        share = min(1.0, self.largest / max(head.width, head.height)) if self.largest else 1.0
        width, height = max(1, round(head.width * share)), max(1, round(head.height * share))
        made = head.format or next(
            (
                one.format.label
                for one in self.compress
                if (not one.roles or set(one.roles) & set(roles)) and max(width, height) >= one.above
            ),
            "",
        )
        green = self.green if Role.NORMAL in roles else None
        return Taken(channels, space, by, green, made, width, height)

    def _by_name(self, path: str, head: Probe) -> tuple[dict[str, Role], Transfer | None]:
        stem = PurePosixPath(path).stem.lower()
        for line in self.lines:
            if stem.endswith(line.suffixes):
                return {letter: role for letter, role in line.channels.items() if _has(head, letter)}, line.space
        said = parse_name(PurePosixPath(path).stem) if self.common_names else None
        if said is None or not said.claims_role:
            return {}, None
        if said.pack:
            return {letter: role for letter, role in said.pack if _has(head, letter)}, None
        role = said.role or Role.BASE_COLOR
        letters = [letter for letter in ("rgb" if facts(role).channels == 3 else "r") if _has(head, letter)]
        channels = dict.fromkeys(letters, role)
        if role is Role.BASE_COLOR and "a" in head.channels:
            channels["a"] = Role.OPACITY  # what most take alpha of a colour for
        return channels, None

    def _space(
        self, head: Probe, roles: list[Role], wanted: Transfer | None, manifest_space: str | None
    ) -> tuple[Transfer, str]:
        if self.asks_manifest and manifest_space is not None:
            return Transfer(manifest_space), "manifest"
        tag = head.tags.declared_transfer
        if self.obeys_tags and tag in ("srgb", "linear"):
            return Transfer(tag), "tag"
        if wanted is not None:
            return wanted, "suffix"
        if roles and self.asks_roles:
            return facts(roles[0]).transfer, "role"
        return self.unknown, "unknown"


def _has(head: Probe, letter: str) -> bool:
    """Whether a file has a channel; grey ones give theirs for red, green and blue."""
    return letter in head.channels or (head.channels[0] == "y" and letter in "rgb")


def parse_mirror(document: Any, where: str = "the mirror") -> EngineHabits:
    """An engine's habits from their JSON document. Raises BadDocument."""
    check_document(document, "mirror", where)
    space = document["space"]
    lines = []
    for entry in document.get("reads", ()):
        channels = {letter: Role(role) for letter, role in entry["channels"].items()}
        suffixes = tuple(one.lower() for one in entry["suffixes"])
        lines.append(Line(suffixes, channels, Transfer(entry["space"]) if "space" in entry else None))
    compress = []
    for entry in document.get("compress", ()):
        try:
            known = format_named(entry["format"])
        except BadDocument as error:
            raise BadDocument("{where}: {error}", where=where, error=error) from None
        compress.append(Compression(tuple(Role(one) for one in entry.get("roles", ())), entry.get("above", 0), known))
    return EngineHabits(
        document["name"], document.get("title", document["name"]), Green(document["green"]), tuple(lines),
        document.get("common_names", False), space.get("manifest", False), space.get("tags", False),
        space.get("roles", True), Transfer(space["unknown"]), tuple(compress), document.get("largest"),
    )  # fmt: skip


@lru_cache
def builtin_mirrors() -> dict[str, MirrorDocument]:
    """Habits that come with the core, by name."""
    return packaged_documents("texel.mirror", "engines")


def mirror_named(name: str) -> EngineHabits:
    """Habits by the name of ready-made ones, or from a JSON file. Raises BadDocument, OSError."""
    known = builtin_mirrors()
    if name in known:
        return parse_mirror(known[name], name)
    path = Path(name)
    if not path.is_file():
        raise BadDocument("there are no habits {name}: a file, or one of {listed}", name=name, listed=", ".join(known))
    return parse_mirror(read_json(path), path.name)
