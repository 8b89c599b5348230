"""File names of one folder split into what they share (the stem) and what tells the role (the affix).

A name alone can be split in many places. What decides is the folder: the longest stem that other files share, and an
affix that other stems have too, or that the trade knows.
"""

from __future__ import annotations

import itertools
import math
import re
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import NamedTuple

from texel.naming.meanings import readings
from texel.naming.tokens import (
    ROLE_WORDS,
    before_role,
    qualifiers,
    spell_roles,
    spell_signs,
    words_with_places,
    written_as_one,
)  # fmt: skip
from texel.roles import Green

__all__ = ["Affix", "SplitName", "generic_name", "split_names"]


class Affix(NamedTuple):
    """The part of names that tells a role. word: its letters in lower case, "" for a bare name. where: "end", "start",
    or "folder" for a folder that is named for a role."""

    word: str
    where: str = "end"


BARE = Affix("")


@dataclass(frozen=True)
class SplitName:
    """One file's name as its folder explains it.

    folder: its folder without one that is named for a role. stem: what it shares with the other maps of its set, words
    in lower case, "" for a name that is nothing but a role. text: the stem as written. written: the affix as written,
    with the mark before it. size, green, preview: as in texel.naming.tokens.NameParts.
    """

    file: str
    folder: str
    stem: str
    text: str
    affix: Affix
    written: str
    size: int | None = None
    green: Green | None = None
    preview: bool = False

    @property
    def group(self) -> tuple[str, str]:
        return self.folder, self.stem


@dataclass
class _Name:
    """A name in words, its qualifiers taken off the end."""

    file: str
    folder: str
    name: str
    words: list[tuple[str, int, int]]
    size: int | None
    green: Green | None
    preview: bool
    role_folder: str
    candidates: list[_Candidate] = field(default_factory=list)


class _Candidate(NamedTuple):
    stem: str
    start: int
    end: int
    affix: Affix
    words: int
    size: int | None = None
    green: Green | None = None
    number: tuple[str, int, int] | None = None


_LONGEST_AFFIX = 4
_LONGEST_GLUED = 10
_GENERIC = set(
    "image img picture pic photo texture tex map material mat default defaultmaterial untitled unnamed new bitmap "
    "baked bake output out file layer dsc dscn pxl screenshot scan".split()
)


def generic_name(stem: str) -> bool:
    """Whether a stem says nothing: a word like "image", a number, or both.

    >>> generic_name("image 0"), generic_name("map 1 0"), generic_name("tile01")
    (True, True, False)
    """
    words = [word for word in re.split(r"[^a-z]+", stem.lower()) if word]
    return all(word in _GENERIC for word in words)


def role_folder(name: str, taught: Collection[str] = ()) -> str:
    """The affix that a folder's name spells ("normals" -> "normal"), "" where it spells none. taught: folders' names,
    letters in lower case, that a person gave a meaning.

    >>> role_folder("Occlusions"), role_folder("crates"), role_folder("crates", {"crates"})
    ('occlusion', '', 'crates')
    """
    word = re.sub(r"[\s_\-]+", "", name.lower())
    if word in taught:
        return word
    for one in (word, word.removesuffix("s"), word.removesuffix("maps"), word.removesuffix("map")):
        if len(one) > 1 and one in ROLE_WORDS and ROLE_WORDS[one].sure > 0.8:
            return one
    return ""


def split_names(
    files: Iterable[str], taught: Collection[Affix] = (), names: Mapping[str, str] | None = None
) -> dict[str, SplitName]:
    """Split the names of all files, folder by folder.

    files: paths with "/". taught: affixes that a person gave a meaning; they split wherever they stand. names: what to
    read in place of a file's own name.

    >>> found = split_names(["tile01.png", "tile01_qx.png", "tile02.png", "tile02_qx.png"])
    >>> [(one.stem, one.affix.word) for one in found.values()]
    [('tile01', ''), ('tile01', 'qx'), ('tile02', ''), ('tile02', 'qx')]
    """
    folders_taught = {affix.word for affix in taught if affix.where == "folder"}
    read = [_read(file, (names or {}).get(file), folders_taught) for file in files]
    folders: dict[str, list[_Name]] = defaultdict(list)
    for one in read:
        folders[one.folder].append(one)
    for members in folders.values():
        _propose(members, taught)
    shared = _Shares(read)
    return {one.file: _chosen(one, shared, taught) for one in read}


def _read(file: str, name: str | None, taught: Collection[str]) -> _Name:
    path = PurePosixPath(file)
    folders = list(path.parts[:-1])
    inner = ""
    while folders and (word := role_folder(folders[-1], taught)):
        inner = inner or word
        folders.pop()
    stem = spell_signs(name if name is not None else path.stem)
    words = words_with_places(stem)
    rest, size, green, preview = qualifiers([word for word, _, _ in words])
    return _Name(file, "/".join(folders), stem, words[: len(rest)], size, green, preview, inner)


