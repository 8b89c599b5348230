"""The words of file names and what they say. Every word list of the house stands here, once.

The suffixes are common practice in the trade (no published source): each house has its own, these are shared by many.
"""

from __future__ import annotations

import itertools
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from texel.roles import Green, Role, facts

__all__ = ["NameParts", "RoleWord", "parse_name", "spell_channels", "split_words"]


class RoleWord(NamedTuple):
    """What a word says about the role. sure: 0 to 1, how seldom the word means something else."""

    role: Role
    sure: float


_SURE, _LIKELY, _MAYBE = 0.97, 0.9, 0.7

_WORDS: dict[Role, dict[float, str]] = {
    Role.BASE_COLOR: {
        _SURE: "basecolor basecolour albedo basecol diffuse diff diffusecolor diffusecolour diffusemap colormap "
        "colourmap albedomap",
        _LIKELY: "bc col color colour alb dif albd basec cm",
        _MAYBE: "c d a base",
    },
    Role.NORMAL: {
        _SURE: "normal normals nrm nor normalmap norm nmap normalsmap",
        _LIKELY: "n nml nrml",
        _MAYBE: "nm",
    },
    Role.ROUGHNESS: {_SURE: "roughness rough rgh roughnessmap", _LIKELY: "rou roug rghns", _MAYBE: "r"},
    Role.METALLIC: {
        _SURE: "metallic metalness metal metallicmap metalnessmap",
        _LIKELY: "met mtl mt metall metalic mtlns",
        _MAYBE: "m",
    },
    Role.OCCLUSION: {
        _SURE: "ao occlusion ambientocclusion occ aomap occlusionmap",
        _LIKELY: "ambient ambientocc occl",
        _MAYBE: "o",
    },
    Role.HEIGHT: {
        _SURE: "height displacement disp displace heightmap displacementmap",
        _LIKELY: "hgt dsp hm heigh parallax bump bumpmap",
        _MAYBE: "h depth",
    },
    Role.EMISSIVE: {
        _SURE: "emissive emission emit emissivemap emissioncolor emissivecolor selfillumination",
        _LIKELY: "emis em glow emi emiss illum selfillum incandescence luma fullbright emissv",
        _MAYBE: "e",
    },
    Role.OPACITY: {_SURE: "opacity transparency cutout opacitymap", _LIKELY: "opac alpha opa mask"},
    Role.GLOSSINESS: {
        _SURE: "gloss glossiness smoothness glossmap",
        _LIKELY: "gls smooth glo shininess shine",
        _MAYBE: "g",
    },
    Role.SPECULAR: {
        _SURE: "specular specularcolor specularmap",
        _LIKELY: "spec spc specmap specularity",
        _MAYBE: "s reflection",
    },
    Role.DETAIL_MASK: {_SURE: "detailmask detailsmask dmask"},
}
ROLE_WORDS: dict[str, RoleWord] = {
    word: RoleWord(role, sure)
    for role, by_sureness in _WORDS.items()
    for sure, words in by_sureness.items()
    for word in words.split()
}
# What words mean that say little alone: shares of roles. A folder's pixels and its other words decide between them.
HINTS: dict[str, dict[Role, float]] = {
    "g": {Role.GLOSSINESS: 0.4, Role.EMISSIVE: 0.4},
    "s": {Role.SPECULAR: 0.7, Role.GLOSSINESS: 0.12},
    "sm": {Role.SPECULAR: 0.5, Role.GLOSSINESS: 0.3},
    "sc": {Role.SPECULAR: 0.7},
    "refl": {Role.SPECULAR: 0.8},
    "reflect": {Role.SPECULAR: 0.7},
    "reflectivity": {Role.SPECULAR: 0.8},
    "c": {Role.BASE_COLOR: 0.75, Role.OCCLUSION: 0.05},
    "cc": {Role.BASE_COLOR: 0.7},
    "d": {Role.BASE_COLOR: 0.75, Role.HEIGHT: 0.12},
    "a": {Role.BASE_COLOR: 0.55, Role.OCCLUSION: 0.2, Role.OPACITY: 0.1},
    "b": {Role.BASE_COLOR: 0.4, Role.HEIGHT: 0.3, Role.NORMAL: 0.15},
    "t": {Role.OPACITY: 0.5, Role.BASE_COLOR: 0.2},
    "trans": {Role.OPACITY: 0.7},
    "bm": {Role.HEIGHT: 0.5, Role.NORMAL: 0.3},
    "bmp": {Role.HEIGHT: 0.5, Role.NORMAL: 0.3},
    "bump": {Role.HEIGHT: 0.75, Role.NORMAL: 0.2},
    "bumpmap": {Role.HEIGHT: 0.7, Role.NORMAL: 0.25},
    "dm": {Role.HEIGHT: 0.5, Role.BASE_COLOR: 0.3},
    "z": {Role.HEIGHT: 0.7},
    "p": {Role.HEIGHT: 0.6},
    "local": {Role.NORMAL: 0.5},
    "tangent": {Role.NORMAL: 0.6},
    "m": {Role.METALLIC: 0.7, Role.DETAIL_MASK: 0.1, Role.OPACITY: 0.05},
    "mm": {Role.METALLIC: 0.5, Role.DETAIL_MASK: 0.3},
    "r": {Role.ROUGHNESS: 0.7, Role.SPECULAR: 0.1},
    "rm": {Role.ROUGHNESS: 0.6, Role.METALLIC: 0.1},
    "o": {Role.OCCLUSION: 0.5, Role.OPACITY: 0.3},
    "gm": {Role.GLOSSINESS: 0.5, Role.EMISSIVE: 0.3},
    "glo": {Role.GLOSSINESS: 0.5, Role.EMISSIVE: 0.3},
    "mask": {Role.OPACITY: 0.5, Role.DETAIL_MASK: 0.22},
    "add": {Role.EMISSIVE: 0.6},
    "lum": {Role.EMISSIVE: 0.6},
    "luminance": {Role.EMISSIVE: 0.5},
    "i": {Role.EMISSIVE: 0.5, Role.BASE_COLOR: 0.1},
    "l": {Role.EMISSIVE: 0.4},
    "lit": {Role.EMISSIVE: 0.5, Role.BASE_COLOR: 0.2},
    "light": {Role.EMISSIVE: 0.4},
}
# Words that say that a file is packed, but not how: its pixels tell.
PACK_WORDS = set("masks packed pack pbr pbrdata data channels combined utility mix".split())

