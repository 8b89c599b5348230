"""Read a folder as an engine would, and say where that is not what was meant."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from texel.checks.finding import Severity
from texel.delivery.manifest import MANIFEST
from texel.errors import TexelError
from texel.files import READABLE, Probe, probe
from texel.library import Library
from texel.messages import Message, message_of
from texel.mirror.habits import EngineHabits, Taken
from texel.normals.direction import find_direction
from texel.roles import Green, Role, Transfer, facts
from texel.schemas import check_document, read_json
from texel.sorting import sort_files

__all__ = ["Difference", "Meant", "Mirrored", "Reflection", "reflect"]

_OPPOSITE = {Role.ROUGHNESS: Role.GLOSSINESS, Role.GLOSSINESS: Role.ROUGHNESS}
# Two channels of a normal, and the four of a colour with alpha, are made to be encoded so.
_POOR_FOR_NORMALS = ("BC1", "BC3", "ETC2 RGB")


@dataclass(frozen=True)
class Meant:
    """What a file holds. set: that it belongs to. channels: the role of each channel, constants left out."""

    set: str
    channels: Mapping[str, Role]
    space: Transfer | None
    green: Green | None

    def document(self) -> dict[str, Any]:
        return {
            "channels": {letter: role.value for letter, role in self.channels.items()},
            "space": self.space.value if self.space else None, "green": self.green.value if self.green else None,
        }  # fmt: skip


@dataclass(frozen=True)
class Difference:
    """Where the engine reads otherwise than was meant. misread: what it looks like, a key of texel.misread, or ""."""

    kind: str
    severity: Severity
    message: Message
    misread: str = ""

    def document(self) -> dict[str, Any]:
        return {
            "kind": self.kind, "severity": self.severity.value, "message": str(self.message),
            "said": self.message.document(), "misread": self.misread,
        }  # fmt: skip


@dataclass(frozen=True)
class Mirrored:
    """One file: what was meant, what the engine takes it for (None where it cannot read it), where the two differ."""

    path: str
    meant: Meant | None
    taken: Taken | None
    differences: tuple[Difference, ...]

    def document(self) -> dict[str, Any]:
        return {
            "path": self.path, "set": self.meant.set if self.meant else "",
            "meant": self.meant.document() if self.meant else None,
            "taken": self.taken.document() if self.taken else None,
            "differences": [one.document() for one in self.differences],
        }  # fmt: skip


@dataclass(frozen=True)
class Reflection:
    """files: every picture of the folder. materials: by set, role to the path and channels that the engine uses."""

    habits: EngineHabits
    files: tuple[Mirrored, ...]
    materials: Mapping[str, Mapping[Role, str]] = field(default_factory=dict)
    broken: tuple[Difference, ...] = ()

    def count(self, severity: Severity) -> int:
        told = [one for file in self.files for one in file.differences] + list(self.broken)
        return sum(one.severity is severity for one in told)

    def document(self) -> dict[str, Any]:
        return {
            "mirror": self.habits.name, "title": self.habits.title,
            "errors": self.count(Severity.ERROR), "warnings": self.count(Severity.WARNING),
            "files": [one.document() for one in self.files],
            "materials": [
                {"set": name, "maps": {role.value: path for role, path in maps.items()}}
                for name, maps in self.materials.items()
            ],
            "broken": [one.document() for one in self.broken],
        }  # fmt: skip


def reflect(root: Path, habits: EngineHabits) -> Reflection:
    """Read every picture below ``root`` with an engine's habits.

    What was meant is what the manifest says; in a folder without one, what names and pixels say when they are sorted.
    Raises BadDocument for a manifest that makes no sense, OSError.
    """
    manifest = _manifest(root)
    meant = _by_manifest(manifest) if manifest is not None else _by_sorting(root)
    files = []
    for path in _pictures(root, meant):
        files.append(_mirrored(root, path, meant.get(path), habits))
    return Reflection(habits, tuple(files), _materials(files), tuple(_broken_materials(root)))


def _manifest(root: Path) -> dict[str, Any] | None:
    path = root / MANIFEST
    if not path.is_file():
        return None
    document = read_json(path, MANIFEST)
    if not isinstance(document, dict) or document.get("format") != "fair-texel/manifest":
        return None
    check_document(document, "manifest", MANIFEST)
    return document


def _by_manifest(manifest: Mapping[str, Any]) -> dict[str, Meant]:
    meant = {}
    for entry in manifest["files"]:
        if entry["kind"] not in ("map", "slot"):
            continue
        channels = {}
        for letter, source in entry["channels"].items():
            if source["role"] is not None and source["constant"] is None:
                role = Role(source["role"])
                channels[letter] = _OPPOSITE.get(role, role) if source["invert"] else role
        green = Green(entry["green"]) if entry["green"] else None
        name = entry.get("cast") or entry["set"]
        meant[entry["path"]] = Meant(name, channels, Transfer(entry["colour_space"]), green)
    return meant


def _by_sorting(root: Path) -> dict[str, Meant]:
    library = Library.of_folder(root)
    meant: dict[str, Meant] = {}
    for one in sort_files(library, root.resolve().name).sets:
        for ref in one.maps:
            before = meant.get(ref.file)
            told = facts(ref.role)
            letters = [ref.channel] if ref.channel else ["r", "g", "b"] if told.channels == 3 else ["r"]
            channels = dict(before.channels if before else {}) | dict.fromkeys(letters, ref.role)
            green = before.green if before else None
            if ref.role is Role.NORMAL:
                green = _direction(library, ref)
            meant[ref.file] = Meant(one.name, channels, told.transfer, green)
    return meant


def _direction(library: Library, ref: Any) -> Green | None:
    try:
        texels = library.source(ref)
    except (TexelError, OSError):
        return None
    found = find_direction(texels).green if texels.channels[0] != "y" else Green.UNKNOWN
    return None if found is Green.UNKNOWN else found


def _pictures(root: Path, meant: Mapping[str, Meant]) -> Iterable[str]:
    found = {
        one.relative_to(root).as_posix()
        for one in root.rglob("*")
        if one.is_file() and one.suffix.lower() in READABLE and not _is_hidden(one.relative_to(root))
    }
    return sorted(found | set(meant))


def _is_inside(root: Path, path: Path) -> bool:
    """Whether a path that somebody's document names lies in the folder, links followed."""
    return path.resolve().is_relative_to(root.resolve())


