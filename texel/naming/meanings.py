"""What the end (or the start) of a file name may mean: every reading, with its share. Pixels decide between them."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from texel.naming.tokens import (
    HINTS,
    PACK_WORDS,
    ROLE_WORDS,
    USUAL_PACKS,
    Pack,
    pack_layouts,
    spell_channels,
    spell_roles,
)  # fmt: skip
from texel.roles import Role

__all__ = ["ANY_PACK", "CHANCE", "Meaning", "readings"]

# A meaning is a role, a layout of channels, or ANY_PACK: packed, but nobody said how.
ANY_PACK: Pack = ()
_MAP = "map"
# CHANCE: letters that happen to spell a pack, as red does.
_SPELLED, CHANCE = 0.9, 0.5


class Meaning(NamedTuple):
    """One reading of a word. share: 0 to 1, how often the word means this in the trade (common practice)."""

    meaning: Role | Pack
    share: float


@lru_cache(maxsize=20_000)
def readings(word: str) -> tuple[Meaning, ...]:
    """What a run of letters in lower case may mean, likeliest first; nothing for a word that nobody uses for maps.

    >>> [(m.meaning.value, m.share) for m in readings("g")]
    [('glossiness', 0.4), ('emissive', 0.4)]
    >>> readings("orm")[0].meaning[0]
    ('r', <Role.OCCLUSION: 'occlusion'>)
    >>> readings("hull")
    ()
    """
    meanings: list[Meaning] = []
    if word in HINTS:
        meanings = [Meaning(role, share) for role, share in HINTS[word].items()]
        if word == "mask":
            meanings.append(Meaning(ANY_PACK, 0.2))
    elif word in ROLE_WORDS:
        meanings = [Meaning(ROLE_WORDS[word].role, ROLE_WORDS[word].sure)]
    elif word == "mr":
        meanings = [Meaning(layout, share) for layout, share in zip(pack_layouts(_MR), (0.5, 0.3), strict=True)]
    elif word in ("specularglossiness", "specgloss"):
        # As the archived glTF extension has it: colour of the reflection, gloss in alpha.
        meanings = [Meaning((("", Role.SPECULAR), ("a", Role.GLOSSINESS)), _SPELLED)]
    elif (roles := spell_roles(word)) is not None:
        layouts = pack_layouts(roles)
        shares = (_SPELLED,) if len(layouts) == 1 else (0.65, 0.25)
        meanings = [Meaning(layout, share) for layout, share in zip(layouts, shares, strict=True)]
    elif (letters := spell_channels(word)) is not None:
        layout = tuple(zip("rgba", letters, strict=False))
        meanings = [Meaning(layout, _SPELLED if word in USUAL_PACKS else CHANCE)]
    elif word in PACK_WORDS:
        meanings = [Meaning(ANY_PACK, 0.8)]
    elif len(word) > len(_MAP) and word.endswith(_MAP):
        # glowmap, specmap, ormmap: the same word, spelled out.
        return readings(word.removesuffix(_MAP))
    return tuple(sorted(meanings, key=lambda one: -one.share))


_MR = (Role.METALLIC, Role.ROUGHNESS)
