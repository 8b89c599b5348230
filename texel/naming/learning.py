"""Rules learnt from names that are there: what most of them do, and the share that this explains."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable
from pathlib import PurePosixPath
from typing import Any, NamedTuple

from texel.naming.judging import recognise
from texel.naming.rules import parse_names
from texel.naming.tokens import NameParts, parse_name

__all__ = ["Learnt", "learn_rules"]

_MOST_TEXTS = 0.8
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


def _separator(stems: list[str], said: list[NameParts]) -> str:
    marks: Counter[str] = Counter()
    for stem, parts in zip(stems, said, strict=True):
        at = stem.rfind(parts.word) if parts.word else -1
        if at > 0 and stem[at - 1] in "_-.":
            marks[stem[at - 1]] += 1
    return marks.most_common(1)[0][0] if marks else "_"


def _leading_text(texts: list[str], separator: str) -> str | None:
    """A word that nearly all names begin with."""
    first = Counter(text.split(separator)[0] for text in texts if separator in text)
    if not first:
        return None
    word, count = first.most_common(1)[0]
    return word if len(texts) > 3 and count >= _MOST_TEXTS * len(texts) and len(set(texts)) > 1 else None


def learn_rules(paths: Iterable[str]) -> Learnt | None:
    """Rules that most of the names follow; None where no name tells a role.

    Learnt are the separator, the case of assets, the suffix of each role and pack, a word that all begin with, and
    whether a resolution follows. Variants and parts cannot be told from assets, so they are not guessed.
    """
    stems = [PurePosixPath(path).stem for path in paths]
    said = [parse_name(stem) for stem in stems]
    named = [(stem, parts) for stem, parts in zip(stems, said, strict=True) if parts.claims_role and parts.text]
    if not named:
        return None
    separator = _separator([s for s, _ in named], [p for _, p in named])
    words: defaultdict[str, Counter[str]] = defaultdict(Counter)
    for _, parts in named:
        key = parts.role.value if parts.role else parts.word.lower()
        words[key][parts.word] += 1
    suffixes: dict[str, str] = {}
    for key, counts in sorted(words.items(), key=lambda item: -sum(item[1].values())):
        word = counts.most_common(1)[0][0]
        if word.isalnum() and word.lower() not in {suffix.lower() for suffix in suffixes.values()}:
            suffixes[key] = word
    texts = [parts.text for _, parts in named]
    leading = _leading_text(texts, separator)
    if leading is not None:
        texts = [text.removeprefix(leading + separator) for text in texts]
    case, joint = _style(texts)
    document: dict[str, Any] = {
        "format": "fair-texel/names", "version": 1, "separator": separator, "case": case, "joint": joint,
        "parts": [
            *([{"part": "text", "text": leading}] if leading else []), {"part": "asset"}, {"part": "suffix"},
            *([{"part": "resolution", "optional": True}] if any(parts.size for _, parts in named) else []),
        ],
        "suffixes": suffixes, "resolution": _resolution_style([s for s, _ in named]), "folder": None,
    }  # fmt: skip
    rules = parse_names(document)
    follow = [recognise(stem, rules) is not None for stem in stems]
    others = [stem for stem, fine in zip(stems, follow, strict=True) if not fine]
    return Learnt(document, sum(follow) / len(follow), others[:20])


def _resolution_style(stems: list[str]) -> str:
    styles: Counter[str] = Counter()
    for stem in stems:
        for word in re.split(r"[_\-.]", stem)[1:]:
            if _RESOLUTION.match(word):
                styles["2k" if word.endswith("k") else "2K" if word.endswith("K") else "2048"] += 1
    return styles.most_common(1)[0][0] if styles else "2k"
