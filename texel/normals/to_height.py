"""A height field from a normal map: the integrable surface nearest to its slopes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from texel.normals.vectors import Vectors
from texel.planes import Plane, planes_of
from texel.strips import strips
from texel.threads import each, may_use

__all__ = ["height_from_normals", "height_from_planes"]

# Slopes beyond this belong to vectors that lie nearly flat in the surface; one of them would tilt everything.
_STEEPEST = np.float32(16.0)
# Rows of frequencies that are worked on at a time.
_ROWS = 64


def height_from_normals(vectors: Vectors, wrap: bool = True) -> NDArray[np.float32]:
    """Height in texels, shape (h, w), mean 0, of a Y+ normal map, shape (h, w, 3).

    Fourier projection onto integrable slopes (Frankot and Chellappa 1988): with p = -nx/nz, q = -ny/nz and the
    frequencies u, v, H = -i (u P + v Q) / (u^2 + v^2). wrap: the surface repeats; else it is mirrored at its borders.
    Float32 throughout: within a millionth of the height's span.
    """
    return height_from_planes(vectors.shape[0], vectors.shape[1], lambda rows: planes_of(vectors[rows]), wrap)


def height_from_planes(
    height: int, width: int, planes: Callable[[slice], tuple[Plane, ...]], wrap: bool = True
) -> NDArray[np.float32]:
    """As height_from_normals, of rows of x, y and z, each of shape (rows, width), that ``planes(rows)`` gives."""
    mirrored = 1 if wrap else 2
    # Both slopes as one complex field, p + i q: the real part of its projection is the height (see _project).
    field = np.empty((mirrored * height, mirrored * width), np.complex64)

    def put(rows: slice) -> None:
        x, y, z = planes(rows)
        z = np.maximum(z, 1 / _STEEPEST)
        part = field[rows, :width]
        part.real = np.clip(-x / z, -_STEEPEST, _STEEPEST)
        # Rows go down the picture, y goes up.
        part.imag = np.clip(y / z, -_STEEPEST, _STEEPEST)

    each(put, strips(height, 3 * width))
    if not wrap:
        # The mirror image of a height field is even; its slope across the mirror is odd.
        field[:height, width:] = -field[:height, width - 1 :: -1].conj()
        field[height:] = field[height - 1 :: -1].conj()
    return _project(field)[:height, :width]


def _project(field: NDArray[np.complex64]) -> NDArray[np.float32]:
    """The height whose slopes are nearest to p + i q, shape (h, w); the field is used up.

    With Z the spectrum of p + i q and w = u + i v, -i Z conj(w) / |w|^2 is the sum of H = -i (u P + v Q) / |w|^2 and of
    i times -i (u Q - v P) / |w|^2. Both come from real fields, so the height is the real part of what is transformed
    back: one transform in place instead of two beside each other.
    """
    # Loaded only here: it takes a tenth of a second.
    from scipy import fft

    height, width = field.shape
    u = _frequencies(width)
    v = _frequencies(height)
    field = fft.fft2(field, overwrite_x=True, workers=may_use())

    def project(top: int) -> None:
        rows = slice(top, top + _ROWS)
        squared = u[None, :] ** 2 + v[rows, None] ** 2
        squared[squared == 0] = 1
        factor = np.empty(squared.shape, np.complex64)
        factor.real = -v[rows, None] / squared
        factor.imag = -u[None, :] / squared
        field[rows] *= factor

    each(project, range(0, height, _ROWS))
    field[0, 0] = 0
    made: NDArray[np.float32] = fft.ifft2(field, overwrite_x=True, workers=may_use()).real
    return made


def _frequencies(count: int) -> NDArray[np.float32]:
    """Of each place of a spectrum, in radians a texel; 0 for the highest, whose slope is zero at every sample."""
    frequencies = 2 * np.pi * np.fft.fftfreq(count)
    return np.where(np.isclose(np.abs(frequencies), np.pi), 0, frequencies).astype(np.float32)
