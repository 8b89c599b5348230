"""Specular/glossiness to metallic/roughness, with what it loses.

The conversion published with the archived glTF extension KHR_materials_pbrSpecularGlossiness: metallic is the root of a
quadratic that makes a dielectric specular of 0.04 and the metal's own colour explain diffuse and specular at once. The
coefficients stand here from memory of that publication.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.strips import by_rows

__all__ = ["DIELECTRIC", "loss", "metallic_and_colour"]

DIELECTRIC = np.float32(0.04)
_TINY = np.float32(1e-6)
# Perceived brightness of linear red, green and blue, as that publication weighs them (Rec. ITU-R BT.601).
_BRIGHTNESS = np.array([0.299, 0.587, 0.114], np.float32)
Colour = NDArray[np.float32]


def _brightness(colour: Colour) -> NDArray[np.float32]:
    return np.sqrt(np.square(colour) @ _BRIGHTNESS)


def metallic_and_colour(diffuse: Colour, specular: Colour) -> tuple[NDArray[np.float32], Colour]:
    """Metallic, shape (h, w), and linear base colour, shape (h, w, 3), from linear diffuse and specular colours.

    Lossy: a black diffuse with a grey specular comes out metallic, whatever it was.
    """
    made = by_rows(lambda part: _converted(part[:, :, :3], part[:, :, 3:]), np.concatenate([diffuse, specular], axis=2))
    return made[:, :, 0], made[:, :, 1:]


def _largest(colour: Colour) -> NDArray[np.float32]:
    return np.maximum(np.maximum(colour[:, :, 0], colour[:, :, 1]), colour[:, :, 2])


def _converted(diffuse: Colour, specular: Colour) -> NDArray[np.float32]:
    """Metallic and colour, shape (h, w, 4)."""
    one_minus = 1 - _largest(specular)
    d, s = _brightness(diffuse), _brightness(specular)
    a = DIELECTRIC
    b = d * one_minus / (1 - DIELECTRIC) + s - 2 * DIELECTRIC
    c = DIELECTRIC - s
    root = (-b + np.sqrt(np.maximum(b * b - 4 * a * c, 0))) / (2 * a)
    metallic = np.where(s < DIELECTRIC, 0, np.clip(root, 0, 1)).astype(np.float32)
    m = metallic[:, :, None]
    from_diffuse = diffuse * (one_minus[:, :, None] / (1 - DIELECTRIC) / np.maximum(1 - m, _TINY))
    from_specular = (specular - DIELECTRIC * (1 - m)) / np.maximum(m, _TINY)
    colour = from_diffuse * (1 - m * m) + from_specular * (m * m)
    return np.concatenate([m, np.clip(colour, 0, 1)], axis=2).astype(np.float32)


def loss(diffuse: Colour, specular: Colour) -> NDArray[np.float32]:
    """Where the conversion cannot keep the look: largest channel difference, shape (h, w), 0 to 1.

    Diffuse and specular are made again from metallic and base colour (diffuse = colour (1 - metallic) scaled as above,
    specular = mix(0.04, colour, metallic)) and compared with what came in.
    """
    both = np.concatenate([diffuse, specular], axis=2)
    return by_rows(lambda part: _lost(part[:, :, :3], part[:, :, 3:]), both)


def _lost(diffuse: Colour, specular: Colour) -> NDArray[np.float32]:
    made = _converted(diffuse, specular)
    m, colour = made[:, :, :1], made[:, :, 1:]
    specular_again = DIELECTRIC * (1 - m) + colour * m
    one_minus = np.maximum(1 - _largest(specular_again)[:, :, None], _TINY)
    diffuse_again = colour * (1 - DIELECTRIC) * (1 - m) / one_minus
    off = np.maximum(np.abs(diffuse_again - diffuse), np.abs(specular_again - specular))
    return np.clip(_largest(off), 0, 1)
