"""Compose file names that every file system and archive can hold."""

from __future__ import annotations

import re
import unicodedata

from texel.naming.tokens import split_words

__all__ = ["DEVICES", "FORBIDDEN", "apply_case", "safe_name"]

# Forbidden by at least one common file system, or special to shells and archives.
FORBIDDEN = re.compile(r'[\x00-\x1f\x7f<>:"/\\|?*%#&{}$!\'`@+=;,()\[\]]')
DEVICES = {"con", "prn", "aux", "nul", *(f"{d}{n}" for d in ("com", "lpt") for n in range(1, 10))}
_LONGEST = 120


def _cut(text: str, most: int) -> str:
    """As much of ``text`` as fits into ``most`` bytes of UTF-8, no letter cut in two."""
    return text.encode("utf-8", "ignore")[:most].decode("utf-8", "ignore")


def safe_name(text: str) -> str:
    """``text`` without what breaks file systems, at most 120 bytes long, since file systems count bytes (255 of a name
    with all that is added to it); letters of every script stay.

    >>> safe_name("clay pot (orchard)")
    'clay_pot_orchard'
    >>> safe_name("../nul")
    'nul_'
    """
    text = unicodedata.normalize("NFC", text)
    text = re.sub(r"\s+", "_", FORBIDDEN.sub(" ", text).strip()).strip(". _") or "unnamed"
    text = _cut(re.sub(r"_{2,}", "_", text), _LONGEST).rstrip(". ")
    return f"{text}_" if text.lower().split(".")[0] in DEVICES else text


def apply_case(text: str, case: str) -> str:
    """A name in the asked case: "keep", "lower", "snake" (hull_plate) or "pascal" (HullPlate).

    >>> apply_case("slate-Pier", "snake"), apply_case("slate_pier", "pascal")
    ('slate_pier', 'SlatePier')
    """
    if case == "lower":
        return text.lower()
    words = [word for word in split_words(text) if word]
    if case == "snake":
        return "_".join(word.lower() for word in words)
    if case == "pascal":
        return "".join(word[:1].upper() + word[1:] for word in words)
    return text
