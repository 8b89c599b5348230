"""What a slot probably wears: read from the textures that the file mentions, and from the names of slot, part and file.

Names are read as those of textures are (texel.naming.tokens): words, without those that say nothing.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import NamedTuple

from texel.meshes.facts import MeshFacts
from texel.naming.tokens import parse_name, split_words

__all__ = ["SURE", "Candidate", "Names", "Proposal", "names_of", "propose"]

# Words of slots, parts and materials that name no surface (common practice).
_SAYS_NOTHING = frozenset(
    "mat material mtl m slot shader shading surface mesh geo geometry obj object model part group lambert phong blinn "
    "standard principled pbr default new initial sg shadinggroup static low high lod proxy the a of".split()
)
SURE, FLOOR = 0.8, 0.45
# How much a name counts that names something larger than the slot.
_PART, _FILE = 0.85, 0.5
_MOST = 3


@dataclass(frozen=True)
class Candidate:
    """Something that a slot can wear. key: of whoever asks. files: names of the files of its maps. also: other names
    that it goes by."""

    key: str
    name: str
    files: tuple[str, ...] = ()
    also: tuple[str, ...] = ()


@dataclass(frozen=True)
class Proposal:
    """key: of the candidate. share: 0 to 1, how likely; from 0.8 on it is sure. why: "texture", "slot", "part" or
    "file": what names it. word: the name or file that did."""

    key: str
    share: float
    why: str
    word: str


@dataclass(frozen=True)
class Names:
    """What a slot is known by. textures: files that its own material mentions."""

    slot: str
    parts: tuple[str, ...] = ()
    file: str = ""
    textures: tuple[str, ...] = ()


def names_of(facts: MeshFacts) -> list[Names]:
    """What each slot of a measured mesh is known by."""
    return [
        Names(one.name, one.parts, facts.name, tuple(file for _, file, _, _ in one.textures if file))
        for one in facts.slots
    ]


def propose(slots: Sequence[Names], candidates: Sequence[Candidate]) -> list[list[Proposal]]:
    """For each slot what it may wear, likeliest first, at most three; [] where no name says anything.

    >>> rope = Candidate("1", "mooring_rope", ("mooring_rope_bc.png",))
    >>> deck = Candidate("2", "Deck plate", ("dk_plate_albedo.png",))
    >>> slots = [Names("M_Rope_Mooring"), Names("lambert3", textures=("maps/dk_plate_albedo.tga",)), Names("glass")]
    >>> [[(one.key, one.why) for one in some[:1]] for some in propose(slots, [rope, deck])]
    [[('1', 'slot')], [('2', 'texture')], []]
    """
    known = [_known(one) for one in candidates]
    rarity = _rarity([*(words for one in known for words in one.names), *(_words(one.slot) for one in slots)])
    return [_ranked(one, known, rarity) for one in slots]


class _Known(NamedTuple):
    """A candidate as it is compared. files, stems, surfaces: names of its files whole, without ending, and without
    what their suffixes say."""

    key: str
    names: list[frozenset[str]]
    files: frozenset[str]
    stems: frozenset[str]
    surfaces: frozenset[str]


def _known(one: Candidate) -> _Known:
    files = frozenset(PurePosixPath(file).name.lower() for file in one.files)
    return _Known(
        one.key, [_words(name) for name in (one.name, *one.also)], files,
        frozenset(PurePosixPath(file).stem for file in files),
        frozenset(parse_name(file).stem for file in files) - {""},
    )  # fmt: skip


def _words(name: str) -> frozenset[str]:
    words = (word.lower() for word in split_words(name))
    # A lone number counts copies: "rope.001".
    return frozenset(word for word in words if word not in _SAYS_NOTHING and not word.isdigit())


def _rarity(names: Iterable[frozenset[str]]) -> dict[str, float]:
    """How much a word tells: one that many names have tells little (inverse document frequency, Spärck Jones 1972)."""
    all_names = list(names)
    counts = Counter(word for words in all_names for word in words)
    return {word: 1 + math.log(len(all_names) / count) for word, count in counts.items()}


def _ranked(slot: Names, candidates: Sequence[_Known], rarity: dict[str, float]) -> list[Proposal]:
    named = [("slot", slot.slot, _words(slot.slot), 1.0)]
    if len(slot.parts) <= _MOST:
        named += [("part", part, _words(part), _PART) for part in slot.parts]
    named.append(("file", slot.file, _words(PurePosixPath(slot.file).stem), _FILE))
    textures = [_texture(one) for one in slot.textures]
    best = []
    for one in candidates:
        told = [share for texture in textures if (share := _by_texture(texture, one)) is not None]
        told += [
            Proposal(one.key, share * max(_alike(words, names, rarity) for names in one.names), why, word)
            for why, word, words, share in named
            if any(words & names for names in one.names)
        ]
        if told:
            best.append(max(told, key=lambda proposal: proposal.share))
    likely = sorted((one for one in best if one.share >= FLOOR), key=lambda one: -one.share)
    if len(likely) > 1 and likely[0].share - likely[1].share < 1e-9:
        # Two that fit equally well are a question, never an answer.
        likely = [Proposal(one.key, min(one.share, SURE - 0.05), one.why, one.word) for one in likely]
    return likely[:_MOST]


class _Texture(NamedTuple):
    written: str
    name: str
    stem: str
    surface: str
    words: frozenset[str]


def _texture(written: str) -> _Texture:
    name = PurePosixPath(written.replace("\\", "/")).name.lower()
    surface = parse_name(name).stem
    return _Texture(written, name, PurePosixPath(name).stem, surface, _words(surface))


def _by_texture(texture: _Texture, one: _Known) -> Proposal | None:
    """A file that the slot's own material names, against those of the candidate: whole, by stem, or without what their
    suffixes say; else against its name."""
    if texture.name in one.files:
        share = 0.98
    elif texture.stem in one.stems:
        share = 0.95
    elif texture.surface in one.surfaces:
        share = 0.9
    elif texture.words and texture.words in one.names:
        share = 0.85
    else:
        return None
    return Proposal(one.key, share, "texture", texture.written)


def _alike(slot: frozenset[str], candidate: frozenset[str], rarity: dict[str, float]) -> float:
    """Twice the weight of the words that both have, over the weight of all (Dice 1945)."""
    both = sum(rarity.get(word, 1.0) for word in slot & candidate)
    total = sum(rarity.get(word, 1.0) for word in (*slot, *candidate))
    return 0.95 * 2 * both / total if total else 0.0
