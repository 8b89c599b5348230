"""Tileable patterns: float32 fields of shape (n, n), most of them 0 to 1. Every one wraps around at its border."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["Field", "blur", "cells", "grid", "mix", "noise", "ramp", "smoothstep", "tint", "warp", "wave"]

Field = NDArray[np.float32]


def grid(n: int) -> tuple[Field, Field]:
    """x and y, 0 to 1, growing right and down."""
    y, x = np.mgrid[0:n, 0:n].astype(np.float32) / np.float32(n)
    return x, y


def noise(n: int, seed: int, rough: float = 1.6, low: float = 1.0, stretch: tuple[float, float] = (1, 1)) -> Field:
    """Noise with a 1/f^rough spectrum from ``low`` periods a tile up.

    stretch: for x and y; below 1 makes features longer along that axis.
    """
    rng = np.random.default_rng(seed)
    fy = np.fft.fftfreq(n)[:, None] * n / stretch[1]
    fx = np.fft.rfftfreq(n)[None, :] * n / stretch[0]
    frequency = np.sqrt(fx**2 + fy**2)
    shape = np.where(frequency >= low, 1 / np.maximum(frequency, 1e-6) ** rough, 0)
    field = np.fft.irfft2(np.fft.rfft2(rng.standard_normal((n, n))) * shape, s=(n, n))
    low_end, high_end = np.percentile(field, [0.5, 99.5])
    return np.clip((field - low_end) / (high_end - low_end), 0, 1).astype(np.float32)


def cells(n: int, across: int, seed: int, jitter: float = 0.9) -> tuple[Field, Field, Field]:
    """Scattered points: distance to the nearest, to the second nearest (in cells), and a value 0 to 1 for each cell."""
    rng = np.random.default_rng(seed)
    points = 0.5 + (rng.random((across, across, 2)) - 0.5) * jitter
    values = rng.random((across, across)).astype(np.float32)
    x, y = (axis * across for axis in grid(n))
    column, row = np.floor(x).astype(int), np.floor(y).astype(int)
    first = np.full((n, n), 9, np.float32)
    second = first.copy()
    value = np.zeros((n, n), np.float32)
    for down in (-1, 0, 1):
        for right in (-1, 0, 1):
            at = ((row + down) % across, (column + right) % across)
            dx = column + right + points[..., 0][at] - x
            dy = row + down + points[..., 1][at] - y
            distance = np.sqrt(dx**2 + dy**2).astype(np.float32)
            nearer = distance < first
            second = np.where(nearer, first, np.minimum(second, distance))
            first = np.where(nearer, distance, first)
            value = np.where(nearer, values[at], value)
    return first, second, value


def smoothstep(low: float, high: float, field: Field) -> Field:
    """0 below ``low``, 1 above ``high``, a smooth ramp between."""
    t = np.clip((field - low) / (high - low), 0, 1)
    return (t * t * (3 - 2 * t)).astype(np.float32)


def wave(phase: Field) -> Field:
    """A sine, 0 to 1, of a phase in periods."""
    return (0.5 + 0.5 * np.sin(2 * np.pi * phase)).astype(np.float32)


def ramp(phase: Field) -> Field:
    """A triangle, 0 to 1, of a phase in periods."""
    return (1 - np.abs((phase % 1) * 2 - 1)).astype(np.float32)


def blur(field: Field, radius: float) -> Field:
    """Gaussian blur by ``radius`` texels around the border."""
    pad = int(radius * 3) + 1
    return cv2.GaussianBlur(np.pad(field, pad, mode="wrap"), (0, 0), radius)[pad:-pad, pad:-pad]


def warp(field: Field, dx: Field, dy: Field) -> Field:
    """``field`` shifted by dx, dy texels at each place."""
    n = field.shape[0]
    y, x = np.mgrid[0:n, 0:n]
    return field[(y + dy.astype(int)) % n, (x + dx.astype(int)) % n]


def mix(a, b, t: Field):
    """a where t is 0, b where t is 1; colours or fields."""
    a, b = np.asarray(a, np.float32), np.asarray(b, np.float32)
    t = t[..., None] if max(a.ndim, b.ndim) == 3 or a.shape == (3,) or b.shape == (3,) else t
    return (a + (b - a) * t).astype(np.float32)


def tint(*stops: str):
    """A function from a field, 0 to 1, to colours along sRGB stops such as "#c8a070"."""
    colours = np.array([[int(s[i : i + 2], 16) / 255 for i in (1, 3, 5)] for s in stops], np.float32)

    def colour(field: Field):
        at = np.clip(field, 0, 1) * (len(stops) - 1)
        index = np.minimum(at.astype(int), len(stops) - 2)
        share = (at - index)[..., None]
        return (colours[index] * (1 - share) + colours[index + 1] * share).astype(np.float32)

    return colour
