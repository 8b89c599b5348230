"""Files whose names say nothing, or that stand beside no other map of their name: by content, as guesses."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import PurePosixPath

from texel.naming.tokens import Pack
from texel.roles import Role
from texel.sorting.habit import Meant
from texel.sorting.likelihood import BASE_SHARE, PACK_SHARE, of_look, pack_of_look
from texel.sorting.looks import Kind, Look
from texel.sorting.packs import channels_in_words, chosen_layout, likeliest_layouts
from texel.sorting.splitting import SplitName, generic_name

__all__ = ["NamelessSet", "nameless_sets", "single_role"]

_MOST_FILES = 8
_GUESS = 0.65
# How much better the best way of giving out roles must be than the best that gives a file another role, as a factor.
_CLEAR = 1.5

Roles = Sequence[tuple[SplitName, tuple[Role, ...]]]


@dataclass(frozen=True)
class NamelessSet:
    """A set proposed from a folder of names that say nothing. meant: for each file its role or layout, a confidence
    and the reason."""

    group: tuple[str, str]
    text: str
    meant: Mapping[str, tuple[Meant, float, str]]


def nameless_sets(
    alone: Iterable[tuple[SplitName, Look | None]], placed: Mapping[str, Roles]
) -> list[NamelessSet]:
    """A set for each folder with two to eight pictures of one shape whose names say nothing.

    placed: what names have decided, by folder; where that is one stem, the nameless files join it.
    """
    folders: dict[str, list[tuple[SplitName, Look]]] = defaultdict(list)
    odd: set[str] = set()
    for name, look in alone:
        if look is None or not generic_name(name.stem):
            odd.add(name.folder)
        else:
            folders[name.folder].append((name, look))
    found = []
    for folder, members in folders.items():
        there = placed.get(folder, ())
        stems = {name.stem for name, _ in there}
        if folder in odd or len(stems) > 1 or not 2 <= len(members) + len(there) <= _MOST_FILES:
            continue
        shapes = {round(math.log2(look.width / look.height), 1) for _, look in members}
        taken = {role for _, roles in there for role in roles}
        given = _given_out([look for _, look in members], taken) if len(shapes) == 1 else None
        if given is None:
            continue
        path = PurePosixPath(folder)
        stem = next(iter(stems), "")
        text = next((name.text for name, _ in there), "") if stem else path.name
        meant = {
            name.file: (meaning, _GUESS, f"a folder of names that say nothing; {_looks_like(look, meaning)}")
            for (name, look), meaning in zip(members, given, strict=True)
            if meaning is not None
        }
        found.append(NamelessSet((folder, stem), text, meant))
    return found


def _looks_like(look: Look, meaning: Meant) -> str:
    if isinstance(meaning, tuple):
        return f"packed: {channels_in_words(look, meaning)}"
    return f"it is {look.kind.value}"


def _given_out(looks: Sequence[Look], taken: set[Role]) -> list[Meant] | None:
    """The likeliest way to give each picture another meaning; None where there is no base colour or normal map among
    them, or where two look alike."""
    pack: Pack = ()
    packed = [look for look in looks if look.kind in (Kind.PACK, Kind.UNLIKE)]
    options: list[list[tuple[Meant, float]]] = []
    for look in looks:
        likely = of_look(look)
        mine: list[tuple[Meant, float]] = [
            (role, math.log(max(1e-6, likely[role] * BASE_SHARE[role])))
            for role in (Role.BASE_COLOR, Role.NORMAL, Role.EMISSIVE, Role.OCCLUSION, Role.ROUGHNESS, Role.METALLIC, Role.HEIGHT)
            if role not in taken
        ]
        if look in packed:
            guess = chosen_layout(likeliest_layouts([look]), [look])
            mine.append((guess.layout, math.log(max(1e-6, pack_of_look(look) * 3 * PACK_SHARE * guess.share))))
        # Left for a person.
        mine.append((None, math.log(2e-3)))
        options.append(mine)
    ranked = sorted(_ways(options), key=lambda way: -way[0])[:2]
    if not ranked:
        return None
    best = list(ranked[0][1])
    if Role.BASE_COLOR not in best and Role.BASE_COLOR not in taken:
        return None
    if sum(meaning is not None for meaning in best) + len(taken) < 2:
        return None
    return best


def _ways(options: Sequence[Sequence[tuple[Meant, float]]]) -> Iterable[tuple[float, tuple[Meant, ...]]]:
    """Ways to give out meanings, none twice and at most one pack, with their scores; of each picture only the best
    four meanings are tried."""
    short = [sorted(mine, key=lambda one: -one[1])[:4] for mine in options]
    for way in itertools.product(*short):
        meant = tuple(meaning for meaning, _ in way)
        given = [m for m in meant if m is not None]
        packs = [m for m in given if isinstance(m, tuple)]
        if len(set(given)) == len(given) and len(packs) <= 1:
            yield sum(score for _, score in way), meant


def single_role(
    name: SplitName, look: Look | None, sizes: set[tuple[int, int]]
) -> tuple[Meant, float, str] | None:
    """A single picture with a name of its own: the base colour of a set of its own, if it is coloured and has the shape
    of a texture. None where that is not likely enough to be proposed.

    sizes: those of the maps around it.
    """
    if look is None or not name.stem or generic_name(name.stem):
        return None
    square = all(side & (side - 1) == 0 for side in (look.width, look.height))
    if look.kind is Kind.NORMAL:
        return (Role.NORMAL, _GUESS, "no suffix, but its texels are vectors") if square else None
    if look.kind not in (Kind.COLOUR, Kind.UNLIKE) or not (square or (look.width, look.height) in sizes):
        return None
    return Role.BASE_COLOR, _GUESS, "a coloured picture with a name of its own and no other map beside it"