def _joined(words: Iterable[tuple[str, int, int]]) -> str:
    return re.sub(r"[^\w]", "", "".join(word for word, _, _ in words).lower())


def _spaced(words: list[tuple[str, int, int]]) -> str:
    """A stem's key: its words in lower case without sizes, which may stand before the role as well as behind it."""
    kept = [word for word, _, _ in words if not qualifiers([word])[1]]
    return " ".join(word.lower() for word in kept)


def _propose(members: list[_Name], taught: Collection[Affix]) -> None:
    bare = {_spaced(one.words) for one in members}
    for one in members:
        count = len(one.words)
        end = one.words[-1][2] if count else 0
        one.candidates = [_Candidate(_spaced(one.words), 0, end, BARE, 0)] if count else []
        for used in range(1, min(_LONGEST_AFFIX, count) + 1):
            affix = Affix(_joined(one.words[-used:]))
            if affix.word.isdigit() or not affix.word:
                continue
            before = one.words[:-used]
            kept, size, green = before_role([word for word, _, _ in before])
            until = before[kept - 1][2] if kept else 0
            one.candidates.append(_Candidate(_spaced(before[:kept]), 0, until, affix, used, size, green))
        one.candidates += _number_last(one)
        for used in range(1, min(2, count - 1) + 1):
            affix = Affix(_joined(one.words[:used]), "start")
            if not affix.word.isdigit() and (affix in taught or _known(affix.word) >= 0.7):
                after = one.words[used:]
                one.candidates.append(_Candidate(_spaced(after), after[0][1], end, affix, used))
    stems = bare | {
        c.stem for one in members for c in one.candidates if c.affix.where == "end" and _known(c.affix.word)
    }
    for one in members:
        one.candidates += _glued(one, stems)
    _leave_variants_whole(members, bare, taught)


def _number_last(one: _Name) -> list[_Candidate]:
    """Splits of rock_Albedo_01: the number belongs to the stem."""
    if len(one.words) < 3 or not one.words[-1][0].isdigit():
        return []
    candidates = []
    for used in range(1, min(_LONGEST_AFFIX, len(one.words) - 2) + 1):
        before, word = one.words[: -used - 1], _joined(one.words[-used - 1 : -1])
        if _known(word) >= 0.4:
            stem = f"{_spaced(before)} {one.words[-1][0]}"
            candidates.append(_Candidate(stem, 0, before[-1][2], Affix(word), used, number=one.words[-1]))
    return candidates


def _glued(one: _Name, stems: Collection[str]) -> list[_Candidate]:
    """Splits within the last word: tile01n beside tile01, tilenrm beside tile."""
    if not one.words:
        return []
    word, start, _ = one.words[-1]
    before = _spaced(one.words[:-1])
    candidates = []
    for length in range(1, min(len(word) - 1, _LONGEST_GLUED) + 1):
        head, tail = word[:-length], word[-length:]
        stem = f"{before} {head.lower()}".strip()
        after_number = head[-1].isdigit() and tail.isalpha() and length <= 3
        beside = stem in stems and (length <= 3 or _known(tail.lower()) > 0.8)
        if tail.isalpha() and (beside or after_number):
            candidates.append(_Candidate(stem, 0, start + len(head), Affix(tail.lower()), 1))
    return candidates


def _leave_variants_whole(members: list[_Name], bare: Collection[str], taught: Collection[Affix]) -> None:
    """base1a, base1b, base1c beside base1_n are variants, not roles: letters that run on from a (from b, where there is
    a base1 as well), while roles stand behind a mark."""
    letters: dict[str, set[str]] = defaultdict(set)
    marked: set[str] = set()
    for one in members:
        for candidate in one.candidates:
            if _is_glued(one, candidate):
                if len(candidate.affix.word) == 1:
                    letters[candidate.stem].add(candidate.affix.word)
            elif candidate.affix != BARE and _known(candidate.affix.word):
                marked.add(candidate.stem)
    runs = {
        stem
        for stem, variants in letters.items()
        if (stem in marked or len(variants) > 2) and _run_on(variants, "b" if stem in bare else "a")
    }
    for one in members:
        one.candidates = [
            c
            for c in one.candidates
            if not (_is_glued(one, c) and c.stem in runs and len(c.affix.word) == 1) or c.affix in taught
        ]


def _run_on(letters: Collection[str], first: str) -> bool:
    wanted = {chr(ord(first) + at) for at in range(len(letters))}
    return set(letters) == wanted


def _is_glued(one: _Name, candidate: _Candidate) -> bool:
    if not one.words or candidate.affix == BARE or candidate.affix.where != "end":
        return False
    return candidate.end > one.words[-1][1]


def _known(word: str) -> float:
    return max((one.share for one in readings(word)), default=0.0)


