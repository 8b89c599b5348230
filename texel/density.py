"""How many texels a surface needs for a camera: by distance and screen size rather than by the name of a resolution.

A camera that looks straight at a surface from a distance of d metres, with a vertical field of view of a, sees
2 d tan(a / 2) metres of it over the height of the screen (the pinhole camera; for one, Marschner and Shirley,
"Fundamentals of Computer Graphics", chapter "Viewing"). So many pixels fall on a metre of it there; a texture that
has as many texels a metre shows one texel a pixel. Turned away from the camera a surface needs fewer.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from texel.errors import BadDocument

__all__ = ["Fit", "Seen", "fits", "sharp_from", "texels_needed"]

# Bytes of a chain of mips against its largest level: 1 + 1/4 + 1/16 + ...
_WITH_MIPS = 4 / 3


class Seen(NamedTuple):
    """How a surface is looked at. distance: metres, of the nearest camera. height: of the screen, in pixels.

    angle: vertical field of view, in degrees. metres: length of surface that the width of the texture covers.
    """

    distance: float
    height: int = 1080
    angle: float = 60.0
    metres: float = 1.0


class Fit(NamedTuple):
    """How well one resolution fits. pixels: width of its maps. density: texels a metre. per_pixel: texels that fall on
    a pixel of the screen at the nearest; below 1 the picture is blurred. sharp_from: metres from which it is not.

    memory: bytes of one map at one byte a texel, with mips. wasted: the share of them that the resolution that is
    enough would spare. is_enough: whether it is that one.
    """

    pixels: int
    density: float
    per_pixel: float
    sharp_from: float
    memory: int
    wasted: float
    is_enough: bool


def _seen_metres(seen: Seen, distance: float) -> float:
    """Metres of surface over the height of the screen."""
    return 2 * distance * math.tan(math.radians(seen.angle) / 2)


def _check(seen: Seen) -> None:
    sound = (
        all(math.isfinite(value) and value > 0 for value in seen) and seen.distance <= 1e6 and seen.metres <= 1e6
        and seen.height <= 65536 and seen.angle < 180
    )  # fmt: skip
    if not sound:
        raise BadDocument(
            "say a distance and a size in metres, a height of the screen in pixels and a field of view below 180 "
            "degrees, all above zero"
        )


def texels_needed(seen: Seen) -> float:
    """Texels over the width of a texture that give one a pixel at the nearest. Raises BadDocument.

    At 90 degrees and 1 metre a screen shows 2 metres over its height:

    >>> round(texels_needed(Seen(distance=1, height=1000, angle=90, metres=1)), 6)
    500.0
    """
    _check(seen)
    return seen.height / _seen_metres(seen, seen.distance) * seen.metres


def sharp_from(pixels: int, seen: Seen) -> float:
    """Metres from which a texture of this width has a texel for each pixel. Raises BadDocument.

    >>> round(sharp_from(500, Seen(distance=4, height=1000, angle=90, metres=1)), 6)
    1.0
    """
    _check(seen)
    return seen.height * seen.metres / pixels / _seen_metres(seen, 1.0)


def fits(pixels: Sequence[int], seen: Seen) -> list[Fit]:
    """How well each of several resolutions fits, the smallest first. Enough is the smallest with a texel for each
    pixel, or the largest where none has. Raises BadDocument.

    >>> [(one.pixels, one.is_enough, one.wasted) for one in fits([1024, 256, 512], Seen(1, 1000, 90, 1))]
    [(256, False, 0.0), (512, True, 0.0), (1024, False, 0.75)]
    """
    needed = texels_needed(seen)
    sorted_pixels = sorted(set(pixels))
    enough = next((one for one in sorted_pixels if one >= needed * (1 - 1e-9)), sorted_pixels[-1])
    return [
        Fit(
            one, one / seen.metres, one / needed, sharp_from(one, seen), round(one * one * _WITH_MIPS),
            max(0.0, 1 - (enough / one) ** 2), one == enough,
        )
        for one in sorted_pixels
    ]  # fmt: skip
