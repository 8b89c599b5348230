"""Another size without the usual damage: colour in linear light and weighed by its alpha, normals as vectors."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.colour import encode_srgb, srgb_to_unit_linear
from texel.image import Pixels, Texels, narrow, to_unit, widen
from texel.normals.vectors import decode, unit_planes
from texel.planes import joined, planes_of
from texel.resample import Axis, resample
from texel.roles import Role, Transfer, facts
from texel.tiling import meets_across

__all__ = ["LEAST_WEIGHT", "fitted", "nearest_power_of_two", "reduced", "repeated", "resize"]

Values = NDArray[np.float32]
# Colour of see-through texels counts this much, so that a wholly see-through neighbourhood still has a colour; beside
# one that is seen by a twentieth it shows by less than a step of 16 bits.
LEAST_WEIGHT = np.float32(2**-24)


def nearest_power_of_two(side: int) -> int:
    """The power of two nearest to a side in texels; of two equally near the larger.

    >>> nearest_power_of_two(1000), nearest_power_of_two(768), nearest_power_of_two(512)
    (1024, 1024, 512)
    """
    below = 1 << (side.bit_length() - 1)
    return below if side - below < 2 * below - side else 2 * below


def reduced(texels: Texels, side: int) -> Texels:
    """The picture with its longest side at most ``side`` texels: means of stored numbers, to measure on. What people
    see, or take home, is made by resize."""
    share = side / max(texels.width, texels.height)
    if share >= 1:
        return texels
    size = (max(1, round(texels.width * share)), max(1, round(texels.height * share)))
    pixels = cv2.resize(texels.pixels, size, interpolation=cv2.INTER_AREA)
    return texels.with_pixels(pixels.reshape(size[1], size[0], -1))


def fitted(texels: Texels, side: int) -> Texels:
    """The picture with its longest side at most ``side`` texels, made smaller as resize does by area."""
    share = side / max(texels.width, texels.height)
    if share >= 1:
        return texels
    return resize(texels, max(1, round(texels.width * share)), max(1, round(texels.height * share)), "area")


def resize(
    texels: Texels, width: int, height: int, method: str = "auto", edges: str = "auto",
    depth: np.dtype[Any] | None = None,
) -> Texels:  # fmt: skip
    """The same picture at ``width`` x ``height`` texels, at its own depth, or at another: uint8, uint16 or float32.

    method: "area" (means), "lanczos" (4 lobes), or "auto": each axis by area where it gets smaller, by Lanczos where it
    gets larger. edges: what a filter finds beyond the border: "wrap" (the other side), "clamp" (the last texel) or
    "auto", which wraps where the borders meet. Colour is averaged in linear light, weighed by its alpha; normals as
    vectors, brought back to unit length; alpha and data as they are. Nothing leaves the range that was there.
    """
    depth = depth or texels.pixels.dtype
    if (width, height) == (texels.width, texels.height):
        return texels if depth == texels.pixels.dtype else texels.with_pixels(widen(texels.pixels, depth))
    return _resampled(texels, *_axes(texels, width, height, method, edges), depth)


def repeated(
    texels: Texels, width: int, height: int, times: int, then: Callable[[Texels, slice], Pixels] | None = None
) -> Pixels:
    """The picture laid ``times`` times along each side of ``width`` x ``height`` texels, in floats, full scale 1.

    Each repeat begins where it belongs, between two texels if the sides are no multiples of ``times``. then: what the
    result is made of some rows of it, and which they are; called from threads.
    """
    across, down = (
        Axis(source, wanted, "area" if wanted <= source * times else "lanczos", True, times)
        for source, wanted in ((texels.width, width), (texels.height, height))
    )
    before, after = _space(texels)
    low, high = _range_of(texels) if "lanczos" in (across.kernel, down.kernel) else (-np.inf, np.inf)

    def made(values: Values, rows: slice) -> Pixels:
        values = np.clip(after(values), low, high)
        return values if then is None else then(texels.with_pixels(values), rows)

    return resample(texels.pixels, across, down, before, made)


def _axes(texels: Texels, width: int, height: int, method: str, edges: str) -> tuple[Axis, Axis]:
    def axis(source: int, wanted: int, number: int) -> Axis:
        area = wanted <= source if method == "auto" else method == "area"
        if area or source == wanted:
            return Axis(source, wanted)
        return Axis(source, wanted, "lanczos", edges == "wrap" or (edges == "auto" and meets_across(texels, number)))

    return axis(texels.width, width, 1), axis(texels.height, height, 0)


def _resampled(texels: Texels, across: Axis, down: Axis, dtype: np.dtype[Any]) -> Texels:
    before, after = _space(texels)
    low, high = _range_of(texels) if "lanczos" in (across.kernel, down.kernel) else (None, None)

    def stored(values: Values, rows: slice) -> Pixels:
        values = after(values)
        if dtype != np.float32:
            return narrow(values, dtype)
        return values if low is None else np.clip(values, low, high, out=values)

    return texels.with_pixels(resample(texels.pixels, across, down, before, stored))


def _space(texels: Texels) -> tuple[Callable[[Pixels], Values], Callable[[Values], Values]]:
    """From stored numbers to where a mean is meaningful, and back."""
    if _is_normal(texels):
        return _normals(texels)
    colour = texels.transfer is Transfer.SRGB or (
        texels.role is not None and facts(texels.role).transfer is Transfer.SRGB
    )
    count = len(texels.channels) - (1 if texels.has_alpha else 0)
    encoded, weighed = texels.transfer is Transfer.SRGB, colour and texels.has_alpha

    def before(part: Pixels) -> Values:
        if not encoded and not weighed:
            return to_unit(part)
        light = srgb_to_unit_linear(part[:, :, :count]) if encoded else to_unit(part[:, :, :count])
        if not texels.has_alpha:
            return light
        alpha = to_unit(part[:, :, count:])
        return np.concatenate([light * _weight(alpha) if weighed else light, alpha], axis=2)

    def after(values: Values) -> Values:
        if weighed:
            values[:, :, :count] /= np.maximum(_weight(values[:, :, count:]), LEAST_WEIGHT)
        if encoded:
            light = values[:, :, :count]
            values[:, :, :count] = encode_srgb(np.clip(light, 0, 1, out=light))
        return values

    return before, after


def _is_normal(texels: Texels) -> bool:
    return texels.role is Role.NORMAL and texels.channels[0] != "y"


def _weight(alpha: Values) -> Values:
    return alpha * (1 - LEAST_WEIGHT) + LEAST_WEIGHT


def _range_of(texels: Texels) -> tuple[Values, Values]:
    """The lowest and the highest number that a channel may hold: 0 to 1, and for floats but normals what they span."""
    count = len(texels.channels)
    if texels.pixels.dtype != np.float32 or _is_normal(texels):
        return np.zeros(count, np.float32), np.ones(count, np.float32)
    return texels.pixels.min(axis=(0, 1)), texels.pixels.max(axis=(0, 1))


def _normals(texels: Texels) -> tuple[Callable[[Pixels], Values], Callable[[Values], Values]]:
    """Vectors, and alpha where there is one. Two channels stay two."""
    count = len(texels.channels.removesuffix("a"))

    def before(part: Pixels) -> Values:
        vectors = decode(texels.with_pixels(part))
        return np.concatenate([vectors, to_unit(part[:, :, count:])], axis=2) if texels.has_alpha else vectors

    def after(values: Values) -> Values:
        x, y, z, *alpha = planes_of(values)
        stored = [(one + 1) * np.float32(0.5) for one in unit_planes(x, y, z)[:count]]
        return joined(*stored, *alpha)

    return before, after
