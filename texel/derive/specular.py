"""Specular/glossiness to metallic/roughness, with what it loses.

The conversion published with the archived glTF extension KHR_materials_pbrSpecularGlossiness: metallic is the root of a
quadratic that makes a dielectric specular of 0.04 and the metal's own colour explain diffuse and specular at once. The
coefficients stand here from memory of that publication.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.planes import Plane, joined, planes_of
from texel.strips import by_rows

__all__ = ["DIELECTRIC", "loss", "metallic_and_colour"]

DIELECTRIC = np.float32(0.04)
_TINY = np.float32(1e-6)
# Perceived brightness of linear red, green and blue, as that publication weighs them (Rec. ITU-R BT.601).
_BRIGHTNESS = (np.float32(0.299), np.float32(0.587), np.float32(0.114))
Colour = NDArray[np.float32]
Planes = tuple[Plane, ...]


def _brightness(colour: Planes) -> Plane:
    return np.sqrt(sum(weight * plane * plane for weight, plane in zip(_BRIGHTNESS, colour, strict=True)))


def metallic_and_colour(diffuse: Colour, specular: Colour) -> tuple[Plane, Colour]:
    """Metallic, shape (h, w), and linear base colour, shape (h, w, 3), from linear diffuse and specular colours.

    Lossy: a black diffuse with a grey specular comes out metallic, whatever it was.
    """
    made = by_rows(lambda part: joined(*_converted(*_halves(part))), joined(diffuse, specular))
    return made[:, :, 0], made[:, :, 1:]


def _halves(both: Colour) -> tuple[Planes, Planes]:
    planes = planes_of(both)
    return planes[:3], planes[3:]


def _largest(colour: Planes) -> Plane:
    return np.maximum(np.maximum(colour[0], colour[1]), colour[2])


def _converted(diffuse: Planes, specular: Planes) -> Planes:
    """Metallic, and the colour's three planes."""
    one_minus = 1 - _largest(specular)
    d, s = _brightness(diffuse), _brightness(specular)
    a = DIELECTRIC
    b = d * one_minus / (1 - DIELECTRIC) + s - 2 * DIELECTRIC
    c = DIELECTRIC - s
    root = (-b + np.sqrt(np.maximum(b * b - 4 * a * c, 0))) / (2 * a)
    m = np.where(s < DIELECTRIC, np.float32(0), np.clip(root, 0, 1))
    squared, rest = m * m, DIELECTRIC * (1 - m)
    from_diffuse = one_minus / (1 - DIELECTRIC) / np.maximum(1 - m, _TINY) * (1 - squared)
    from_specular = squared / np.maximum(m, _TINY)
    pairs = zip(diffuse, specular, strict=True)
    return m, *(np.clip(one * from_diffuse + (other - rest) * from_specular, 0, 1) for one, other in pairs)


def loss(diffuse: Colour, specular: Colour) -> Plane:
    """Where the conversion cannot keep the look: largest channel difference, shape (h, w), 0 to 1.

    Diffuse and specular are made again from metallic and base colour (diffuse = colour (1 - metallic) scaled as above,
    specular = mix(0.04, colour, metallic)) and compared with what came in.
    """
    return by_rows(lambda part: _lost(*_halves(part)), joined(diffuse, specular))


def _lost(diffuse: Planes, specular: Planes) -> Plane:
    m, *colour = _converted(diffuse, specular)
    rest = DIELECTRIC * (1 - m)
    specular_again = tuple(rest + plane * m for plane in colour)
    scale = (1 - DIELECTRIC) * (1 - m) / np.maximum(1 - _largest(specular_again), _TINY)
    off = np.zeros_like(m)
    for plane, again, one, other in zip(colour, specular_again, diffuse, specular, strict=True):
        off = np.maximum(off, np.maximum(np.abs(plane * scale - one), np.abs(again - other)))
    return np.minimum(off, 1)
