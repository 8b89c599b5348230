"""Files into texture sets: by name first, by folder second, by pixel content third. Nothing is dropped."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from pathlib import PurePosixPath
from typing import Any

from texel.errors import TexelError
from texel.files import READABLE
from texel.library import Library
from texel.naming.tokens import ROLE_WORDS, NameParts, parse_name
from texel.roles import Green, Role, facts
from texel.sets import MapRef, TextureSet
from texel.sorting.content import Guess, guess_roles, is_coloured

__all__ = ["Sorted", "Undecided", "sort_files"]

_WEAK = 0.8
_BY_CONTENT = 0.75


@dataclass(frozen=True)
class Undecided:
    """A file that found no place. candidates: likeliest places, best first; why: the reason it was left."""

    file: str
    why: str
    candidates: tuple[dict[str, Any], ...] = ()

    def document(self) -> dict[str, Any]:
        return {"file": self.file, "why": self.why, "candidates": list(self.candidates)}


@dataclass
class Sorted:
    sets: list[TextureSet] = field(default_factory=list)
    undecided: list[Undecided] = field(default_factory=list)

    def document(self) -> dict[str, Any]:
        return {
            "sets": [s.document() for s in self.sets],
            "undecided": [u.document() for u in self.undecided],
        }


@dataclass
class _File:
    file: str
    parts: NameParts
    folder: str
    text: str
    key: str
    channels: str = ""
    why: str = ""
    layers: tuple[tuple[str, NameParts], ...] = ()

    @property
    def claims_role(self) -> bool:
        return self.parts.claims_role or bool(self.layers)


def _role_folder(name: str) -> bool:
    word = name.lower().replace("_", "").replace("-", "").replace(" ", "")
    singular = word.removesuffix("s")
    return any(w in ROLE_WORDS and ROLE_WORDS[w].sure > _WEAK for w in (word, singular))


def _place(file: str, root_name: str) -> _File:
    """A file's group: its folder without role folders ("normals/"), and its stem, else the folder's name."""
    path = PurePosixPath(file)
    folders = list(path.parts[:-1])
    while folders and _role_folder(folders[-1]):
        folders.pop()
    parts = parse_name(path.stem)
    text = parts.text
    if not text:
        text = folders.pop() if folders else root_name
    key = parts.stem or text.lower()
    return _File(file, parts, "/".join(folders), text, key)


def sort_files(library: Library, root_name: str = "set", on_file: Callable[[str], None] | None = None) -> Sorted:
    """Sort all files of ``library``.

    root_name: names the set of files that have nothing but a role as their name and no folder.
    on_file: called with each file's name before it is looked at, for progress; it may raise to stop.
    Files that cannot be read, or that found no place, are listed in ``undecided`` with the reason.
    """
    result = Sorted()
    groups: dict[tuple[str, str], list[_File]] = defaultdict(list)
    for file in library.files:
        if on_file:
            on_file(file)
        placed = _looked_at(library, file, root_name, result)
        if placed is not None:
            groups[placed.folder, placed.key].append(placed)
    _join_unnamed(library, groups, result)
    for members in groups.values():
        for some in _split_by_resolution(members):
            _build_set(library, some, result)
    _distinguish(result)
    result.sets.sort(key=lambda s: s.name.lower())
    result.undecided.sort(key=lambda u: u.file)
    return result


def _looked_at(library: Library, file: str, root_name: str, result: Sorted) -> _File | None:
    suffix = PurePosixPath(file).suffix.lower()
    if suffix not in READABLE:
        result.undecided.append(Undecided(file, f"not a picture that can be read ({suffix or 'no suffix'})"))
        return None
    try:
        probe = library.probe(file)
    except (TexelError, OSError) as error:
        result.undecided.append(Undecided(file, str(error)))
        return None
    placed = _place(file, root_name)
    if placed.parts.preview:
        result.undecided.append(Undecided(file, "its name says that it is a picture of the material, not a map"))
        return None
    placed.channels = probe.channels
    if not placed.parts.claims_role:
        # A layered picture is a set in one file: its layers' names say what they are.
        parsed = [(layer.name, parse_name(layer.name.rpartition(".")[2])) for layer in probe.layers]
        placed.layers = tuple((name, parts) for name, parts in parsed if parts.role is not None)
    return placed


def _content(library: Library, file: str) -> list[Guess]:
    try:
        return guess_roles(library.texels(file))
    except (TexelError, OSError):
        return []


def _join_unnamed(library: Library, groups: dict[tuple[str, str], list[_File]], result: Sorted) -> None:
    """Files without a role in their name: into the group with the same stem by content, else undecided."""
    for key, members in list(groups.items()):
        named = [m for m in members if m.claims_role]
        supported = len(named) > 1 or any(m.parts.sure > _WEAK or m.layers for m in named)
        for member in [m for m in members if not _stands_alone(library, m, supported)]:
            members.remove(member)
            guesses = _content(library, member.file)
            taken = {role for m in named if m is not member for role in _roles_of(m)}
            if not member.claims_role and supported and guesses and guesses[0].role not in taken:
                best = guesses[0]
                confidence = min(best.confidence, _BY_CONTENT)
                member.parts = replace(member.parts, role=best.role, sure=confidence)
                member.why = f"named like the set; {best.why}"
                members.append(member)
                continue
            near = next((k[1] for k in groups if k != key and member.key.startswith(k[1] + " ")), None)
            candidates = _candidates(member, guesses, key[1] if named else near)
            result.undecided.append(Undecided(member.file, _why_not(member), candidates))
        if not members:
            del groups[key]


def _stands_alone(library: Library, member: _File, supported: bool) -> bool:
    """Whether a name is enough: a sure word, or a weak one that others of the same stem support."""
    parts = member.parts
    if member.layers:
        return True
    if not parts.claims_role or (parts.pack and len(member.channels) < 3):
        return False
    if parts.sure > _WEAK or supported:
        scalar = parts.role is not None and facts(parts.role).channels == 1
        # A lone colour picture called "…_metal" shows metal; it does not say where metal is.
        return not (scalar and not supported and _is_colour_file(library, member))
    return False


def _is_colour_file(library: Library, member: _File) -> bool:
    if member.channels[0] == "y":
        return False
    try:
        return is_coloured(library.texels(member.file))
    except (TexelError, OSError):
        return False


def _roles_of(member: _File) -> tuple[Role, ...]:
    if member.layers:
        return tuple(parts.role for _, parts in member.layers if parts.role)
    return (member.parts.role,) if member.parts.role else tuple(role for _, role in member.parts.pack)


def _why_not(member: _File) -> str:
    if member.parts.pack and len(member.channels) < 3:
        return f"its name spells a packed file ({member.parts.word}), but it has {len(member.channels)} channel(s)"
    if member.parts.claims_role:
        return f'"{member.parts.word}" may name a role, but nothing else speaks for it'
    return "its name says no role"


def _candidates(member: _File, guesses: list[Guess], near: str | None) -> tuple[dict[str, Any], ...]:
    found = []
    for role in _roles_of(member)[:1]:
        found.append(Guess(role, member.parts.sure / 2, f'its name ends in "{member.parts.word}"'))
    for guess in guesses:
        if all(guess.role is not other.role for other in found):
            found.append(guess)
    return tuple(
        {"role": g.role.value, "set": near or member.text, "confidence": round(g.confidence, 3), "why": g.why}
        for g in sorted(found, key=lambda g: -g.confidence)[:3]
    )


def _split_by_resolution(members: list[_File]) -> Iterable[list[_File]]:
    """One group a resolution when any role comes in several named sizes; files that name none join the largest."""
    sizes = defaultdict(set)
    for member in members:
        for role in _roles_of(member):
            if member.parts.size:
                sizes[role, member.parts.green].add(member.parts.size)
    if not any(len(found) > 1 for found in sizes.values()):
        return [members]
    every = sorted({m.parts.size for m in members if m.parts.size})
    by_size = {size: [m for m in members if (m.parts.size or every[-1]) == size] for size in every}
    for size, some in by_size.items():
        for member in some:
            member.text = f"{member.text}_{size // 1024}k" if size % 1024 == 0 else f"{member.text}_{size}"
    return list(by_size.values())


def _build_set(library: Library, members: list[_File], result: Sorted) -> None:
    name = Counter(m.text for m in members).most_common(1)[0][0]
    found: list[MapRef] = []
    # Separate files before packed ones, Y+ before Y-: the first of a role is the one in use.
    members.sort(key=lambda m: (bool(m.parts.pack or m.layers), m.parts.green is Green.DOWN, -m.parts.sure, m.file))
    by_role: dict[Role, _File] = {}
    for member in members:
        clash = next(
            (by_role[r] for r in _roles_of(member) if r in by_role and not (member.parts.pack or member.layers)), None
        )
        if clash is not None and not _twins(clash, member):
            result.undecided.append(_left_over(library, clash, member, name))
            continue
        found += _refs(member)
        for role in _roles_of(member):
            by_role.setdefault(role, member)
    if found:
        result.sets.append(TextureSet(name, tuple(found)))


def _twins(first: _File, second: _File) -> bool:
    """The same normal map in both directions of green."""
    greens = {first.parts.green, second.parts.green}
    return first.parts.role is Role.NORMAL and greens in ({Green.UP, Green.DOWN}, {Green.UP, None}, {Green.DOWN, None})


def _left_over(library: Library, kept: _File, left: _File, name: str) -> Undecided:
    same = library.digest(kept.file) == library.digest(left.file)
    why = f"the same bytes as {kept.file}" if same else f"{kept.file} already has this role in the set {name}"
    candidates = tuple(
        {"role": role.value, "set": name, "confidence": round(left.parts.sure / 2, 3), "why": why}
        for role in _roles_of(left)
    )
    return Undecided(left.file, why, candidates)


def _refs(member: _File) -> list[MapRef]:
    parts = member.parts
    if member.layers:
        return [
            MapRef(one.role, member.file, None, one.sure, f'its layer is called "{name}"', layer=name)
            for name, one in member.layers
            if one.role
        ]
    said = member.why or f'its name says "{parts.word}"'
    if parts.green:
        said += f" and {parts.green.words}"
    if parts.role is not None:
        return [MapRef(parts.role, member.file, None, parts.sure, said)]
    return [
        MapRef(role, member.file, letter, parts.sure, f"{said}: {letter.upper()} holds {facts(role).label.lower()}")
        for letter, role in parts.pack
        if letter in member.channels
    ]


def _distinguish(result: Sorted) -> None:
    """Sets of one name get their folder's name behind it, or a number."""
    count = Counter(s.name.lower() for s in result.sets)
    used: set[str] = set()
    for index, one in enumerate(result.sets):
        name = one.name
        if count[name.lower()] > 1:
            folder = PurePosixPath(one.maps[0].file).parent.name
            name = f"{name}_{folder}" if folder and folder.lower() != name.lower() else name
        number = 2
        base = name
        while name.lower() in used:
            name, number = f"{base}_{number}", number + 1
        used.add(name.lower())
        result.sets[index] = TextureSet(name, one.maps)
