"""Which channel of a packed file holds what, from how its channels look in all files of a habit."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from texel.messages import message_of
from texel.naming.tokens import Pack
from texel.roles import Role
from texel.sorting.likelihood import mean_log, shares_of
from texel.sorting.looks import ChannelLook, Look
from texel.wording import Message, Reasons, because

__all__ = ["PackGuess", "channels_in_words", "chosen_layout", "fits", "likeliest_layouts"]

# Layouts that several programs and houses use, with their shares (common practice). What a channel does not hold is
# left black or white.
_LAYOUTS: tuple[tuple[float, Pack], ...] = (
    (0.36, (("r", Role.OCCLUSION), ("g", Role.ROUGHNESS), ("b", Role.METALLIC))),
    (0.26, (("g", Role.ROUGHNESS), ("b", Role.METALLIC))),
    (0.08, (("r", Role.METALLIC), ("g", Role.ROUGHNESS), ("b", Role.OCCLUSION))),
    (0.05, (("r", Role.ROUGHNESS), ("g", Role.METALLIC), ("b", Role.OCCLUSION))),
    (0.05, (("r", Role.METALLIC), ("g", Role.ROUGHNESS))),
    (0.04, (("r", Role.ROUGHNESS), ("g", Role.METALLIC))),
    (0.04, (("r", Role.OCCLUSION), ("g", Role.ROUGHNESS), ("b", Role.HEIGHT))),
    (0.03, (("r", Role.GLOSSINESS), ("g", Role.METALLIC))),
    (0.01, (("r", Role.METALLIC), ("g", Role.OCCLUSION), ("b", Role.GLOSSINESS))),
    (0.02, (("r", Role.METALLIC), ("g", Role.GLOSSINESS))),
)


class PackGuess(NamedTuple):
    """A layout with its share, 0 to 1, among all that were considered."""

    layout: Pack
    share: float


def _bell(value: float, middle: float, width: float) -> float:
    return math.exp(-0.5 * ((value - middle) / width) ** 2)


def _of_channel(role: Role | None, look: ChannelLook, over: float | None) -> float:
    """How often a channel that holds ``role`` looks so; None: nothing. over: its mean where there is no metal."""
    mean = look.mean if over is None else over
    if role is None:
        return 0.9 if look.plain else 0.04
    if role is Role.METALLIC:
        if look.plain:
            return 0.5 if look.mean < 0.02 else 0.25 if look.mean > 0.98 else 0.02
        return 0.1 + 0.9 * max(0.0, look.extremes - 0.3)
    if role is Role.OCCLUSION:
        if look.plain:
            return 0.5 if look.mean > 0.98 else 0.01
        return 0.8 if look.mean > 0.75 else 0.25 if look.mean > 0.5 else 0.03
    rather = _bell(mean, 0.62, 0.22) if role is Role.ROUGHNESS else _bell(mean, 0.33, 0.22)
    if role is Role.HEIGHT:
        rather = 0.6
    if look.plain:
        # Full roughness is what a file says that has none to say.
        return 0.15 * rather if look.mean < 0.98 else 0.12 if role is Role.ROUGHNESS else 0.01
    # A mask of two values is seldom roughness; everything in between is.
    return (0.05 + rather) * (1.1 - look.extremes)


def fits(layout: Pack, looks: Iterable[Look]) -> float:
    """Mean natural logarithm of how well files look like a layout: near 0 well, below -3 hardly."""
    held = dict(layout)
    metal = next((letter for letter, role in layout if role is Role.METALLIC), None)
    scores = []
    for look in looks:
        if len(look.channels) < 3:
            return math.log(1e-5)
        channels = dict(zip("rgb", look.channels, strict=False))
        if look.alpha is not None:
            channels["a"] = look.alpha
        score = 1.0
        for letter, channel in channels.items():
            role = held.get(letter)
            if letter == "a" and role is None:
                continue
            over = None
            if role in (Role.ROUGHNESS, Role.GLOSSINESS) and metal in channels and look.apart is not None:
                over = look.apart.get((letter, metal or ""))
            score *= _of_channel(role, channel, over)
        scores.append(score if all(letter in channels for letter in held if letter) else 1e-5)
    return mean_log(scores) if scores else 0.0


def likeliest_layouts(looks: Sequence[Look]) -> list[PackGuess]:
    """Layouts for files that are packed alike, likeliest first. More files than one say more, but not as many times."""
    weight = min(3.0, math.sqrt(len(looks)))
    scores: dict[object, float] = {layout: math.log(share) + weight * fits(layout, looks) for share, layout in _LAYOUTS}
    return [PackGuess(layout, share) for layout, share in shares_of(scores).items()]  # type: ignore[arg-type]


def chosen_layout(guesses: Sequence[PackGuess], looks: Sequence[Look]) -> PackGuess:
    """The best layout with the share of all that agree with it, channels left out that are plain in every file."""
    best = dict(guesses[0].layout)
    agree = 0.0
    for guess in guesses:
        other = dict(guess.layout)
        if all(other[letter] is best[letter] for letter in other if letter in best):
            agree += guess.share if set(other) & set(best) else 0.0
    plain = {
        letter
        for at, letter in enumerate("rgb")
        if all(look.channels[at].plain and look.channels[at].mean > 0.98 for look in looks)
    }
    kept = tuple((at, role) for at, role in best.items() if not (at in plain and role is Role.OCCLUSION))
    return PackGuess(kept, agree)


def channels_in_words(look: Look, layout: Pack = ()) -> Reasons:
    """What each channel looks like, and what it may hold: for a person to decide."""
    held = dict(layout)
    named = zip("rgb", look.channels, strict=False)
    return because(*(_channel_in_words(letter.upper(), one, held.get(letter)) for letter, one in named), between=", ")


def _channel_in_words(letter: str, look: ChannelLook, role: Role | None) -> Message:
    if role is None:
        if look.word:
            return message_of("channel_looks", channel=letter, look=look.word)
        return message_of("channel_grey", channel=letter, mean=look.mean)
    if look.word:
        return message_of("channel_looks_like", channel=letter, look=look.word, role=role)
    return message_of("channel_grey_like", channel=letter, mean=look.mean, role=role)
