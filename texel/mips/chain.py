"""The levels of a picture, each half as large as the one before."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.colour import srgb_to_unit_linear, store_srgb
from texel.image import Texels, narrow, to_unit
from texel.mips.coverage import coverage, keep_coverage
from texel.mips.roughness import roughened
from texel.mips.sizes import level_sizes
from texel.normals.vectors import decode, lengths, unit
from texel.resize import LEAST_WEIGHT
from texel.roles import Role, Transfer

__all__ = ["CUT_OFF", "Chain", "naive_chain", "right_chain"]

# glTF 2.0, alphaCutoff.
CUT_OFF = 0.5
# Rows of the full picture that are widened to floats at a time.
_STRIP = 512
Values = NDArray[np.float32]
Chain = list[Texels]


def _shrunk(values: Values, size: tuple[int, int]) -> Values:
    small = cv2.resize(values, size, interpolation=cv2.INTER_AREA)
    return np.asarray(small.reshape(size[1], size[0], values.shape[2]))


def _first(texels: Texels, size: tuple[int, int], values_of: Callable[[Texels], Values]) -> Values:
    """Values of the first smaller level, a strip of rows at a time where rows halve evenly."""
    if texels.height % 2 or texels.height <= _STRIP:
        return _shrunk(values_of(texels), size)
    strips = []
    for top in range(0, texels.height, _STRIP):
        strip = texels.with_pixels(np.ascontiguousarray(texels.pixels[top : top + _STRIP]))
        strips.append(_shrunk(values_of(strip), (size[0], strip.height // 2)))
    return np.concatenate(strips)


def _levels(texels: Texels, values_of: Callable[[Texels], Values]) -> list[Values]:
    """Means of ``values_of`` for every smaller level, never rounded on the way."""
    found: list[Values] = []
    for size in level_sizes(texels.width, texels.height)[1:]:
        found.append(_shrunk(found[-1], size) if found else _first(texels, size, values_of))
    return found


def naive_chain(texels: Texels) -> Chain:
    """What plain averaging of the stored numbers makes, level from level, as a graphics card does it on upload."""
    chain = [texels]
    for width, height in level_sizes(texels.width, texels.height)[1:]:
        small = cv2.resize(chain[-1].pixels, (width, height), interpolation=cv2.INTER_AREA)
        chain.append(texels.with_pixels(small.reshape(height, width, -1)))
    return chain


def right_chain(texels: Texels, normals: Texels | None = None, cut_off: float = CUT_OFF) -> Chain:
    """Levels of a map in its role, from the whole map down to one texel; level 0 is the map itself.

    Colour (sRGB) is averaged in linear light, weighed by its alpha; normals are averaged as vectors and brought back to
    unit length; opacity, or the alpha of a colour, keeps the share of texels at or above ``cut_off`` (0 to 1) when it
    is a cut-out; roughness and glossiness take up what ``normals``, the set's normal map, loses in length. Everything
    else is a mean. Raises MismatchedMaps when ``normals`` holds no vectors.
    """
    if texels.role is Role.NORMAL and texels.channels[0] != "y":
        return [texels, *(_normal_level(texels, level) for level in _levels(texels, _vectors_and_alpha))]
    if texels.transfer is Transfer.SRGB:
        return _colour_chain(texels, cut_off)
    chain = [texels, *(texels.with_pixels(narrow(v, texels.pixels.dtype)) for v in _levels(texels, _unit_values))]
    if texels.role is Role.OPACITY:
        return _covered(chain, texels.channels[0], cut_off)
    if normals is not None and texels.role in (Role.ROUGHNESS, Role.GLOSSINESS):
        return _roughened(chain, normals)
    return chain


def _unit_values(texels: Texels) -> Values:
    return to_unit(texels.pixels)


def _unit_vectors(texels: Texels) -> Values:
    return unit(decode(texels))


def _vectors_and_alpha(texels: Texels) -> Values:
    vectors = _unit_vectors(texels)
    return np.concatenate([vectors, to_unit(texels.channel("a")[:, :, None])], axis=2) if texels.has_alpha else vectors


def _normal_level(texels: Texels, level: Values) -> Texels:
    """Means of vectors, and of alpha, as a level of ``texels``: with the channels that it has."""
    count = len(texels.channels.removesuffix("a"))
    stored = (unit(level[:, :, :3])[:, :, :count] + 1) * np.float32(0.5)
    return texels.with_pixels(narrow(np.concatenate([stored, level[:, :, 3:]], axis=2), texels.pixels.dtype))


def _linear(texels: Texels) -> Values:
    return srgb_to_unit_linear(texels.pixels[:, :, : len(texels.channels) - texels.has_alpha])


def _weight(texels: Texels) -> Values:
    return np.maximum(to_unit(texels.channel("a")[:, :, None]), LEAST_WEIGHT)


def _weighed(texels: Texels) -> Values:
    """Colour times its weight, for means in which see-through texels do not show."""
    return _linear(texels) * _weight(texels)


def _colour_chain(texels: Texels, cut_off: float) -> Chain:
    dtype = texels.pixels.dtype
    if not texels.has_alpha:
        return [texels, *(texels.with_pixels(store_srgb(v, dtype)) for v in _levels(texels, _linear))]
    chain = [texels]
    alphas = _levels(texels, lambda t: to_unit(t.channel("a")[:, :, None]))
    for colour, weight, alpha in zip(_levels(texels, _weighed), _levels(texels, _weight), alphas, strict=True):
        stored = store_srgb(colour / weight, dtype)
        chain.append(texels.with_pixels(np.concatenate([stored, narrow(alpha, dtype)], axis=2)))
    return _covered(chain, "a", cut_off)


def _is_cut_out(alpha: Values) -> bool:
    """Nearly all of it is 0 or 1, as the check of opacity has it."""
    return bool(np.mean((alpha > 0.02) & (alpha < 0.98)) <= 0.02)


def _covered(chain: Chain, letter: str, cut_off: float) -> Chain:
    """The chain with one channel scaled to keep its coverage; soft alpha, which is blended, stays a mean."""
    alpha = to_unit(chain[0].channel(letter))
    wanted = coverage(alpha, cut_off)
    if not _is_cut_out(alpha):
        return chain
    at = chain[0].channels.index(letter)
    found = [chain[0]]
    for level in chain[1:]:
        pixels = level.pixels.copy()
        kept = keep_coverage(to_unit(level.channel(letter)), wanted, cut_off)
        pixels[:, :, at] = narrow(kept, pixels.dtype)
        found.append(level.with_pixels(pixels))
    return found


def _roughened(chain: Chain, normals: Texels) -> Chain:
    """Roughness that takes up the length which normals lose at the same size on the surface."""
    glossy = chain[0].role is Role.GLOSSINESS
    means = _levels(normals, _unit_vectors)
    found = [chain[0]]
    for level in chain[1:]:
        length = _length_at(means, level.width, level.height)
        values = to_unit(level.pixels)
        rough = 1 - values[:, :, 0] if glossy else values[:, :, 0]
        rough = roughened(rough, length)
        pixels = level.pixels.copy()
        pixels[:, :, 0] = narrow(1 - rough if glossy else rough, pixels.dtype)
        found.append(level.with_pixels(pixels))
    return found


def _length_at(means: list[Values], width: int, height: int) -> Values:
    """Length of the mean normal at a size; 1 where the normal map itself has no more texels than that."""
    fitting = [one for one in means if one.shape[1] >= width and one.shape[0] >= height]
    if not fitting:
        return np.ones((height, width), np.float32)
    mean = fitting[-1]
    if mean.shape[:2] != (height, width):
        mean = _shrunk(mean, (width, height))
    return lengths(mean)
