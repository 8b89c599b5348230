"""The reference for baking layers: a program written by hand for one sheet, NumPy and OpenCV in strips.

It does what bench.materials bakes: four times base colour, pack and normal map, mixed by the vertex colour, into five
maps. Its maps are enlarged by a whole factor, which OpenCV does in one call; it knows no parameter that is not used.
"""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np

__all__ = ["bake_by_hand"]

_STRIP = 32
_DIRT, _WEIGHT_LOW, _WEIGHT_HIGH = np.float32(0.25), np.float32(0.25), np.float32(0.75)


def _decoding() -> np.ndarray:
    values = np.arange(256) / 255
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4).astype(np.float32)


def _enlarged(padded: np.ndarray, table: np.ndarray, top: int, scale: int) -> np.ndarray:
    """Some rows of a map that repeats, decoded and enlarged. padded: with one texel more on every side."""
    count = _STRIP // scale
    part = table[padded[top // scale : top // scale + count + 2]]
    size = (part.shape[1] * scale, part.shape[0] * scale)
    return cv2.resize(part, size, interpolation=cv2.INTER_LINEAR)[scale:-scale, scale:-scale]


def _unit(v: np.ndarray) -> np.ndarray:
    length = np.sqrt(np.einsum("ijk,ijk->ij", v, v))
    return v / np.maximum(length, np.float32(1e-6))[..., None]


def _encoded(linear: np.ndarray) -> np.ndarray:
    linear = np.clip(linear, 0, 1)
    curve = 1.055 * cv2.pow(linear, 1 / 2.4) - np.float32(0.055)
    return np.where(linear <= 0.0031308, linear * np.float32(12.92), curve)


def _stored(values: np.ndarray) -> np.ndarray:
    return np.round(np.clip(values, 0, 1) * np.float32(255)).astype(np.uint8)


def bake_by_hand(maps: Mapping[str, np.ndarray], side: int, red: float, threads: int) -> dict[str, np.ndarray]:
    """maps: "first_colour", "first_pack", "first_bumps", "second_..." of shape (n, n, 3 or 4), uint8, and n divides
    side. red: of the vertex colour. Gives five maps of uint8."""
    plain, curve = np.linspace(0, 1, 256, dtype=np.float32), _decoding()
    scale = side // next(iter(maps.values())).shape[0]
    padded = {
        name: cv2.copyMakeBorder(one[:, :, :3], 1, 1, 1, 1, cv2.BORDER_WRAP) for name, one in maps.items()
    }  # fmt: skip
    made = {name: np.empty((side, side, 3), np.uint8) for name in ("base_color", "normal")}
    made |= {name: np.empty((side, side), np.uint8) for name in ("metallic", "roughness", "occlusion")}
    share = np.clip((np.float32(red) - _WEIGHT_LOW) / (_WEIGHT_HIGH - _WEIGHT_LOW), 0, 1)
    weight = np.float32(share * share * (3 - 2 * share))

    def strip(top: int) -> None:
        rows = slice(top, top + _STRIP)
        colour = shade = rough = metal = lean = np.float32(0)
        for at, layer in enumerate(("first", "second", "third", "fourth")):
            pack = _enlarged(padded[f"{layer}_pack"], plain, top, scale)
            own = _enlarged(padded[f"{layer}_colour"], curve, top, scale)
            own = own * (1 - _DIRT + _DIRT * pack[..., :1])
            normal = _unit(_enlarged(padded[f"{layer}_bumps"], plain, top, scale) * 2 - 1)
            if at == 0:
                colour, shade, rough, metal, lean = own, pack[..., 0], pack[..., 1], pack[..., 2], normal
                continue
            colour = colour * (1 - weight) + own * weight
            shade, rough, metal = (
                below * (1 - weight) + pack[..., channel] * weight
                for channel, below in enumerate((shade, rough, metal))
            )
            lean = _unit(lean * (1 - weight) + normal * weight)
        made["base_color"][rows] = _stored(_encoded(colour))
        made["normal"][rows] = _stored((lean + 1) / 2)
        for name, values in (("occlusion", shade), ("roughness", rough), ("metallic", metal)):
            made[name][rows] = _stored(values)

    cv2.setNumThreads(1)
    with ThreadPoolExecutor(threads) as pool:
        list(pool.map(strip, range(0, side, _STRIP)))
    return made
