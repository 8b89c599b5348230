"""Placed files put together as sets: by folder and stem, one set a resolution, variants with maps that they share."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import Any, NamedTuple

from texel.library import Library
from texel.messages import message_of
from texel.naming.tokens import NameParts, Pack
from texel.roles import Green, Role
from texel.sets import MapRef, TextureSet
from texel.sorting.families import Group, Shared, share_maps
from texel.sorting.habit import Meant
from texel.sorting.looks import Look
from texel.sorting.splitting import SplitName
from texel.wording import because, reason_fields

__all__ = ["Assembled", "LeftOver", "Placed", "assemble"]


@dataclass
class Placed:
    """A readable file on its way into a set.

    name: how its folder explains its name. channels: letters of its picture. layers: pictures within it whose names say
    roles. meant: its role or layout, once that is decided (placed), with confidence, 0 to 1, and the reason in words.
    text: what its set is called.
    """

    name: SplitName
    channels: str
    layers: tuple[tuple[str, NameParts], ...] = ()
    meant: Meant = None
    placed: bool = False
    confidence: float = 0.0
    why: str = ""
    text: str = ""

    @property
    def file(self) -> str:
        return self.name.file

    @property
    def roles(self) -> tuple[Role, ...]:
        if self.layers:
            return tuple(parts.role for _, parts in self.layers if parts.role)
        if isinstance(self.meant, Role):
            return (self.meant,)
        return tuple(role for _, role in self.meant or ())

    @property
    def packed(self) -> bool:
        return bool(self.layers) or isinstance(self.meant, tuple)


class LeftOver(NamedTuple):
    """A file whose role another file of its set has already. candidates: as in texel.sorting.Undecided."""

    file: Placed
    why: str
    candidates: tuple[dict[str, Any], ...]


@dataclass
class Assembled:
    sets: list[TextureSet] = field(default_factory=list)
    left: list[LeftOver] = field(default_factory=list)


def assemble(
    files: Iterable[Placed], library: Library, look: Callable[[str], Look | None], root_name: str
) -> Assembled:
    """Sets of placed files: grouped by folder and stem, parted by resolution, variants with the maps that they share.

    look: what a file looks like. root_name: names the set of files that are nothing but a role, at the top.
    """
    result = Assembled()
    grouped: dict[tuple[str, str], list[Placed]] = defaultdict(list)
    for one in files:
        one.text = one.text or one.name.text
        folder, stem = one.name.group
        if not stem:
            # Nothing but a role: the folder is the name.
            path = PurePosixPath(folder)
            one.text = path.name or root_name
            folder, stem = str(path.parent) if folder else "", one.text.lower()
        grouped[folder, stem].append(one)
    lenders = {one.file: one for some in grouped.values() for one in some}
    lent, only_shared = _shared(grouped, look)
    for key, members in grouped.items():
        if key in only_shared:
            continue
        for some in _split_by_case(members):
            for sized in _split_by_resolution(some):
                _build_set(sized, lent.get(key, []), lenders, library, result)
    _distinguish(result)
    return result


def _shared(
    grouped: dict[tuple[str, str], list[Placed]], look: Callable[[str], Look | None]
) -> tuple[dict[tuple[str, str], list[Shared]], set[tuple[str, str]]]:
    groups = {}
    for key, members in grouped.items():
        group = Group(key[0], key[1])
        for one in sorted(members, key=lambda m: (m.packed, -m.confidence, m.file)):
            for role in one.roles:
                group.files.setdefault(role, one.file)
        groups[key] = group
    return share_maps(groups, look)


def _build_set(
    members: list[Placed], shared: list[Shared], lenders: Mapping[str, Placed], library: Library, result: Assembled
) -> None:
    name = Counter(m.text for m in members).most_common(1)[0][0]
    maps: list[MapRef] = []
    # Separate files before packed ones, Y+ before Y-: the first of a role is the one in use.
    members.sort(key=lambda m: (m.packed, m.name.green is Green.DOWN, -m.confidence, m.file))
    by_role: dict[Role, Placed] = {}
    for member in members:
        clash = next((by_role[r] for r in member.roles if r in by_role and not member.packed), None)
        if clash is not None and not _both_directions(clash, member):
            result.left.append(_left_over(clash, member, name, library))
            continue
        maps += _refs(member)
        for role in member.roles:
            by_role.setdefault(role, member)
    for one in shared:
        if one.role not in by_role:
            maps += [
                MapRef(ref.role, ref.file, ref.channel, min(one.confidence, ref.confidence), one.why, layer=ref.layer)
                for ref in _refs(lenders[one.file])
                if ref.role is one.role
            ]
    if maps:
        result.sets.append(TextureSet(name, tuple(maps)))


def _left_over(kept: Placed, left: Placed, name: str, library: Library) -> LeftOver:
    same = library.digest(kept.file) == library.digest(left.file)
    why = message_of("why_same_bytes", file=kept.file)
    if not same:
        why = message_of("why_role_taken", file=kept.file, set=name)
    candidates = tuple(
        {"role": role.value, "set": name, "confidence": round(left.confidence / 2, 3), **reason_fields(why)}
        for role in left.roles
    )
    return LeftOver(left, why, candidates)


def _split_by_case(members: list[Placed]) -> Iterable[list[Placed]]:
    """Names that differ in capitals alone are two sets where both hold a role (Brick_c beside brick_c)."""
    texts = defaultdict(list)
    for one in members:
        texts[one.text].append(one)
    counts = Counter(role for some in texts.values() for role in {r for one in some for r in one.roles})
    clash = len(texts) > 1 and any(count > 1 for count in counts.values())
    same_letters = len({text.lower() for text in texts}) == 1
    return list(texts.values()) if clash and same_letters else [members]


def _split_by_resolution(members: list[Placed]) -> Iterable[list[Placed]]:
    """One group a resolution when any role comes in several named sizes; files that name none join the largest."""
    sizes = defaultdict(set)
    for member in members:
        for role in member.roles:
            if member.name.size:
                sizes[role, member.name.green].add(member.name.size)
    if not any(len(placed) > 1 for placed in sizes.values()):
        return [members]
    every = sorted({m.name.size for m in members if m.name.size})
    by_size = {size: [m for m in members if (m.name.size or every[-1]) == size] for size in every}
    for size, some in by_size.items():
        for member in some:
            member.text = f"{member.text}_{size // 1024}k" if size % 1024 == 0 else f"{member.text}_{size}"
    return list(by_size.values())


def _both_directions(first: Placed, second: Placed) -> bool:
    """The same normal map in both directions of green."""
    greens = {first.name.green, second.name.green}
    pairs = ({Green.UP, Green.DOWN}, {Green.UP, None}, {Green.DOWN, None})
    return first.meant is Role.NORMAL and second.meant is Role.NORMAL and greens in pairs


def _refs(member: Placed) -> list[MapRef]:
    if member.layers:
        return [
            MapRef(one.role, member.file, None, one.sure, message_of("why_layer", layer=name), layer=name)
            for name, one in member.layers
            if one.role
        ]
    if isinstance(member.meant, Role):
        return [MapRef(member.meant, member.file, None, member.confidence, member.why)]
    layout: Pack = member.meant or ()
    return [
        MapRef(
            role, member.file, letter or None, member.confidence,
            because(member.why, message_of("why_channel", channel=letter.upper() or "RGB", role=role), between=": "),
        )
        for letter, role in layout
        if not letter or letter in member.channels
    ]  # fmt: skip


def _distinguish(result: Assembled) -> None:
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
