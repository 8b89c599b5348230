"""Variants: surfaces that differ in colour and share their other maps (base1a, base1b, base1c beside base1_n)."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

from texel.messages import message_of
from texel.roles import Role
from texel.sorting.looks import Look

__all__ = ["Group", "Shared", "parent_stems", "share_maps"]

# A letter behind a number, a number, or a single letter or number as a word of its own.
_VARIANT = re.compile(r"^(?:(.+\d)[a-z]|(.*[^\d ]) ?\d{1,3}|(.+) (?:[a-z]|\d{1,3}))$")
# Correlation of edges above which two colour maps are taken for two paintings of one surface.
_ONE_SURFACE = 0.6
_FROM_PARENT, _FROM_SIBLING, _FROM_LIKE = 0.9, 0.7, 0.65


@dataclass
class Group:
    """Files of one stem in one folder, by role. base: the file of its base colour."""

    folder: str
    stem: str
    files: dict[Role, str] = field(default_factory=dict)

    @property
    def base(self) -> str | None:
        return self.files.get(Role.BASE_COLOR)


@dataclass(frozen=True)
class Shared:
    """A map that a set uses, though its name belongs to another stem. why: the reason in words."""

    role: Role
    file: str
    confidence: float
    why: str


def parent_stems(stem: str) -> list[str]:
    """The stems of which this one may be a variant, nearest first.

    >>> parent_stems("base1a"), parent_stems("bricks2"), parent_stems("glow color 01"), parent_stems("tile")
    (['base1', 'base'], ['bricks'], ['glow color'], [])
    """
    stems: list[str] = []
    while (match := _VARIANT.match(stem)) is not None and len(stems) < 2:
        stem = next(part for part in match.groups() if part is not None).strip()
        stems.append(stem)
    return stems


def share_maps(
    groups: Mapping[tuple[str, str], Group], look: Callable[[str], Look | None]
) -> tuple[dict[tuple[str, str], list[Shared]], set[tuple[str, str]]]:
    """Which maps each group may use of others, and the groups that are nothing but shared maps.

    A group without a base colour lends all its maps to the variants of its stem. Otherwise a group that has a base
    colour and nothing else borrows from a variant of the same stem, if the two show one surface.
    """
    lent: dict[tuple[str, str], list[Shared]] = {}
    only_shared: set[tuple[str, str]] = set()
    variants = _variants(groups)
    for key, members in variants.items():
        parent = groups.get(key)
        if parent is not None and parent.base is None and parent.files:
            only_shared.add(key)
            for member in members:
                lent[member] = _borrowed(groups[member], parent, [groups[m] for m in members if m != member])
        else:
            relatives = [groups[m] for m in members] + ([parent] if parent is not None else [])
            for member in members:
                alike = _like(groups[member], relatives, look)
                if alike:
                    lent.setdefault(member, alike)
    return lent, only_shared


def _variants(groups: Mapping[tuple[str, str], Group]) -> dict[tuple[str, str], list[tuple[str, str]]]:
    """Groups with a base colour, by the stem of which they may be variants: one that has maps, else the nearest."""
    variants: dict[tuple[str, str], list[tuple[str, str]]] = {}
    for (folder, stem), group in groups.items():
        if group.base is None:
            continue
        above = [(folder, parent) for parent in parent_stems(stem)]
        known = [key for key in above if key in groups and groups[key].files]
        chosen = known[0] if known else above[0] if above else _starts_with(groups, folder, stem)
        if chosen is not None:
            variants.setdefault(chosen, []).append((folder, stem))
    return variants


def _starts_with(groups: Mapping[tuple[str, str], Group], folder: str, stem: str) -> tuple[str, str] | None:
    """ship red and ship blue beside ship_n: a stem that has maps but no colour, and begins this one."""
    words = stem.split(" ")
    for count in range(len(words) - 1, 0, -1):
        key = (folder, " ".join(words[:count]))
        if key in groups and groups[key].base is None and groups[key].files:
            return key
    return None


def _borrowed(group: Group, parent: Group, siblings: Iterable[Group]) -> list[Shared]:
    borrowed = [
        Shared(role, file, _FROM_PARENT, message_of("why_of_variants", set=parent.stem))
        for role, file in parent.files.items()
        if role not in group.files
    ]
    others: dict[Role, list[str]] = {}
    for sibling in siblings:
        for role, file in sibling.files.items():
            others.setdefault(role, []).append(file)
    for role, files in others.items():
        # Only one variant has it, so it may be meant for all.
        if role not in group.files and role not in parent.files and len(set(files)) == 1:
            borrowed.append(Shared(role, files[0], _FROM_SIBLING, message_of("why_only_of_variants", set=parent.stem)))
    return borrowed


def _like(group: Group, relatives: Iterable[Group], look: Callable[[str], Look | None]) -> list[Shared]:
    if set(group.files) != {Role.BASE_COLOR} or group.base is None:
        return []
    mine = look(group.base)
    best, most = None, _ONE_SURFACE
    for other in relatives:
        if other is group or other.base is None or len(other.files) < 2 or mine is None:
            continue
        theirs = look(other.base)
        if theirs is None or (theirs.width, theirs.height) != (mine.width, mine.height):
            continue
        alike = mine.resembles(theirs)
        if alike > most:
            best, most = other, alike
    if best is None:
        return []
    why = message_of("why_same_surface", set=best.stem, correlation=most)
    return [Shared(r, file, _FROM_LIKE, why) for r, file in best.files.items() if r is not Role.BASE_COLOR]