_GREEN_WORDS = {
    **dict.fromkeys(["gl", "ogl", "opengl", "yup", "yplus", "y+", "ypos"], Green.UP),
    **dict.fromkeys(["dx", "directx", "ydown", "yminus", "y-", "yneg"], Green.DOWN),
}
# A direction glued to a normal word: nor_gl, normalgl, nrmdx.
_GLUED_GREEN = {"gl": Green.UP, "ogl": Green.UP, "dx": Green.DOWN, "opengl": Green.UP, "directx": Green.DOWN}

_PREVIEW_WORDS = {"preview", "thumb", "thumbnail", "render", "sphere", "contact", "contactsheet"}
_IGNORED_WORDS = set("tex texture map srgb linear lin raw final export exported copy 8bit 16bit 32bit".split())

# Letters of packed suffixes. Two letters before one: "ao" is occlusion, not occlusion twice.
_LETTERS = {
    "ao": Role.OCCLUSION,
    "a": Role.OCCLUSION,
    "o": Role.OCCLUSION,
    "r": Role.ROUGHNESS,
    "m": Role.METALLIC,
    "d": Role.HEIGHT,
    "h": Role.HEIGHT,
    "g": Role.GLOSSINESS,
    "s": Role.GLOSSINESS,
    "e": Role.EMISSIVE,
}
# Packed suffixes that many houses use; any other run of letters may be a word that spells a pack by chance (red, hero).
USUAL_PACKS = set("orm mra mrao mro rma rmao rom omr ord orh ormh ard ardm mrh mros msa".split())

