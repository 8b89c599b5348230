"""Value noise on a lattice of whole numbers: the same on every machine, and in a shader."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

__all__ = ["fractal", "lattice", "value_noise"]

Floats = NDArray[np.float64]
_LOW_BITS = 24
# Radians that octaves are turned against each other.
_TURN = 0.65


def _hashed(numbers: NDArray[np.uint32]) -> NDArray[np.uint32]:
    """The hash "pcg" of Jarzynski and Olano, Hash Functions for GPU Rendering (JCGT 9, 3, 2020); constants from
    memory, which are those of PCG-RXS-M-XS-32 (O'Neill 2014)."""
    state = numbers * np.uint32(747796405) + np.uint32(2891336453)
    word = ((state >> ((state >> np.uint32(28)) + np.uint32(4))) ^ state) * np.uint32(277803737)
    made: NDArray[np.uint32] = (word >> np.uint32(22)) ^ word
    return made


def lattice(x: NDArray[np.int64], y: NDArray[np.int64], seed: int) -> Floats:
    """A number from 0 to below 1 for each point of the lattice, shape as x and y.

    >>> lattice(np.array([0, 1]), np.array([0, 0]), 7).round(4).tolist()
    [0.8771, 0.242]
    """
    first = _hashed(np.full(1, seed, np.uint32))
    mixed = _hashed(y.astype(np.uint32) + first)
    made = _hashed(x.astype(np.uint32) + mixed)
    # 24 bits, so that a shader's 32-bit floats hold the same number.
    return (made >> np.uint32(32 - _LOW_BITS)).astype(np.float64) * 2.0**-_LOW_BITS


def value_noise(x: Floats, y: Floats, seed: int) -> Floats:
    """Smooth noise from 0 to 1: numbers of the lattice, faded into each other by 6t^5 - 15t^4 + 10t^3 (Perlin 2002)."""
    left, top = np.floor(x), np.floor(y)
    fx, fy = x - left, y - top
    fx, fy = (t * t * t * (t * (t * 6 - 15) + 10) for t in (fx, fy))
    i, j = left.astype(np.int64), top.astype(np.int64)
    upper = lattice(i, j, seed) * (1 - fx) + lattice(i + 1, j, seed) * fx
    lower = lattice(i, j + 1, seed) * (1 - fx) + lattice(i + 1, j + 1, seed) * fx
    return upper * (1 - fy) + lower * fy


def fractal(x: Floats, y: Floats, seed: int, octaves: int = 5, gain: float = 0.5) -> Floats:
    """Octaves of value noise, each of half the size and ``gain`` times as strong; from 0 to 1, shape as x and y."""
    total, strength, weight = np.zeros_like(x, dtype=np.float64), 1.0, 0.0
    for octave in range(octaves):
        # Each octave is turned further and shifted, so that their lattices do not lie on each other.
        cos, sin, shift = math.cos(_TURN * (octave + 1)), math.sin(_TURN * (octave + 1)), 0.5 * octave
        u, v = (cos * x - sin * y) * 2**octave + shift, (sin * x + cos * y) * 2**octave - shift
        total += strength * value_noise(u, v, seed + octave)
        weight += strength
        strength *= gain
    return total / weight
