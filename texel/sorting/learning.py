"""Rules learnt from names that are there: what most of them do, and the share that this explains."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable
from pathlib import PurePosixPath
from typing import Any, NamedTuple

from texel.naming.judging import recognise
from texel.naming.meanings import readings
from texel.naming.rules import parse_names
from texel.naming.tokens import Pack, spell_channels
from texel.roles import Role
from texel.sorting.habit import Habit
from texel.sorting.splitting import Affix, SplitName, split_names

__all__ = ["Learnt", "learn_rules"]

_MAX_TEXTS = 0.8
# Share of the names that must have a part for it to become one.
_PART = 0.15
# Characters of a suffix or a leading text, as the schema of names has it.
_LONGEST = 32
_LETTER = {
    Role.OCCLUSION: "o", Role.ROUGHNESS: "r", Role.METALLIC: "m", Role.HEIGHT: "h", Role.GLOSSINESS: "g",
    Role.EMISSIVE: "e",
}  # fmt: skip
_RESOLUTION = re.compile(r"^(\d{1,2}[kK]|\d{3,5})$")


class Learnt(NamedTuple):
    """document: the rules; share: of the names, 0 to 1, that follow them; others: some that do not."""

    document: dict[str, Any]
    share: float
    others: list[str]


def _style(texts: list[str]) -> tuple[str, str]:
    """Case and joint of asset names."""
    styles: Counter[tuple[str, str]] = Counter()
    for text in texts:
        joint = next((mark for mark in "_-" if mark in text), "")
        words = re.split(r"[_\-]", text)
        if all(word == word.lower() for word in words):
            styles["lower", joint] += 1
        elif all(word == word.upper() for word in words):
            styles["upper", joint] += 1
        elif not joint and text[:1].islower():
            styles["camel", joint] += 1
        elif all(word[:1].isupper() or word[:1].isdigit() for word in words):
            styles["pascal", joint] += 1
        else:
            styles["keep", joint] += 1
    cases: Counter[str] = Counter()
    joints: Counter[str] = Counter()
    for (case, joint), count in styles.items():
        cases[case] += count
        joints[joint] += count if joint else 0
    case = cases.most_common(1)[0][0] if cases else "lower"
    joint = joints.most_common(1)[0][0] if joints else ("" if case in ("pascal", "camel") else "_")
    return case, joint


def _leading_text(texts: list[str], separator: str) -> str | None:
    """A word that nearly all names begin with."""
    first = Counter(text.split(separator)[0] for text in texts if separator in text)
    if not first:
        return None
    word, count = first.most_common(1)[0]
    return (
        word
        if 0 < len(word) <= _LONGEST and len(texts) > 3 and count >= _MAX_TEXTS * len(texts) and len(set(texts)) > 1
        else None
    )


class _Named(NamedTuple):
    """A name that tells what its file is. key: a role, or the letters of a pack's channels; "" where a layout has no
    word. word: the suffix without the mark before it; mark: that mark."""

    stem: str
    text: str
    key: str
    word: str
    mark: str
    sized: bool


def _named(path: str, split: SplitName, habit: Habit) -> _Named | None:
    line = habit.line_for(split.affix, path)
    meant = line.meant if line is not None and line.decided else _usual(split.affix)
    if meant is None or meant == () or not split.text:
        return None
    word = split.written.lstrip("_-. ")
    mark = split.written[: len(split.written) - len(word)]
    key = meant.value if isinstance(meant, Role) else _pack_word(meant)
    return _Named(PurePosixPath(path).stem, split.text, key, word, mark, bool(split.size))


def _usual(affix: Affix) -> Role | Pack | None:
    """What a word means where no habit says so; None for a word that means several things or nothing."""
    known = readings(affix.word)
    return known[0].meaning if known and known[0].share >= 0.7 else None


def _pack_word(layout: Pack) -> str:
    """The letters that spell a layout, as naming rules name packs; "" where letters cannot say it."""
    word = "".join(_LETTER.get(role, "") for _, role in layout)
    return word if spell_channels(word) == tuple(role for _, role in layout) else ""


def learn_rules(paths: Iterable[str], habit: Habit | None = None) -> Learnt | None:
    """Rules that most of the names follow; None where no name tells a role.

    habit: what the suffixes of these files mean, as sorting found it; without one the trade's usual words are read.
    Learnt are the separator, the case of assets, the suffix of each role and pack, a word that all begin with, and
    whether a resolution follows. Only what a good part of the names has becomes a part. Variants and parts cannot be
    told from assets, so they are not guessed.
    """
    files = list(paths)
    habit = habit or Habit()
    splits = split_names(files, {line.affix for line in habit.lines if line.taught and line.affix.word})
    read = [_named(path, split, habit) for path, split in splits.items()]
    named = [one for one in read if one is not None]
    worded = [one for one in named if one.word]
    if not worded:
        return None
    marks = Counter(one.mark for one in worded if one.mark in ("_", "-", "."))
    separator = marks.most_common(1)[0][0] if marks else "_"
    suffixes = _suffixes(worded)
    if not suffixes:
        return None
    texts = [one.text for one in named]
    leading = _leading_text(texts, separator)
    if leading is not None:
        texts = [text.removeprefix(leading + separator) for text in texts]
    case, joint = _style(texts)
    bare = sum(not one.word for one in named) >= _PART * len(named)
    sized = sum(one.sized for one in named) >= _PART * len(named)
    document: dict[str, Any] = {
        "format": "fair-texel/names", "version": 1, "separator": separator, "case": case, "joint": joint,
        "parts": [
            *([{"part": "text", "text": leading}] if leading else []),
            {"part": "asset"},
            {"part": "suffix"} | ({"optional": True} if bare else {}),
            *([{"part": "resolution", "optional": True}] if sized else []),
        ],
        "suffixes": suffixes, "resolution": _resolution_style([one.stem for one in named]), "folder": None,
    }  # fmt: skip
    rules = parse_names(document)
    stems = [PurePosixPath(path).stem for path in files]
    follow = [recognise(stem, rules) is not None for stem in stems]
    others = [stem for stem, fine in zip(stems, follow, strict=True) if not fine]
    return Learnt(document, sum(follow) / len(follow), others[:20])


def _suffixes(named: list[_Named]) -> dict[str, str]:
    """The word that most files of a role have, roles with many files first; no word twice."""
    words: defaultdict[str, Counter[str]] = defaultdict(Counter)
    for one in named:
        if one.key:
            words[one.key][one.word] += 1
    suffixes: dict[str, str] = {}
    for key, counts in sorted(words.items(), key=lambda item: -sum(item[1].values())):
        word = counts.most_common(1)[0][0]
        if (
            word.isascii()
            and word.isalnum()
            and len(word) <= _LONGEST
            and word.lower() not in {suffix.lower() for suffix in suffixes.values()}
        ):
            suffixes[key] = word
    return suffixes


def _resolution_style(stems: list[str]) -> str:
    styles: Counter[str] = Counter()
    for stem in stems:
        for word in re.split(r"[_\-.]", stem)[1:]:
            if _RESOLUTION.match(word):
                styles["2k" if word.endswith("k") else "2K" if word.endswith("K") else "2048"] += 1
    return styles.most_common(1)[0][0] if styles else "2k"