def _is_hidden(path: Path) -> bool:
    return any(part.startswith(".") for part in path.parts)


def _mirrored(root: Path, path: str, meant: Meant | None, habits: EngineHabits) -> Mirrored:
    try:
        if not _is_inside(root, root / path):
            raise FileNotFoundError
        head = probe(root / path)
    except FileNotFoundError:
        return Mirrored(path, meant, None, (Difference("missing", Severity.ERROR, message_of("mirror_missing")),))
    except (TexelError, OSError) as error:
        said = message_of("mirror_unreadable", reason=str(error))
        return Mirrored(path, meant, None, (Difference("unreadable", Severity.ERROR, said),))
    taken = habits.take(path, head, meant.space.value if meant and meant.space else None)
    differences = tuple(_differences(meant, taken, head)) if meant else ()
    return Mirrored(path, meant, taken, differences)


def _differences(meant: Meant, taken: Taken, head: Probe) -> Iterable[Difference]:
    yield from _of_roles(meant, taken)
    if meant.space is not None and taken.space is not meant.space:
        yield _of_space(meant, taken)
    both_normal = Role.NORMAL in taken.channels.values() and Role.NORMAL in meant.channels.values()
    if both_normal and meant.green is not None and taken.green is not meant.green:
        said = message_of("mirror_green", taken=taken.green or "unknown", meant=meant.green)
        yield Difference("green", Severity.ERROR, said, "green_flipped")
    if (taken.width, taken.height) != (head.width, head.height):
        said = message_of(
            "mirror_smaller", width=taken.width, height=taken.height, was_width=head.width, was_height=head.height
        )
        yield Difference("size", Severity.NOTE, said)
    if Role.NORMAL in meant.channels.values() and any(taken.format.startswith(one) for one in _POOR_FOR_NORMALS):
        yield Difference("format", Severity.WARNING, message_of("mirror_poor_format", format=taken.format))


def _of_space(meant: Meant, taken: Taken) -> Difference:
    if meant.space is Transfer.SRGB:
        return Difference(
            "space", Severity.ERROR, message_of("mirror_colour_as_linear", by=taken.by), "colour_as_linear"
        )
    is_normal = Role.NORMAL in meant.channels.values()
    said = message_of("mirror_data_as_srgb", by=taken.by)
    return Difference("space", Severity.ERROR, said, "normal_as_srgb" if is_normal else "data_as_srgb")


def _of_roles(meant: Meant, taken: Taken) -> Iterable[Difference]:
    """Channels that the engine takes for something else, or does not read, those alike told together."""
    if meant.channels and not taken.channels:
        roles = list(dict.fromkeys(role.value for role in meant.channels.values()))
        yield Difference("unknown", Severity.ERROR, message_of("mirror_unknown", roles=roles))
        return
    told: dict[tuple[Role, Role | None], list[str]] = {}
    for letter, role in meant.channels.items():
        got = taken.channels.get(letter)
        if got is not role:
            told.setdefault((role, got), []).append(letter.upper())
    for (role, got), letters in told.items():
        if got is None:
            # A colour in a file whose first channels are read, and a scalar that stands in all of them, lose nothing.
            if role in taken.channels.values():
                continue
            key = "occlusion_missing" if role is Role.OCCLUSION else ""
            said = message_of("mirror_unread", channels=letters, role=role)
            yield Difference("unread", Severity.WARNING, said, key)
        else:
            key = "gloss_as_roughness" if _OPPOSITE.get(role) is got else "channels_exchanged"
            said = message_of("mirror_role", channels=letters, meant=role, taken=got)
            yield Difference("role", Severity.ERROR, said, key)


def _materials(files: Iterable[Mirrored]) -> dict[str, dict[Role, str]]:
    """What the engine would put into the material of each set: the first file of each role."""
    materials: dict[str, dict[Role, str]] = {}
    for file in files:
        if file.taken is None:
            continue
        name = file.meant.set if file.meant else file.path.rsplit("/", 1)[0]
        for role in file.taken.channels.values():
            materials.setdefault(name, {}).setdefault(role, file.path)
    return materials


def _broken_materials(root: Path) -> Iterable[Difference]:
    """glTF files that name pictures which are not there."""
    for path in sorted(root.rglob("*.gltf")):
        if _is_hidden(path.relative_to(root)):
            continue
        name = path.relative_to(root).as_posix()
        try:
            images = json.loads(path.read_text("utf-8")).get("images", [])
            wanted = [unquote(one["uri"]) for one in images if not one.get("uri", "data:").startswith("data:")]
        except (ValueError, AttributeError, TypeError, KeyError):
            yield Difference("material", Severity.ERROR, message_of("mirror_no_material", path=name))
            continue
        for uri in wanted:
            if not _is_inside(root, path.parent / uri) or not (path.parent / uri).is_file():
                yield Difference(
                    "material", Severity.ERROR, message_of("mirror_material_lacks", path=name, picture=uri)
                )
