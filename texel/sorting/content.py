"""What a picture could be, from its pixels alone. Used where names say nothing."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from texel.image import Texels, to_unit
from texel.messages import message_of
from texel.resize import reduced
from texel.roles import Role
from texel.sorting.likelihood import BASE_SHARE, of_look
from texel.sorting.looks import COLOURED_SHARE, COLOURED_SPREAD, Kind, Look, look_at
from texel.wording import because

__all__ = ["Guess", "guess_roles", "is_coloured"]

_SIDE = 256
# Pixels alone are never surer than this.
_SUREST = 0.9
_MOST = 3


class Guess(NamedTuple):
    role: Role
    confidence: float
    why: str


def is_coloured(texels: Texels) -> bool:
    """Whether more than 2 % of the texels differ visibly between red, green and blue."""
    if texels.channels[0] == "y":
        return False
    rgb = to_unit(reduced(texels, _SIDE).pixels)[:, :, :3]
    return bool(np.mean(rgb.max(axis=2) - rgb.min(axis=2) > COLOURED_SPREAD) > COLOURED_SHARE)


def guess_roles(texels: Texels) -> list[Guess]:
    """Likeliest roles, best first, at most three. Confidences are rough: they rank, they do not promise."""
    look = look_at(texels)
    weighed = {role: share * BASE_SHARE[role] for role, share in of_look(look).items()}
    total = sum(weighed.values())
    best = sorted(weighed, key=lambda role: -weighed[role])[:_MOST]
    return [Guess(role, min(_SUREST, weighed[role] / total), _why(look)) for role in best]


def _why(look: Look) -> str:
    if look.kind is Kind.NORMAL:
        return message_of("why_vectors")
    if look.grey:
        grey = look.channels[0]
        told = message_of("picture_looks", look=grey.word) if grey.word else message_of("picture_grey", mean=grey.mean)
        return because(told, message_of("picture_bits", bits=look.bits), between=" ") if look.bits > 8 else told
    return message_of("why_kind", kind=look.kind) if look.kind is not Kind.PACK else message_of("why_unlike")
