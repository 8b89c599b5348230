"""A slow change of light over a picture taken out: one side was nearer to the lamp, or the lens darkens its corners."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.colour import luminance

__all__ = ["even_light", "even_values"]

Values = NDArray[np.float32]
# Texels a side on which what is slow is measured.
_SIDE = 256
_DARKEST = 1e-4


def _slow(plane: Values, reach: float) -> Values:
    """What changes slowly in a plane, shape (h, w): a Gaussian mean of a deviation of ``reach`` times its width, with
    mirrored borders."""
    height, width = plane.shape
    share = min(1.0, _SIDE / max(height, width))
    size = (max(1, round(width * share)), max(1, round(height * share)))
    small = cv2.resize(plane, size, interpolation=cv2.INTER_AREA) if share < 1 else plane
    mean = cv2.GaussianBlur(small, (0, 0), max(0.5, reach * size[0]), borderType=cv2.BORDER_REFLECT)
    return np.asarray(cv2.resize(mean, (width, height), interpolation=cv2.INTER_CUBIC), np.float32)


def even_light(linear: Values, reach: float = 0.25, strength: float = 1.0, by_channel: bool = False) -> Values:
    """Linear colour, shape (h, w, c), as under even light: divided by what changes slowly, the mean brightness kept.

    reach: 0.02 to 0.5, share of the width over which light changes. strength: 0 to 1. by_channel: the colour of the
    light is evened out as well. What was lit so darkly that nothing is left stays dark. Results may pass 1. The model,
    a picture as reflectance times illumination that changes slowly, is that of Land and McCann 1971 (Retinex).

    >>> ramp = np.linspace(0.25, 0.75, 64, dtype=np.float32)[None, :, None].repeat(64, 0)
    >>> bool(np.ptp(even_light(ramp, 0.1)) < 0.3 * np.ptp(ramp))
    True
    """
    if by_channel:
        planes = [linear[:, :, at] for at in range(linear.shape[2])]
    elif linear.shape[2] >= 3:
        planes = [luminance(linear[:, :, :3])]
    else:
        planes = [linear[:, :, 0]]
    factors = []
    for plane in planes:
        slow = np.maximum(_slow(np.ascontiguousarray(plane), reach), _DARKEST)
        even = (float(plane.mean()) / slow) ** strength
        # The mean of the whole is kept exactly, whatever the division did to it.
        factors.append(even * (float(plane.mean()) / max(float((plane * even).mean()), _DARKEST)))
    return np.asarray(linear * np.stack(factors, axis=2), np.float32)


def even_values(values: Values, reach: float = 0.25, strength: float = 1.0) -> Values:
    """Numbers that are no light, shape (h, w, c), without what changes slowly; their means are kept. Results may leave
    the range of the input."""
    planes = []
    for at in range(values.shape[2]):
        plane = np.ascontiguousarray(values[:, :, at])
        even = plane - strength * _slow(plane, reach)
        planes.append(even + (float(plane.mean()) - float(even.mean())))
    return np.asarray(np.stack(planes, axis=2), np.float32)