_RESOLUTION = re.compile(r"^(?:(\d{1,2})k|(\d{3,5})(?:x(\d{3,5}))?(?:px)?)$")
# "y+" or "y-" as a word of its own; the sign would be taken for a separator.
_Y_SIGN = re.compile(r"(?<=[_\-\s.])[yY]([+-])(?=$|[_\s.])")
_VERSION = re.compile(r"^(?:v|ver|rev)\d{1,4}$")
# Smaller numbers count things.
# Where a capital begins a word.
_CAPITAL = re.compile(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])")
_SIDES = {128 << n for n in range(8)} | {1000, 2000, 3000, 4000, 8000}


def spell_channels(word: str) -> tuple[Role, ...] | None:
    """The roles that the letters of a packed suffix name, red first; None when the word spells no pack.

    A pack names three or four different roles, either roughness or glossiness among them.

    >>> [role.value for role in spell_channels("ard")]
    ['occlusion', 'roughness', 'height']
    >>> spell_channels("hull") is None
    True
    """
    roles: list[Role] = []
    at = 0
    while at < len(word):
        letters = word[at : at + 2] if word[at : at + 2] in _LETTERS else word[at]
        role = _LETTERS.get(letters)
        if role is None or role in roles or len(roles) == 4:
            return None
        roles.append(role)
        at += len(letters)
    one_of_both = len({Role.ROUGHNESS, Role.GLOSSINESS} & set(roles)) == 1
    return tuple(roles) if len(roles) >= 3 and one_of_both else None


_SCALAR_WORDS = {
    word: found.role
    for word, found in ROLE_WORDS.items()
    if len(word) > 1 and found.sure >= _LIKELY and facts(found.role).channels == 1 and word not in ("mask", "alpha")
}
Pack = tuple[tuple[str, Role], ...]


def spell_roles(word: str) -> tuple[Role, ...] | None:
    """The roles that a packed suffix names in words, first to last; None when it does not.

    Two to four different roles that one channel holds, run together, in lower case.

    >>> [role.value for role in spell_roles("aometrough")]
    ['occlusion', 'metallic', 'roughness']
    >>> spell_roles("roughness") is None, spell_roles("metalplate") is None
    (True, True)
    """
    return _spelled(word, ()) if len(word) <= 60 else None


def _spelled(word: str, before: tuple[Role, ...]) -> tuple[Role, ...] | None:
    if not word:
        return before if len(before) >= 2 else None
    for length in range(min(len(word), 16), 1, -1):
        role = _SCALAR_WORDS.get(word[:length])
        if role is not None and role not in before and len(before) < 4:
            roles = _spelled(word[length:], (*before, role))
            if roles is not None:
                return roles
    return None


def pack_layouts(roles: tuple[Role, ...]) -> list[Pack]:
    """The layouts that roles named in this order may mean, likeliest first.

    Metallic and roughness alone are what glTF 2.0 calls metallicRoughness: roughness in green, metallic in blue (3.9.2
    of its text).
    Metallic with gloss commonly keeps gloss in alpha (common practice).
    """
    written: Pack = tuple(zip("rgba", roles, strict=False))
    if set(roles) == {Role.METALLIC, Role.ROUGHNESS}:
        return [(("g", Role.ROUGHNESS), ("b", Role.METALLIC)), written]
    if roles == (Role.METALLIC, Role.GLOSSINESS):
        return [(("r", Role.METALLIC), ("a", Role.GLOSSINESS)), written]
    return [written]


def written_as_one(words: list[str], name: str) -> bool:
    """Whether the last two words stand together, or are joined by another mark than the one before them."""
    first, last = words[-2:]
    if first + last in name:
        return True
    at = name.rfind(first)
    joint = name[at + len(first) : at + len(first) + 1]
    return at > 0 and joint in "-+&" and name[at - 1] not in (joint, " ")


