"""What a picture could be, from its pixels alone. Used where names say nothing."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np

from texel.image import Texels, to_unit
from texel.normals.vectors import decode, lengths
from texel.resize import reduced
from texel.roles import Role

__all__ = ["Guess", "guess_roles", "is_coloured"]

_SIDE = 256
# A channel spread, 0 to 1, above which a texel counts as coloured: three 8-bit steps are JPEG noise.
_COLOURED = 0.03
# Mean curvature over spread: relief is smoother than what weathers on it.
_SMOOTH = 0.55


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
    return _guess_grey(np.ascontiguousarray(to_unit(small.pixels)[:, :, 0]), texels.bits)


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


def _guess_grey(values: np.ndarray, bits: int) -> list[Guess]:
    """Thresholds were chosen on the labelled set (bench/labelled.py); 16 bits speak for height (common practice)."""
    extremes = float(np.mean((values < 0.04) | (values > 0.96)))
    mean, spread = float(values.mean()), max(float(values.std()), 1e-6)
    if extremes > 0.85 and float(values.min()) < 0.04 and float(values.max()) > 0.96 and not _leans_to_white(values):
        return [
            Guess(Role.METALLIC, 0.45, "grey, nearly only black and white"),
            Guess(Role.OPACITY, 0.4, "grey, nearly only black and white"),
        ]
    if bits > 8:
        return [
            Guess(Role.HEIGHT, 0.75, f"grey with {bits} bits"),
            Guess(Role.ROUGHNESS, 0.1, "grey"),
            Guess(Role.OCCLUSION, 0.1, "grey"),
        ]
    if _leans_to_white(values):
        return [
            Guess(Role.OCCLUSION, 0.6, f"grey, mostly white with dark hollows (mean {mean:.2f})"),
            Guess(Role.HEIGHT, 0.2, "grey"),
            Guess(Role.ROUGHNESS, 0.15, "grey"),
        ]
    detail = float(np.abs(cv2.Laplacian(values, cv2.CV_32F)).mean()) / spread
    if detail < _SMOOTH:
        return [
            Guess(Role.HEIGHT, 0.45, f"grey and smooth (detail {detail:.2f} of its spread)"),
            Guess(Role.ROUGHNESS, 0.35, "grey"),
            Guess(Role.GLOSSINESS, 0.1, "grey"),
        ]
    return [
        Guess(Role.ROUGHNESS, 0.5, f"grey with fine detail ({detail:.2f} of its spread)"),
        Guess(Role.HEIGHT, 0.25, "grey"),
        Guess(Role.GLOSSINESS, 0.15, "grey"),
    ]


def _leans_to_white(values: np.ndarray) -> bool:
    """Whether open places are white and few are dark, as in occlusion: a tail towards black."""
    mean, spread = float(values.mean()), max(float(values.std()), 1e-6)
    skew = float((((values - mean) / spread) ** 3).mean())
    return skew < -0.5 and float(np.percentile(values, 95)) > 0.9 and spread > 0.05
