"""The same steps written in plain NumPy, OpenCV and SciPy, on whole arrays of float32: what ours are measured by."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from scipy import fft

__all__ = [
    "combine", "double_colour", "double_normal", "exchange", "flip", "halve_colour", "height_from_normal", "levels",
    "lut", "make_tileable", "mips", "normal_from_height", "occlusion", "pack", "renormalise", "shrink_colour",
    "smooth_steps", "strength",
]  # fmt: skip

Pixels = np.ndarray[Any, np.dtype[Any]]
_CODES = np.arange(256) / 255
DECODE = np.where(_CODES <= 0.04045, _CODES / 12.92, ((_CODES + 0.055) / 1.055) ** 2.4).astype(np.float32)


def lut(curve: Callable[[Pixels], Pixels]) -> Callable[[Pixels], Pixels]:
    table = np.round(np.clip(curve(np.arange(256) / 255), 0, 1) * 255).astype(np.uint8)
    return lambda pixels: cv2.LUT(pixels, table)


def levels(values: Pixels) -> Pixels:
    return np.clip((values - 0.2) / 0.8, 0, 1) ** 0.5


def pack(*planes: Pixels) -> Pixels:
    return cv2.merge([np.ascontiguousarray(one[:, :, 0]) for one in planes])


def exchange(pixels: Pixels) -> Pixels:
    out = np.empty_like(pixels)
    cv2.mixChannels([pixels], [out], [1, 0, 0, 1, 2, 2])
    return out


def flip(pixels: Pixels) -> Pixels:
    out = pixels.copy()
    out[:, :, 1] = cv2.bitwise_not(np.ascontiguousarray(pixels[:, :, 1]))
    return out


def _vectors(pixels: Pixels) -> list[Pixels]:
    return list(cv2.split(cv2.addWeighted(pixels.astype(np.float32), 2 / 255, pixels.astype(np.float32), 0, -1)))


def _unit(x: Pixels, y: Pixels, z: Pixels) -> list[Pixels]:
    length = cv2.sqrt(cv2.add(cv2.add(cv2.multiply(x, x), cv2.multiply(y, y)), cv2.multiply(z, z)))
    return [cv2.divide(one, length) for one in (x, y, z)]


def _stored(x: Pixels, y: Pixels, z: Pixels) -> Pixels:
    planes = [cv2.add(cv2.multiply(one, 127.5), 127.5) for one in _unit(x, y, z)]
    return cv2.merge([cv2.convertScaleAbs(one) for one in planes])


def renormalise(pixels: Pixels) -> Pixels:
    return _stored(*_vectors(pixels))


def strength(pixels: Pixels) -> Pixels:
    x, y, z = _vectors(pixels)
    return _stored(cv2.multiply(x, 2.0), cv2.multiply(y, 2.0), z)


def combine(base: Pixels, detail: Pixels) -> Pixels:
    """Reoriented (Barré-Brisebois and Hill 2012)."""
    (x, y, z), (u, v, w) = _unit(*_vectors(base)), _unit(*_vectors(detail))
    z = cv2.add(z, 1.0)
    along = cv2.subtract(cv2.multiply(z, w), cv2.add(cv2.multiply(x, u), cv2.multiply(y, v)))
    along = cv2.divide(along, z)
    return _stored(
        cv2.add(cv2.multiply(x, along), u), cv2.add(cv2.multiply(y, along), v), cv2.subtract(cv2.multiply(z, along), w)
    )


def normal_from_height(pixels: Pixels) -> Pixels:
    height = cv2.copyMakeBorder(pixels, 1, 1, 1, 1, cv2.BORDER_WRAP).astype(np.float32)
    x = cv2.Scharr(height, cv2.CV_32F, 1, 0, scale=-8 / 32 / 255)[1:-1, 1:-1]
    y = cv2.Scharr(height, cv2.CV_32F, 0, 1, scale=8 / 32 / 255)[1:-1, 1:-1]
    length = cv2.sqrt(cv2.add(cv2.add(cv2.multiply(x, x), cv2.multiply(y, y)), 1.0))
    planes = [cv2.add(cv2.multiply(cv2.divide(one, length), 32767.5), 32767.5) for one in (x, y, np.ones_like(x))]
    return cv2.merge(planes).astype(np.uint16)


def height_from_normal(pixels: Pixels) -> Pixels:
    """Frankot and Chellappa 1988, transforms in float32 over all cores."""
    x, y, z = _vectors(pixels)
    z = cv2.max(z, 1 / 16)
    p, q = np.clip(-x / z, -16, 16), np.clip(y / z, -16, 16)
    workers = os.cpu_count()
    u = (2 * np.pi * fft.rfftfreq(p.shape[1])).astype(np.float32)[None, :]
    v = (2 * np.pi * fft.fftfreq(p.shape[0])).astype(np.float32)[:, None]
    u[:, -1], v[len(v) // 2] = 0, 0
    squared = u**2 + v**2
    squared[squared == 0] = 1
    spectrum = (u * fft.rfft2(p, workers=workers) + v * fft.rfft2(q, workers=workers)) * np.complex64(-1j) / squared
    spectrum[0, 0] = 0
    height = fft.irfft2(spectrum, p.shape, workers=workers)
    low, high = height.min(), height.max()
    return ((height - low) * (65535 / (high - low)) + 0.5).astype(np.uint16)


def _encoded(light: Pixels) -> Pixels:
    high = cv2.add(cv2.multiply(cv2.pow(cv2.max(light, 0), 1 / 2.4), 1.055), -0.055)
    return cv2.convertScaleAbs(np.where(light <= 0.0031308, light * 12.92, high), alpha=255)


def halve_colour(pixels: Pixels) -> Pixels:
    size = (pixels.shape[1] // 2, pixels.shape[0] // 2)
    return _encoded(cv2.resize(cv2.LUT(pixels, DECODE), size, interpolation=cv2.INTER_AREA))


def shrink_colour(pixels: Pixels) -> Pixels:
    return _encoded(cv2.resize(cv2.LUT(pixels, DECODE), (1000, 1000), interpolation=cv2.INTER_AREA))


def _doubled(values: Pixels) -> Pixels:
    """OpenCV's own Lanczos filter, borders wrapped."""
    around = cv2.copyMakeBorder(values, 8, 8, 8, 8, cv2.BORDER_WRAP)
    size = (around.shape[1] * 2, around.shape[0] * 2)
    return np.ascontiguousarray(cv2.resize(around, size, interpolation=cv2.INTER_LANCZOS4)[16:-16, 16:-16])


