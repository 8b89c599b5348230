"""Names taken apart by the house's rules, in steps that grow with the length of a name and never beyond.

A regular expression for the same tries the ways to share a name out among its parts one after the other, which are more
than anybody can wait for when the name is long and none of them fits. Here a part that was tried at a place, and led
nowhere, is not tried there again.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from texel.naming.rules import Part, Rules

__all__ = ["parts_of"]

_DIGITS = "0123456789"
_SMALL = "abcdefghijklmnopqrstuvwxyz"
_LARGE = _SMALL.upper()
# What a word of each case begins with, and what it goes on with.
_WORDS = {
    "lower": (_SMALL + _DIGITS, _SMALL + _DIGITS), "upper": (_LARGE + _DIGITS, _LARGE + _DIGITS),
    "pascal": (_LARGE + _DIGITS, _LARGE + _SMALL + _DIGITS), "camel": (_SMALL + _DIGITS, _LARGE + _SMALL + _DIGITS),
    "keep": (_LARGE + _SMALL + _DIGITS, _LARGE + _SMALL + _DIGITS),
}  # fmt: skip
Ends = Callable[[str, int], Iterator[int]]


def parts_of(stem: str, rules: Rules) -> dict[int, str] | None:
    """The text of each part of a name that follows the rules to the letter, by the part's number; None for another.

    An asset, part or variant takes as many words as it can, or as few where another part has words of its own.
    """
    ends = [_ends_of(part, rules) for part in rules.parts]
    barren: set[tuple[int, int, bool]] = set()

    def search(number: int, at: int, first: bool) -> dict[int, str] | None:
        """Parts from ``number`` on for the name from ``at`` on; first: nothing stands before it."""
        if number == len(ends):
            return {} if at == len(stem) else None
        if (number, at, first) in barren:
            return None
        start = at if first else at + len(rules.separator)
        if first or stem.startswith(rules.separator, at):
            for end in ends[number](stem, start):
                rest = search(number + 1, end, False)
                if rest is not None:
                    return {number: stem[start:end], **rest}
        if rules.parts[number].optional:
            rest = search(number + 1, at, first)
            if rest is not None:
                return rest
        barren.add((number, at, first))
        return None

    return search(0, 0, True)


def _ends_of(part: Part, rules: Rules) -> Ends:
    """Where a part that begins at a place may end, the likeliest end first."""
    if part.kind == "text":
        return _one_of((part.text,))
    if part.kind == "suffix":
        return _one_of(tuple(sorted(rules.suffixes.values(), key=len, reverse=True)))
    if part.kind == "resolution":
        most, letter = {"2k": (2, "k"), "2K": (2, "K"), "2048": (5, "")}[rules.resolution]
        return _digits(1 if letter else 3, most, after=letter)
    if part.kind == "tile":
        return _digits(3, 3, before="1")
    if part.kind == "version":
        return _digits(rules.version_digits, rules.version_digits, before="v")
    if part.words:
        return _one_of(part.words)
    return _free(rules, few=any(one.words for one in rules.parts))


def _one_of(words: tuple[str, ...]) -> Ends:
    return lambda stem, at: (at + len(word) for word in words if stem.startswith(word, at))


def _digits(least: int, most: int, before: str = "", after: str = "") -> Ends:
    def ends(stem: str, at: int) -> Iterator[int]:
        if not stem.startswith(before, at):
            return
        start = end = at + len(before)
        while end < len(stem) and end - start < most and stem[end] in _DIGITS:
            end += 1
        for one in range(end, start + least - 1, -1):
            if stem.startswith(after, one):
                yield one + len(after)

    return ends


def _free(rules: Rules, few: bool) -> Ends:
    """Words in the rules' case, with their joint between them."""
    begins, goes_on = _WORDS[rules.case]
    joint = rules.joint

    def ends(stem: str, at: int) -> Iterator[int]:
        reached: list[int] = []
        while at < len(stem) and stem[at] in begins:
            at += 1
            reached.append(at)
            while at < len(stem) and stem[at] in goes_on:
                at += 1
                reached.append(at)
            if not joint or not stem.startswith(joint, at):
                break
            at += len(joint)
        # A word is not left in the middle of its letters, unless nothing else fits.
        whole = [end for end in reached if end == len(stem) or stem[end] not in goes_on]
        broken = [end for end in reached if end < len(stem) and stem[end] in goes_on]
        yield from whole if few else reversed(whole)
        yield from reversed(broken)

    return ends
