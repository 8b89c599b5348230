"""Files whose names say nothing, or that stand beside no other map of their name: by content, as guesses."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import PurePosixPath

from texel.messages import message_of
from texel.roles import Role
from texel.sorting.habit import Meant
from texel.sorting.likelihood import of_look, pack_of_look
from texel.sorting.looks import Kind, Look
from texel.sorting.packs import channels_in_words, chosen_layout, likeliest_layouts
from texel.sorting.splitting import SplitName, generic_name
from texel.wording import because

__all__ = ["NamelessSet", "nameless_sets", "single_role"]

_MAX_FILES = 8
_GUESS = 0.65
# How many of a hundred unnamed sets have a map of the role (common practice of files that carry their textures inside).
_SHARES = {
    Role.BASE_COLOR: 0.95, Role.NORMAL: 0.8, Role.EMISSIVE: 0.3, Role.OCCLUSION: 0.15, Role.ROUGHNESS: 0.12,
    Role.METALLIC: 0.08, Role.HEIGHT: 0.04,
}  # fmt: skip
_PACK = 0.6
# What a pack holds already is seldom there once more.
_PACKED, _SELDOM = (Role.OCCLUSION, Role.ROUGHNESS, Role.METALLIC, Role.HEIGHT), 0.2
_LEFT_OVER = 2e-4
# A role is considered for a picture that looks at least this share as likely in it as in its likeliest one.
_NOT_ABSURD = 0.2

Roles = Sequence[tuple[SplitName, tuple[Role, ...]]]


@dataclass(frozen=True)
class NamelessSet:
    """A set proposed from a folder of names that say nothing. meant: for each file its role or layout, a confidence
    and the reason."""

    group: tuple[str, str]
    text: str
    meant: Mapping[str, tuple[Meant, float, str]]


def nameless_sets(alone: Iterable[tuple[SplitName, Look | None]], placed: Mapping[str, Roles]) -> list[NamelessSet]:
    """A set for each folder with two to eight pictures of one shape whose names say nothing.

    placed: what names have decided, by folder; where that is one stem without a base colour, the
    nameless files join it.
    """
    folders: dict[str, list[tuple[SplitName, Look]]] = defaultdict(list)
    odd: set[str] = set()
    for name, look in alone:
        if look is None or not generic_name(name.stem):
            odd.add(name.folder)
        else:
            folders[name.folder].append((name, look))
    sets = []
    for folder, members in folders.items():
        there = placed.get(folder, ())
        stems = {name.stem for name, _ in there}
        if folder in odd or len(stems) > 1 or not 2 <= len(members) + len(there) <= _MAX_FILES:
            continue
        shapes = {round(math.log2(look.width / look.height), 1) for _, look in members}
        taken = {role for _, roles in there for role in roles}
        if Role.BASE_COLOR in taken:
            continue
        given = _given_out([look for _, look in members], taken) if len(shapes) == 1 else None
        if given is None:
            continue
        path = PurePosixPath(folder)
        stem = next(iter(stems), "")
        text = next((name.text for name, _ in there), "") if stem else path.name
        meant = {
            name.file: (meaning, _GUESS, because(message_of("why_nameless"), _looks_like(look, meaning)))
            for (name, look), meaning in zip(members, given, strict=True)
            if meaning is not None
        }
        sets.append(NamelessSet((folder, stem), text, meant))
    return sets


def _looks_like(look: Look, meaning: Meant) -> str:
    if isinstance(meaning, tuple):
        return because(message_of("why_packed"), channels_in_words(look, meaning), between=": ")
    return message_of("why_is_kind", kind=look.kind)


def _given_out(looks: Sequence[Look], taken: set[Role]) -> list[Meant] | None:
    """The likeliest way to give each picture another meaning, one of them the base colour; None where a picture in
    colour, or more than one picture, would be left over: then they are not the maps of one surface."""
    packed = [look.kind in (Kind.PACK, Kind.UNLIKE) for look in looks]
    in_pack = any(packed) or Role.ROUGHNESS in taken
    options: list[list[tuple[Meant, float]]] = []
    for look, is_pack in zip(looks, packed, strict=True):
        likely = of_look(look)
        least = max(likely[role] for role in _SHARES) * _NOT_ABSURD
        mine: list[tuple[Meant, float]] = [
            (role, math.log(max(1e-6, likely[role] * share * (_SELDOM if in_pack and role in _PACKED else 1.0))))
            for role, share in _SHARES.items()
            if role not in taken and (role is Role.BASE_COLOR or likely[role] >= least)
        ]
        if is_pack:
            guess = chosen_layout(likeliest_layouts([look]), [look])
            mine.append((guess.layout, math.log(max(1e-6, pack_of_look(look) * _PACK * guess.share))))
        mine.append((None, math.log(_LEFT_OVER)))
        options.append(mine)
    ways = (way for way in _ways(options) if Role.BASE_COLOR in way[1] or Role.BASE_COLOR in taken)
    best = max(ways, key=lambda way: way[0], default=None)
    if best is None:
        return None
    left = [look for look, meaning in zip(looks, best[1], strict=True) if meaning is None]
    if len(left) > 1 or any(look.kind is Kind.COLOUR for look in left) or len(looks) - len(left) + len(taken) < 2:
        return None
    return list(best[1])


def _ways(options: Sequence[Sequence[tuple[Meant, float]]]) -> Iterable[tuple[float, tuple[Meant, ...]]]:
    """Ways to give out meanings, none twice and at most one pack, with their scores; of each picture only the best
    five meanings are tried."""
    short = [sorted(mine, key=lambda one: -one[1])[:5] for mine in options]
    for way in itertools.product(*short):
        meant = tuple(meaning for meaning, _ in way)
        given = [m for m in meant if m is not None]
        packs = [m for m in given if isinstance(m, tuple)]
        if len(set(given)) == len(given) and len(packs) <= 1:
            yield sum(score for _, score in way), meant


def single_role(name: SplitName, look: Look | None, sizes: set[tuple[int, int]]) -> tuple[Meant, float, str] | None:
    """A single picture with a name of its own: the base colour of a set of its own, if it is coloured and has the shape
    of a texture. None where that is not likely enough to be proposed.

    sizes: those of the maps around it.
    """
    if look is None or not name.stem or generic_name(name.stem):
        return None
    square = all(side & (side - 1) == 0 for side in (look.width, look.height))
    if look.kind is Kind.NORMAL:
        return (Role.NORMAL, _GUESS, message_of("why_only_vectors")) if square else None
    if look.kind not in (Kind.COLOUR, Kind.UNLIKE) or not (square or (look.width, look.height) in sizes):
        return None
    return Role.BASE_COLOR, _GUESS, message_of("why_only_colour")