def double_colour(pixels: Pixels) -> Pixels:
    return _encoded(np.clip(_doubled(cv2.LUT(pixels, DECODE)), 0, 1))


def double_normal(pixels: Pixels) -> Pixels:
    return _stored(*cv2.split(_doubled(cv2.merge(_vectors(pixels)))))


def mips(pixels: Pixels) -> Pixels:
    """A colour's chain; the first smaller level is given back to compare."""
    light, levels = cv2.LUT(pixels, DECODE), []
    while max(light.shape[:2]) > 1:
        light = cv2.resize(light, (light.shape[1] // 2, light.shape[0] // 2), interpolation=cv2.INTER_AREA)
        levels.append(_encoded(light))
    return levels[0]


_NEAR = (1, 2, 3, 4, 5, 6, 7, 8, 10, 12, 14, 16)


def occlusion(pixels: Pixels) -> Pixels:
    """Horizons in 16 directions on whole arrays, each level of half the size looking twice as far."""
    fields = [pixels.astype(np.float32) * np.float32(8 / 255)]
    while 16 * 2 ** (len(fields) - 1) < max(pixels.shape) / 4:
        size = (fields[-1].shape[1] // 2, fields[-1].shape[0] // 2)
        fields.append(cv2.resize(fields[-1], size, interpolation=cv2.INTER_AREA))
    total = np.zeros_like(fields[0])
    for at in range(16):
        steepest = None
        for number in reversed(range(len(fields))):
            steepness = _steepest(fields[number], 2**number, 2 * np.pi * (at + 0.5) / 16, max(pixels.shape) / 4)
            if steepest is not None:
                steepness = cv2.max(
                    steepness, cv2.resize(steepest, steepness.shape[::-1], interpolation=cv2.INTER_LINEAR)
                )
            steepest = steepness
        total += 1 / (1 + cv2.multiply(steepest, steepest))
    return cv2.convertScaleAbs(total, alpha=255 / 16)


def _steepest(field: Pixels, step: int, angle: float, farthest: float) -> Pixels:
    around = cv2.copyMakeBorder(field, 16, 16, 16, 16, cv2.BORDER_WRAP)
    best = np.zeros_like(field)
    for distance in _NEAR if step == 1 else (9, 10, 11, 12, 14, 16):
        if distance * step > farthest:
            continue
        y, x = round(distance * np.sin(angle)), round(distance * np.cos(angle))
        there = around[16 + y : 16 + y + len(field), 16 + x : 16 + x + field.shape[1]]
        share = 1 / (step * np.hypot(y, x))
        best = cv2.max(best, cv2.addWeighted(there, share, field, -share, 0))
    return best


def make_tileable(pixels: Pixels) -> Pixels:
    """Both pairs of borders faded into the picture moved by half its side, contrast kept."""
    values = pixels.astype(np.float32)
    for axis in (1, 0):
        count = values.shape[axis]
        at = (np.arange(count, dtype=np.float32) + 0.5) / count
        inwards = np.clip(np.minimum(at, 1 - at) / 0.2, 0, 1)
        weight = 1 - inwards**2 * (3 - 2 * inwards)
        length = np.sqrt(weight**2 + (1 - weight) ** 2)
        shape = [1, 1, 1]
        shape[axis] = count
        own, others = ((1 - weight) / length).reshape(shape), (weight / length).reshape(shape)
        mean = values.mean(axis=(0, 1), keepdims=True)
        values = values * own + np.roll(values, count // 2, axis) * others + mean * (1 - own - others)
    return cv2.convertScaleAbs(np.clip(values, 0, 255))


def smooth_steps(pixels: Pixels) -> Pixels:
    """Steps of 1/40 smoothed out of a height that lies in plateaus everywhere."""
    height = pixels.astype(np.float32) / 255
    half = np.float32((0.5 - 1 / 64) / 40)
    low, high, smooth = height - half, height + half, height
    for sigma in 4 * (1 / 4) ** (np.arange(60) / 59):
        reach = round(4 * sigma)
        around = cv2.copyMakeBorder(smooth, reach, reach, reach, reach, cv2.BORDER_WRAP)
        blurred = cv2.GaussianBlur(around, (2 * reach + 1, 2 * reach + 1), sigma)[reach:-reach, reach:-reach]
        smooth = cv2.min(cv2.max(blurred, low), high)
    return (np.clip(smooth, 0, 1) * 65535 + 0.5).astype(np.uint16)