def words_with_places(stem: str) -> list[tuple[str, int, int]]:
    """A file's stem in words, each with where it starts and ends: at separators, and where a capital begins.

    >>> words_with_places("hull_BaseColor")
    [('hull', 0, 4), ('Base', 5, 9), ('Color', 9, 14)]
    """
    words: list[tuple[str, int, int]] = []
    for piece in re.finditer(r"[^\s_\-.,()\[\]]+", stem):
        at = piece.start()
        if _RESOLUTION.match(piece[0].lower()) or _VERSION.match(piece[0].lower()):
            words.append((piece[0], at, piece.end()))
            continue
        cuts = [0, *(cut.start() for cut in _CAPITAL.finditer(piece[0])), len(piece[0])]
        words += [(piece[0][a:b], at + a, at + b) for a, b in itertools.pairwise(cuts)]
    return words


def split_words(stem: str) -> list[str]:
    """A file's stem in words: at separators, and where a capital begins.

    >>> split_words("hull_BaseColor-2K")
    ['hull', 'Base', 'Color', '2K']
    >>> split_words("potORM")
    ['pot', 'ORM']
    """
    return list(_words(stem))


# A name is asked for its words half a dozen times while it is judged.
@lru_cache(4096)
def _words(stem: str) -> tuple[str, ...]:
    return tuple(word for word, _, _ in words_with_places(stem))


@dataclass(frozen=True)
class NameParts:
    """What a file's name says.

    stem: what is left when every known word is taken off, in lower-case words; "" when the name is nothing but a role.
    text: the same as it is written in the name.
    role: with word (as written) and sure; pack: channel letter to role for a packed file; at most one of the two.
    size: longest side that a resolution word names, texels. green: direction that the name claims.
    preview: a word says that this is a picture of the material, not a map of it.
    """

    stem: str
    word: str = ""
    role: Role | None = None
    pack: tuple[tuple[str, Role], ...] = ()
    sure: float = 0.0
    size: int | None = None
    green: Green | None = None
    preview: bool = False
    text: str = ""

    @property
    def claims_role(self) -> bool:
        return self.role is not None or bool(self.pack)


def _size_of(word: str) -> int | None:
    match = _RESOLUTION.match(word.lower())
    if match is None:
        return None
    if match[1]:
        return int(match[1]) * 1024
    side = max(int(match[2]), int(match[3] or 0))
    return side if match[3] or side in _SIDES else None


def _join(words: list[str]) -> str:
    return "".join(words).lower()


class _Found(NamedTuple):
    used: int
    role: Role | None
    pack: tuple[tuple[str, Role], ...]
    sure: float
    green: Green | None


def _role_at_end(words: list[str], name: str) -> _Found | None:
    """The role that the last one to three words name together, longest first."""
    for used in (3, 2, 1):
        if used > len(words):
            continue
        word = _join(words[-used:])
        # Two words make a pack only when written as one: red_metal_roughness is the roughness of a red metal.
        roles = spell_roles(word) if used != 2 or written_as_one(words, name) else None
        if roles is not None and word not in ROLE_WORDS:
            return _Found(used, None, pack_layouts(roles)[0], _LIKELY, None)
        if word in ROLE_WORDS:
            return _Found(used, *_plain(word), None)
        for glued, green in _GLUED_GREEN.items():
            base = word.removesuffix(glued)
            if base != word and base in ROLE_WORDS and ROLE_WORDS[base].role is Role.NORMAL:
                return _Found(used, *_plain(base), green)
        roles = spell_channels(word) if used == 1 else None
        if roles is not None:
            sure = _LIKELY if word in USUAL_PACKS else _MAYBE
            return _Found(used, None, tuple(zip("rgba", roles, strict=False)), sure, None)
    return None


def _plain(word: str) -> tuple[Role, tuple[tuple[str, Role], ...], float]:
    meaning = ROLE_WORDS[word]
    return meaning.role, (), meaning.sure


