"""How likely a picture of some look is in each role, and what a word, a look and the other maps say together.

The numbers are shares of the trade's common practice, rounded; there is no published source. They rank: what decides
is how far the best answer stands above the next.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from texel.roles import Role
from texel.sorting.looks import Kind, Look

__all__ = ["BASE_SHARE", "PACK_SHARE", "of_look", "pack_of_look", "shares_of"]

# How often each role occurs among maps whose name says nothing.
BASE_SHARE: dict[Role, float] = {
    Role.BASE_COLOR: 0.22,
    Role.NORMAL: 0.20,
    Role.ROUGHNESS: 0.11,
    Role.SPECULAR: 0.10,
    Role.HEIGHT: 0.08,
    Role.OCCLUSION: 0.08,
    Role.METALLIC: 0.07,
    Role.EMISSIVE: 0.06,
    Role.GLOSSINESS: 0.04,
    Role.OPACITY: 0.03,
    Role.DETAIL_MASK: 0.01,
}
PACK_SHARE = 0.06

_KINDS = (
    Kind.NORMAL, Kind.COLOUR, Kind.DARK_COLOUR, Kind.UNLIKE, Kind.PACK, Kind.GREY, Kind.TWO_VALUES, Kind.PALE,
    Kind.DARK, Kind.PLAIN,
)  # fmt: skip
# Of a hundred maps of a role, how many look so; in the order of _KINDS.
_LOOKS: dict[Role, tuple[float, ...]] = {
    #                 normal colour dark   unlike pack   grey  b/w    pale  dark  plain
    Role.BASE_COLOR: (0.1, 60.0, 4.0, 8.0, 1.0, 18.0, 0.7, 2.0, 1.5, 3.0),
    Role.NORMAL: (94.0, 0.7, 0.05, 4.0, 0.3, 0.2, 0.05, 0.1, 0.05, 0.2),
    Role.ROUGHNESS: (0.05, 1.0, 0.2, 0.3, 0.5, 70.0, 4.0, 10.0, 1.0, 12.0),
    Role.GLOSSINESS: (0.05, 1.5, 0.5, 0.3, 0.5, 72.0, 5.0, 4.0, 4.0, 11.0),
    Role.METALLIC: (0.05, 0.7, 0.3, 0.3, 0.7, 14.0, 43.0, 2.0, 18.0, 20.0),
    Role.SPECULAR: (0.1, 20.0, 4.0, 1.0, 0.5, 44.0, 3.0, 5.0, 17.0, 5.0),
    Role.OCCLUSION: (0.05, 0.7, 0.1, 0.3, 0.5, 32.0, 2.0, 56.0, 0.4, 8.0),
    Role.HEIGHT: (0.1, 0.6, 0.1, 0.3, 0.3, 75.0, 3.0, 13.0, 3.0, 4.0),
    Role.EMISSIVE: (0.05, 9.0, 44.0, 1.0, 0.5, 7.0, 10.0, 0.4, 24.0, 4.0),
    Role.OPACITY: (0.02, 0.7, 0.3, 0.3, 0.3, 17.0, 65.0, 8.0, 6.0, 2.0),
    Role.DETAIL_MASK: (0.05, 3.0, 3.0, 6.0, 6.0, 28.0, 33.0, 6.0, 10.0, 4.0),
}
_PACK_LOOKS = (0.2, 6.0, 2.5, 24.0, 66.0, 0.3, 0.2, 0.2, 0.2, 0.4)
# Mean curvature over spread: relief is smoother than what weathers on it. Chosen on the labelled set of the benchmark.
_SMOOTH = 0.55
# Correlation of edges with the base colour above which two pictures show one surface.
_SAME = 0.5


def _fine(role: Role, look: Look) -> float:
    """What depth, smoothness and brightness add to the kind of a grey picture, as a factor."""
    factor = 1.0
    if look.bits > 8 and look.grey:
        factor *= 6.0 if role is Role.HEIGHT else 0.4
    if look.kind is Kind.GREY:
        smooth = look.detail < _SMOOTH
        mean = look.channels[0].mean
        if role is Role.HEIGHT:
            factor *= (1.4 if smooth else 0.7) * math.exp(-0.5 * ((mean - 0.5) / 0.3) ** 2)
        elif role is Role.ROUGHNESS:
            # Most of what is made is rather rough: means lie about 0.6, seldom below 0.3.
            factor *= (0.8 if smooth else 1.2) * math.exp(-0.5 * ((mean - 0.6) / 0.35) ** 2) * 1.2
        elif role is Role.GLOSSINESS:
            factor *= math.exp(-0.5 * ((mean - 0.4) / 0.35) ** 2) * 1.2
        elif role is Role.SPECULAR:
            factor *= math.exp(-0.5 * ((mean - 0.35) / 0.35) ** 2) * 1.2
        elif role is Role.OCCLUSION:
            factor *= 1.3 if mean > 0.7 else 0.6
    if role is Role.EMISSIVE and look.kind in (Kind.DARK, Kind.DARK_COLOUR, Kind.PLAIN):
        factor *= 0.3 + look.dark
    if role is Role.BASE_COLOR and look.kind in (Kind.DARK, Kind.DARK_COLOUR, Kind.PLAIN):
        # Of two dark pictures the brighter one is the colour, the darker one the light.
        factor *= (1.3 - look.dark) * (1 + min(0.3, 10 * look.channels[0].mean))
    if look.kind is Kind.PLAIN:
        factor *= _plain(role, look.channels[0].mean)
    return factor


def _plain(role: Role, mean: float) -> float:
    """A plain map, by its value: no light and no metal are black, unhidden and covered are white."""
    black, white = mean < 0.02, mean > 0.98
    if role in (Role.OCCLUSION, Role.OPACITY):
        return 1.0 if white else 0.1
    if role is Role.EMISSIVE:
        return 1.0 if black else 0.2
    if role is Role.METALLIC:
        return 1.0 if black or white else 0.15
    if role in (Role.ROUGHNESS, Role.GLOSSINESS, Role.HEIGHT):
        return 0.3 if black or white else 1.0
    return 1.0


def of_look(look: Look, base: Look | None = None) -> dict[Role, float]:
    """How often a map of each role looks so, shares that need not sum to 1.

    base: the set's base colour, where it is known: reflection and gloss are often painted from it.
    """
    at = _KINDS.index(look.kind)
    likelihoods = {role: row[at] / 100 * _fine(role, look) for role, row in _LOOKS.items()}
    if base is not None and look.grey and look.resembles(base) > _SAME:
        for role in (Role.SPECULAR, Role.GLOSSINESS, Role.ROUGHNESS):
            likelihoods[role] *= 1.3
    return likelihoods


def pack_of_look(look: Look) -> float:
    """How often a packed file looks so."""
    if len(look.channels) < 3:
        return 1e-4
    return _PACK_LOOKS[_KINDS.index(look.kind)] / 100


def shares_of(scores: Mapping[object, float]) -> dict[object, float]:
    """Natural logarithms as shares that sum to 1, largest first.

    >>> [round(share, 3) for share in shares_of({"a": 0.0, "b": math.log(3)}).values()]
    [0.75, 0.25]
    """
    top = max(scores.values(), default=0.0)
    weights = {key: math.exp(score - top) for key, score in scores.items()}
    total = sum(weights.values())
    return {key: weight / total for key, weight in sorted(weights.items(), key=lambda item: -item[1])}


def mean_log(values: Iterable[float]) -> float:
    """The mean of natural logarithms; values below 1e-5 count as that, so that one odd file decides nothing."""
    logs = [math.log(max(value, 1e-5)) for value in values]
    return sum(logs) / max(1, len(logs))
