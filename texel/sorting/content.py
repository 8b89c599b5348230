"""What a picture could be, from its pixels alone. Used where names say nothing."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from texel.image import Texels, to_unit
from texel.normals.vectors import decode, lengths
from texel.resize import reduced
from texel.roles import Role

__all__ = ["Guess", "guess_roles", "is_coloured"]

_SIDE = 256
# A channel spread, 0 to 1, above which a texel counts as coloured: three 8-bit steps are JPEG noise.
_COLOURED = 0.03


class Guess(NamedTuple):
    role: Role
    confidence: float
    why: str


def is_coloured(texels: Texels) -> bool:
    """Whether more than 2 % of the texels differ visibly between red, green and blue."""
    if texels.channels[0] == "y":
        return False
    rgb = to_unit(reduced(texels, _SIDE).pixels)[:, :, :3]
    return bool(np.mean(rgb.max(axis=2) - rgb.min(axis=2) > _COLOURED) > 0.02)


def guess_roles(texels: Texels) -> list[Guess]:
    """Likeliest roles, best first, at most three. Confidences are rough: they rank, they do not promise."""
    small = reduced(texels, _SIDE)
    if is_coloured(small):
        return _guess_coloured(small)
    return _guess_grey(to_unit(small.pixels)[:, :, 0])


def _guess_coloured(small: Texels) -> list[Guess]:
    vectors = decode(small)
    length = lengths(vectors)
    unit = float(np.mean(np.abs(length - 1) < 0.12))
    if unit > 0.85 and float(vectors[:, :, 2].mean()) > 0.5:
        return [Guess(Role.NORMAL, 0.9, f"{unit:.0%} of its texels are unit vectors")]
    values = to_unit(small.pixels)[:, :, :3].max(axis=2)
    if float(np.mean(values < 0.04)) > 0.6:
        return [
            Guess(Role.EMISSIVE, 0.5, "a coloured picture that is mostly black"),
            Guess(Role.BASE_COLOR, 0.4, "a coloured picture"),
        ]
    return [
        Guess(Role.BASE_COLOR, 0.6, "a coloured picture that holds no unit vectors"),
        Guess(Role.EMISSIVE, 0.1, "a coloured picture"),
    ]


def _guess_grey(values: np.ndarray) -> list[Guess]:
    extremes = float(np.mean((values < 0.04) | (values > 0.96)))
    mean = float(values.mean())
    if extremes > 0.9:
        return [
            Guess(Role.OPACITY, 0.4, "grey, nearly only black and white"),
            Guess(Role.METALLIC, 0.4, "grey, nearly only black and white"),
        ]
    if mean > 0.75:
        return [
            Guess(Role.OCCLUSION, 0.5, f"grey and mostly bright (mean {mean:.2f})"),
            Guess(Role.ROUGHNESS, 0.35, "grey"),
            Guess(Role.HEIGHT, 0.1, "grey"),
        ]
    return [
        Guess(Role.ROUGHNESS, 0.4, f"grey with mid values (mean {mean:.2f})"),
        Guess(Role.HEIGHT, 0.35, f"grey with mid values (mean {mean:.2f})"),
        Guess(Role.GLOSSINESS, 0.15, "grey"),
    ]