def qualifiers(words: list[str]) -> tuple[list[str], int | None, Green | None, bool]:
    """Resolution, version, direction and empty words off the end of a name."""
    size = green = None
    preview = False
    while words:
        last = words[-1].lower()
        if _join(words[-2:]) in _GREEN_WORDS and len(words) > 1:
            green = green or _GREEN_WORDS[_join(words[-2:])]
            words = words[:-1]
        elif (longest := _size_of(last)) is not None:
            size = size or longest
        elif last in _GREEN_WORDS:
            green = green or _GREEN_WORDS[last]
        elif last in _PREVIEW_WORDS:
            preview = True
        elif not (_VERSION.match(last) or last in _IGNORED_WORDS):
            break
        words = words[:-1]
    return words, size, green, preview


def spell_signs(name: str) -> str:
    """A name with y+ and y- in letters: their signs would be taken for separators.

    >>> spell_signs("hull_n_y-")
    'hull_n_yminus'
    """
    return _Y_SIGN.sub(lambda sign: "yplus" if sign[1] == "+" else "yminus", name)


def before_role(words: list[str]) -> tuple[int, int | None, Green | None]:
    """Of the words before a role, how many are the name, and the size and direction that stand behind it. A version
    stays in the name: rope_v01 and rope_v02 are two."""
    count, size, green = len(words), None, None
    while count:
        last = words[count - 1].lower()
        longest = _size_of(last)
        if longest is None and last not in _IGNORED_WORDS and last not in _GREEN_WORDS:
            break
        size, green, count = size or longest, green or _GREEN_WORDS.get(last), count - 1
    return count, size, green


@lru_cache(4096)
def parse_name(file_stem: str) -> NameParts:
    """What a file name without its suffix says. Never raises: a name that says nothing is all stem.

    >>> p = parse_name("mooring_rope_nor_gl_2k"); p.stem, p.role.value, p.green.value, p.size
    ('mooring rope', 'normal', 'up', 2048)
    >>> p = parse_name("HullPlateBaseColor"); p.stem, p.role.value
    ('hull plate', 'base_color')
    >>> p = parse_name("slate-pier-mrao"); p.stem, [f"{c}={r.value}" for c, r in p.pack]
    ('slate pier', ['r=metallic', 'g=roughness', 'b=occlusion'])
    """
    marked = spell_signs(file_stem)
    words = split_words(marked)
    rest, size, green, preview = qualifiers(words)
    role, first = _role_at_end(rest, marked), 0
    if role is not None:
        body = rest[: -role.used]
        word = "".join(rest[-role.used :])
    elif (role := _role_at_start(rest)) is not None:
        first = role.used
        body = rest[first:]
        word = "".join(rest[:first])
    else:
        body, word = rest, ""
    body, size_before, green_before, preview_before = qualifiers(body)
    return NameParts(
        stem=" ".join(w.lower() for w in body if w.lower() not in _IGNORED_WORDS),
        word=word,
        role=role.role if role else None,
        pack=role.pack if role else (),
        sure=role.sure if role else 0.0,
        size=size or size_before,
        green=(role.green if role else None) or green or green_before,
        preview=preview or preview_before,
        text=_as_written(marked, words, first, len(body)),
    )


def _as_written(name: str, words: list[str], first: int, count: int) -> str:
    """The stretch of ``name`` that holds ``count`` words from word ``first`` on."""
    at = 0
    start = end = 0
    for index, word in enumerate(words[: first + count]):
        first_at = name.index(word, at)
        start = first_at if index == first else start
        at = end = first_at + len(word)
    return name[start:end] if count else ""


def _role_at_start(words: list[str]) -> _Found | None:
    """A role named first ("basecolor_hull"); only words that hardly ever mean something else count there."""
    for used in (2, 1):
        if used >= len(words):
            continue
        word = _join(words[:used])
        if word in ROLE_WORDS and ROLE_WORDS[word].sure >= _SURE:
            role, pack, sure = _plain(word)
            return _Found(used, role, pack, sure - 0.1, None)
    return None
