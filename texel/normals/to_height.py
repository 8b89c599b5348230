"""A height field from a normal map: the integrable surface nearest to its slopes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.normals.vectors import Vectors

__all__ = ["height_from_normals"]

# Slopes beyond this belong to vectors that lie nearly flat in the surface; one of them would tilt everything.
_STEEPEST = 16.0


def height_from_normals(vectors: Vectors, wrap: bool = True) -> NDArray[np.float32]:
    """Height in texels, shape (h, w), mean 0, of a Y+ normal map, shape (h, w, 3).

    Fourier projection onto integrable slopes (Frankot and Chellappa 1988): with p = -nx/nz, q = -ny/nz and the
    frequencies u, v, H = -i (u P + v Q) / (u^2 + v^2). wrap: the surface repeats; else it is mirrored at its borders.
    """
    z = np.maximum(vectors[:, :, 2], np.float32(1 / _STEEPEST))
    p = np.clip(-vectors[:, :, 0] / z, -_STEEPEST, _STEEPEST)
    # Rows go down the picture, y goes up.
    q = -np.clip(-vectors[:, :, 1] / z, -_STEEPEST, _STEEPEST)
    if wrap:
        return _project(p, q)
    # The mirror image of a height field is even; its slope across the mirror is odd.
    p = np.concatenate([p, -p[:, ::-1]], axis=1)
    p = np.concatenate([p, p[::-1]], axis=0)
    q = np.concatenate([q, q[:, ::-1]], axis=1)
    q = np.concatenate([q, -q[::-1]], axis=0)
    return _project(p, q)[: vectors.shape[0], : vectors.shape[1]]


def _project(p: NDArray[np.floating], q: NDArray[np.floating]) -> NDArray[np.float32]:
    height, width = p.shape
    u = 2 * np.pi * np.fft.rfftfreq(width)[None, :]
    v = 2 * np.pi * np.fft.fftfreq(height)[:, None]
    # The slope of the highest frequency is zero at every sample; it tells nothing.
    u = np.where(np.isclose(u, np.pi), 0, u)
    v = np.where(np.isclose(np.abs(v), np.pi), 0, v)
    squared = u**2 + v**2
    spectrum = -1j * (u * np.fft.rfft2(p) + v * np.fft.rfft2(q)) / np.where(squared > 0, squared, 1)
    spectrum[0, 0] = 0
    return np.fft.irfft2(spectrum, s=(height, width)).astype(np.float32)