def _beside(affix: Affix, other: Affix) -> bool:
    """Whether another affix is one of its own, not the same with more words before or behind it: beside rusty and
    rusty_n stands no "metal" of rusty_metal and rusty_metal_n."""
    if affix == other or affix.where != other.where:
        return affix != other
    if not affix.word or not other.word:
        return True
    return not (other.word.startswith(affix.word) or affix.word.startswith(other.word)) or len(affix.word) == 1


class _Shares:
    """How many files of a folder could share a stem, and how many shared stems an affix stands behind."""

    def __init__(self, names: list[_Name]):
        self._files: dict[tuple[str, str], dict[Affix, int]] = defaultdict(lambda: defaultdict(int))
        for one in names:
            for candidate in one.candidates:
                self._files[one.folder, candidate.stem][candidate.affix] += 1
        self._stems: dict[Affix, int] = defaultdict(int)
        for affixes in self._files.values():
            for affix in affixes:
                if any(_beside(affix, other) for other in affixes):
                    self._stems[affix] += 1

    def siblings(self, one: _Name, candidate: _Candidate) -> int:
        """Other affixes behind the same stem; more than two are not counted."""
        return sum(1 for _ in itertools.islice(self.affixes(one, candidate), 3))

    def affixes(self, one: _Name, candidate: _Candidate) -> Iterable[Affix]:
        there = self._files[one.folder, candidate.stem]
        return (affix for affix in there if _beside(candidate.affix, affix))

    def stems(self, affix: Affix) -> int:
        return self._stems[affix]


def _chosen(one: _Name, shared: _Shares, taught: Collection[Affix]) -> SplitName:
    best = max(one.candidates, key=lambda c: _worth(one, c, shared, taught), default=None)
    if best is None:
        return SplitName(one.file, one.folder, "", "", BARE, "", one.size, one.green, one.preview)
    if best.affix == BARE and one.role_folder:
        affix, written = Affix(one.role_folder, "folder"), one.role_folder + "/"
    elif best.affix == BARE:
        affix, written = BARE, ""
    elif best.affix.where == "start":
        affix, written = best.affix, one.name[: best.start]
    elif best.number is not None:
        affix, written = best.affix, one.name[best.end : one.words[-2][2]]
    else:
        last = one.words[-1][2]
        start = one.words[-best.words][1]
        # Within the last word the affix begins where the stem ends.
        mark = best.end if best.end > start else max(best.end, start - 1)
        affix, written = best.affix, one.name[mark:last]
    text = one.name[best.start : best.end]
    if best.number is not None:
        text += one.name[best.number[1] - 1 : best.number[2]]
    return SplitName(
        one.file, one.folder, best.stem, text, affix, written, one.size or best.size,
        one.green or best.green, one.preview,
    )  # fmt: skip


def _worth(one: _Name, candidate: _Candidate, shared: _Shares, taught: Collection[Affix]) -> float:
    """How well a split explains the name. The numbers only rank: a known word counts most, then how many stems have the
    affix, then the longer stem."""
    affix = candidate.affix
    siblings = shared.siblings(one, candidate)
    if affix in taught:
        return 10.0 - 0.05 * candidate.words
    if affix == BARE:
        # Its own name is the stem of others, and what they have behind it is an affix: known, or used by other stems.
        others = [other for other in shared.affixes(one, candidate) if other.where == "end"]
        backed = any(_known(other.word) >= 0.4 or shared.stems(other) > 1 for other in others)
        return 2.6 if backed else 0.8 if others else 0.6
    known = _known(affix.word)
    if candidate.number is not None and not siblings:
        return 0.0
    if affix.where == "start" and not (siblings and known >= 0.7) and known < 0.95:
        return 0.0
    if affix.word and not candidate.stem:
        return 2.2 * known + (0.3 if siblings else 0.0)
    repeated = min(1.3, 0.5 * math.log2(1 + shared.stems(affix))) if siblings else 0.0
    # The only stem of its folder: what stands behind it once may well be roles that nobody knows.
    if siblings > 1 and not known and shared.stems(affix) == 1:
        repeated = 0.7 if _only_unknown(one, candidate, shared) else 0.4
    if known and affix.where == "end" and candidate.words > 1 and spell_roles(affix.word):
        # "metal_roughness" may be the roughness of a metal; "MetallicRoughness" and "Metallic-Roughness" are packs.
        written = [word for word, _, _ in one.words]
        known = known + 0.4 if candidate.words > 2 or written_as_one(written, one.name) else 0.5 * known
    worth = 2.2 * known + repeated + (0.06 if known else -0.05) * candidate.words
    return worth - (0.1 if _is_glued(one, candidate) or affix.where == "start" else 0.0)


def _only_unknown(one: _Name, candidate: _Candidate, shared: _Shares) -> bool:
    return not any(_known(other.word) >= 0.4 or shared.stems(other) > 1 for other in shared.affixes(one, candidate))
