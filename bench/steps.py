"""Recipe steps against the same step written in bare OpenCV, in one process, on a map of 4096 x 4096 in memory."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np

from demo.patterns import noise
from texel.image import Texels, narrow
from texel.normals.from_height import normals_from_height
from texel.recipes import apply_recipe
from texel.roles import Role, Transfer

__all__ = ["run"]

_SIDE, _RUNS, _WANTED = 4096, 5, 1.5
_EIGHT = np.dtype(np.uint8)
Pixels = np.ndarray[Any, np.dtype[Any]]


def _maps() -> dict[str, Texels]:
    relief = np.tile(noise(1024, 4, 0.8, 8), (_SIDE // 1024, _SIDE // 1024))
    vectors = normals_from_height(relief, 12)
    colour = np.clip(np.dstack([relief, relief * 0.8 + 0.1, 1 - relief]), 0, 1).astype(np.float32)
    return {
        "normal": Texels(narrow((vectors + 1) / 2, _EIGHT), "rgb", Transfer.LINEAR, Role.NORMAL),
        "colour": Texels(narrow(colour, _EIGHT), "rgb", Transfer.SRGB, Role.BASE_COLOR),
        "grey": Texels(narrow(relief[:, :, None], _EIGHT), "y", Transfer.LINEAR, Role.ROUGHNESS),
    }


def _lut(curve: Callable[[Pixels], Pixels]) -> Callable[[Pixels], Pixels]:
    table = np.round(np.clip(curve(np.arange(256) / 255), 0, 1) * 255).astype(np.uint8)
    return lambda pixels: cv2.LUT(pixels, table)


def _exchange(pixels: Pixels) -> Pixels:
    out = np.empty_like(pixels)
    cv2.mixChannels([pixels], [out], [1, 0, 0, 1, 2, 2])
    return out


def _levels(values: Pixels) -> Pixels:
    return np.clip((values - 0.2) / 0.8, 0, 1) ** 0.5


def _flip(pixels: Pixels) -> Pixels:
    out = pixels.copy()
    out[:, :, 1] = cv2.bitwise_not(np.ascontiguousarray(pixels[:, :, 1]))
    return out


def _vectors(pixels: Pixels) -> list[Pixels]:
    return list(cv2.split(cv2.addWeighted(pixels.astype(np.float32), 2 / 255, pixels.astype(np.float32), 0, -1)))


def _stored(x: Pixels, y: Pixels, z: Pixels) -> Pixels:
    length = cv2.sqrt(cv2.add(cv2.add(cv2.multiply(x, x), cv2.multiply(y, y)), cv2.multiply(z, z)))
    planes = [cv2.add(cv2.multiply(cv2.divide(one, length), 127.5), 127.5) for one in (x, y, z)]
    return cv2.merge([cv2.convertScaleAbs(one) for one in planes])


def _renormalise(pixels: Pixels) -> Pixels:
    return _stored(*_vectors(pixels))


def _strength(pixels: Pixels) -> Pixels:
    x, y, z = _vectors(pixels)
    return _stored(cv2.multiply(x, 2.0), cv2.multiply(y, 2.0), z)


def _from_height(pixels: Pixels) -> Pixels:
    height = cv2.copyMakeBorder(pixels, 1, 1, 1, 1, cv2.BORDER_WRAP).astype(np.float32)
    x = cv2.Scharr(height, cv2.CV_32F, 1, 0, scale=-8 / 32 / 255)[1:-1, 1:-1]
    y = cv2.Scharr(height, cv2.CV_32F, 0, 1, scale=8 / 32 / 255)[1:-1, 1:-1]
    length = cv2.sqrt(cv2.add(cv2.add(cv2.multiply(x, x), cv2.multiply(y, y)), 1.0))
    planes = [cv2.add(cv2.multiply(cv2.divide(one, length), 32767.5), 32767.5) for one in (x, y, np.ones_like(x))]
    return cv2.merge(planes).astype(np.uint16)


_DECODE = np.where(
    np.arange(256) / 255 <= 0.04045, np.arange(256) / 255 / 12.92, ((np.arange(256) / 255 + 0.055) / 1.055) ** 2.4
).astype(np.float32)


def _halve_colour(pixels: Pixels) -> Pixels:
    light = cv2.resize(cv2.LUT(pixels, _DECODE), (_SIDE // 2, _SIDE // 2), interpolation=cv2.INTER_AREA)
    high = cv2.add(cv2.multiply(cv2.pow(light, 1 / 2.4), 1.055), -0.055)
    encoded = np.where(light <= 0.0031308, light * 12.92, high)
    return cv2.convertScaleAbs(encoded, alpha=255)


_CASES: dict[str, tuple[str, list[dict[str, Any]], Callable[[Pixels], Pixels]]] = {
    "invert": ("grey", [{"step": "invert"}], cv2.bitwise_not),
    "levels": ("colour", [{"step": "levels", "black": 0.2, "gamma": 2}], _lut(_levels)),
    "power": ("grey", [{"step": "power", "exponent": 2}], _lut(lambda v: v**2)),
    "clamp": ("grey", [{"step": "clamp", "low": 0.2, "high": 0.8}], lambda p: cv2.min(cv2.max(p, 51), 204)),
    "extract_channel": ("colour", [{"step": "extract_channel", "channel": "g"}], lambda p: cv2.extractChannel(p, 1)),
    "exchange_channels": ("colour", [{"step": "exchange_channels"}], _exchange),
    "flip_green": ("normal", [{"step": "flip_green"}], _flip),
    "renormalise": ("normal", [{"step": "renormalise"}], _renormalise),
    "normal_strength": ("normal", [{"step": "normal_strength", "strength": 2}], _strength),
    "normal_from_height": ("grey", [{"step": "normal_from_height"}], _from_height),
    "resize colour": ("colour", [{"step": "resize", "width": _SIDE // 2, "height": _SIDE // 2}], _halve_colour),
}  # fmt: skip


def _seconds(work: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    made = work()
    return time.perf_counter() - start, made


def run() -> bool:
    """Print a line a step; whether every ratio is at most 1.5 and every result within two steps of the reference."""
    maps = _maps()
    good = True
    print(f"recipe steps on {_SIDE} x {_SIDE}, medians of {_RUNS} pairs in turn; reference: OpenCV {cv2.__version__}")
    for name, (which, recipe, reference) in _CASES.items():
        texels = maps[which]
        pixels = texels.pixels if texels.pixels.shape[2] > 1 else texels.pixels[:, :, 0]
        pairs = []
        for _ in range(_RUNS + 1):
            ours, made = _seconds(lambda t=texels, r=recipe: apply_recipe(t, r))
            theirs, wanted = _seconds(lambda p=pixels, f=reference: f(p))
            pairs.append((ours, theirs))
        ours, theirs = (statistics.median(column) for column in zip(*pairs[1:], strict=True))
        ratio = statistics.median(a / b for a, b in pairs[1:])
        scale = 257 if made.bits == 16 else 1
        apart = int(np.abs(made.pixels.reshape(wanted.shape).astype(int) - wanted).max()) / scale
        fine = ratio <= _WANTED and apart <= 2
        good = good and fine
        print(
            f"{name:<18} ours {ours * 1000:7.1f} ms   reference {theirs * 1000:7.1f} ms   ratio {ratio:5.2f}"
            f" (wanted at most {_WANTED})   {apart:.2f} steps apart{'' if fine else '   NOT AS WANTED'}",
            flush=True,
        )
    return good
