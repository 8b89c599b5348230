"""House rules for names: one document that judges file names and composes the right ones (schema "names")."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from texel.errors import BadDocument
from texel.naming.tokens import spell_channels, split_words
from texel.roles import Role
from texel.schemas import check_document

__all__ = ["Part", "Rules", "cased", "compose", "parse_names", "resolution_word"]

# What a file name is made of.
PART_KINDS = ("asset", "part", "variant", "suffix", "resolution", "tile", "version", "text")
_FREE = ("asset", "part", "variant")


@dataclass(frozen=True)
class Part:
    """kind: asset, part, variant, suffix, resolution, tile, version, text. words: the only ones allowed, () for any."""

    kind: str
    optional: bool = False
    words: tuple[str, ...] = ()
    text: str = ""


@dataclass(frozen=True)
class Rules:
    """suffixes: role or spelled pack to suffix. folder: None leaves files where they are."""

    parts: tuple[Part, ...]
    suffixes: Mapping[str, str]
    separator: str = "_"
    case: str = "lower"
    joint: str = "_"
    resolution: str = "2k"
    version_digits: int = 2
    longest: int = 64
    folder: str | None = None
    title: str = ""

    def suffix_of(self, roles: tuple[Role, ...]) -> str | None:
        """The suffix of one role, or of a pack by its channels in order; None where the rules name none."""
        if len(roles) == 1:
            return self.suffixes.get(roles[0].value)
        return next((suffix for word, suffix in self.suffixes.items() if spell_channels(word) == roles), None)

    def roles_of(self, suffix: str) -> tuple[Role, ...]:
        """What a suffix stands for, in any case of its letters; () for none."""
        for word, known in self.suffixes.items():
            if known.lower() == suffix.lower():
                return (Role(word),) if word in {role.value for role in Role} else spell_channels(word) or ()
        return ()

    @property
    def shape(self) -> str:
        """The order of parts in words, optional ones in brackets."""
        names = [part.text or part.kind for part in self.parts]
        shown = [f"[{name}]" if p.optional else name for name, p in zip(names, self.parts, strict=True)]
        return self.separator.join(shown)


def parse_names(document: Any, where: str = "the naming rules") -> Rules:
    """Rules from their JSON document. Raises BadDocument."""
    check_document(document, "names", where)
    parts = []
    for entry in document["parts"]:
        part = Part(entry["part"], entry.get("optional", False), tuple(entry.get("words", ())), entry.get("text", ""))
        if (part.kind == "text") != bool(part.text):
            raise BadDocument("{where}: a text part needs its text, and no other part has one", where=where)
        if part.words and part.kind not in _FREE:
            raise BadDocument(
                "{where}: words are for assets, parts and variants, not for the {kind}", where=where, kind=part.kind
            )
        parts.append(part)
    kinds = [part.kind for part in parts if part.kind != "text"]
    if len(set(kinds)) < len(kinds):
        raise BadDocument("{where}: a part may stand only once", where=where)
    if "asset" not in kinds or "suffix" not in kinds or any(p.optional for p in parts if p.kind == "asset"):
        raise BadDocument("{where}: names need an asset, which is never optional, and a suffix", where=where)
    roles = {role.value for role in Role}
    for word in document["suffixes"]:
        if word not in roles and spell_channels(word) is None:
            raise BadDocument(
                "{where}: {word!r} is neither a role nor a word that spells channels (orm, mrao)",
                where=where,
                word=word,
            )
    suffixes = [suffix.lower() for suffix in document["suffixes"].values()]
    twice = next((suffix for suffix in suffixes if suffixes.count(suffix) > 1), None)
    if twice is not None:
        raise BadDocument(
            "{where}: two roles have the suffix {twice!r}, so nothing could tell them apart", where=where, twice=twice
        )
    separator = document.get("separator", "_")
    case = document.get("case", "lower")
    return Rules(
        tuple(parts), document["suffixes"], separator, case,
        document.get("joint", "" if case in ("pascal", "camel") else separator), document.get("resolution", "2k"),
        document.get("version_digits", 2), document.get("longest", 64), document.get("folder"),
        document.get("title", ""),
    )  # fmt: skip


def cased(words: list[str], case: str, joint: str) -> str:
    """Words in the asked case, joined.

    >>> cased(["hull", "Plate"], "pascal", ""), cased(["hull", "Plate"], "lower", "-")
    ('HullPlate', 'hull-plate')
    """
    if case == "lower":
        words = [word.lower() for word in words]
    elif case == "upper":
        words = [word.upper() for word in words]
    elif case in ("pascal", "camel"):
        words = [word[:1].upper() + word[1:].lower() for word in words]
        if case == "camel" and words:
            words[0] = words[0].lower()
    return joint.join(words)


def resolution_word(side: int, style: str) -> str:
    """A longest side in texels as the rules write it.

    >>> resolution_word(2048, "2k"), resolution_word(512, "2k"), resolution_word(512, "2048")
    ('2k', '1k', '512')
    """
    if style == "2048":
        return str(side)
    return f"{max(1, round(side / 1024))}{style[1]}"


def compose(rules: Rules, values: Mapping[str, str]) -> str:
    """The name, without its file suffix, from a value for each part; optional parts without a value are left out.

    Free parts may be given in any case and with any separators. Raises BadDocument when a needed part has none.
    """
    written = []
    for part in rules.parts:
        value = part.text or values.get(part.kind, "")
        if part.kind in _FREE and value:
            words = split_words(value)
            value = next((w for w in part.words if w.lower() == value.lower()), cased(words, rules.case, rules.joint))
        if value:
            written.append(value)
        elif not part.optional:
            raise BadDocument("a name needs its {kind}, and nothing tells it", kind=part.kind)
    return rules.separator.join(written)
