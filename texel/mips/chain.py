"""The levels of a picture, each half as large as the one before."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.colour import srgb_to_unit_linear, store_srgb
from texel.image import Pixels, Texels, narrow, to_unit
from texel.mips.coverage import keep_coverage
from texel.mips.roughness import roughened
from texel.mips.sizes import level_sizes
from texel.normals.vectors import decode, lengths, unit
from texel.resize import LEAST_WEIGHT
from texel.roles import Role, Transfer
from texel.strips import by_rows, filled, strips
from texel.threads import each

__all__ = ["CUT_OFF", "Chain", "naive_chain", "right_chain"]

# glTF 2.0, alphaCutoff.
CUT_OFF = 0.5
Values = NDArray[np.float32]
Chain = list[Texels]


def _shrunk(values: Values, size: tuple[int, int]) -> Values:
    small = cv2.resize(values, size, interpolation=cv2.INTER_AREA)
    return np.asarray(small.reshape(size[1], size[0], values.shape[2]))


def _first(texels: Texels, size: tuple[int, int], values_of: Callable[[Texels], Values]) -> Values:
    """Values of the first smaller level, a strip of rows at a time where rows halve evenly."""
    if texels.height % 2:
        return _shrunk(values_of(texels), size)

    def means(rows: slice) -> Values:
        part = texels.with_pixels(texels.pixels[2 * rows.start : 2 * rows.stop])
        return _shrunk(values_of(part), (size[0], rows.stop - rows.start))

    count = values_of(texels.with_pixels(texels.pixels[:1])).shape[2]
    return filled((size[1], size[0], count), np.dtype(np.float32), means)


def _levels(texels: Texels, values_of: Callable[[Texels], Values]) -> Iterator[Values]:
    """Means of ``values_of`` for every smaller level, never rounded on the way, one at a time."""
    level: Values | None = None
    for size in level_sizes(texels.width, texels.height)[1:]:
        level = _first(texels, size, values_of) if level is None else _shrunk(level, size)
        yield level


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

    def stored(rows: Values) -> Pixels:
        vectors = (unit(rows[:, :, :3])[:, :, :count] + 1) * np.float32(0.5)
        return narrow(np.concatenate([vectors, rows[:, :, 3:]], axis=2), texels.pixels.dtype)

    return texels.with_pixels(by_rows(stored, level))


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
        chain.append(texels.with_pixels(_with_alpha(colour, weight, alpha, dtype)))
    return _covered(chain, "a", cut_off)


def _with_alpha(colour: Values, weight: Values, alpha: Values, dtype: np.dtype[Any]) -> Pixels:
    """A level stored: colour divided by its weight, and alpha."""

    def stored(rows: slice) -> Pixels:
        light = store_srgb(colour[rows] / weight[rows], dtype)
        return np.concatenate([light, narrow(alpha[rows], dtype)], axis=2)

    return filled((*colour.shape[:2], colour.shape[2] + 1), dtype, stored)


def _share(texels: Texels, letter: str, test: Callable[[Values], NDArray[np.bool_]]) -> float:
    """The share of texels of which a channel, 0 to 1, passes a test."""
    plane = texels.channel(letter)
    counts = each(lambda rows: np.count_nonzero(test(to_unit(plane[rows]))), strips(*plane.shape))
    return sum(counts) / plane.size


def _covered(chain: Chain, letter: str, cut_off: float) -> Chain:
    """The chain with one channel scaled to keep its coverage; soft alpha, which is blended, stays a mean."""
    # Nearly all of it is 0 or 1, as the check of opacity has it.
    if _share(chain[0], letter, lambda alpha: (alpha > 0.02) & (alpha < 0.98)) > 0.02:
        return chain
    wanted = _share(chain[0], letter, lambda alpha: alpha >= cut_off)
    at = chain[0].channels.index(letter)
    levels = [chain[0]]
    for level in chain[1:]:
        pixels = level.pixels.copy()
        kept = keep_coverage(to_unit(level.channel(letter)), wanted, cut_off)
        pixels[:, :, at] = narrow(kept, pixels.dtype)
        levels.append(level.with_pixels(pixels))
    return levels


def _roughened(chain: Chain, normals: Texels) -> Chain:
    """Roughness that takes up the length which normals lose at the same size on the surface."""
    glossy = chain[0].role is Role.GLOSSINESS
    at = _lengths_at(normals, [(level.width, level.height) for level in chain[1:]])
    levels = [chain[0]]
    for level in chain[1:]:
        length = at.get((level.width, level.height))
        if length is None:
            # The normal map itself has no more texels than that.
            length = np.ones((level.height, level.width), np.float32)
        values = to_unit(level.pixels)
        rough = 1 - values[:, :, 0] if glossy else values[:, :, 0]
        rough = roughened(rough, length)
        pixels = level.pixels.copy()
        pixels[:, :, 0] = narrow(1 - rough if glossy else rough, pixels.dtype)
        levels.append(level.with_pixels(pixels))
    return levels


def _lengths_at(normals: Texels, wanted: list[tuple[int, int]]) -> dict[tuple[int, int], Values]:
    """Lengths of the mean normals at each size, shape (h, w): of the smallest level that has as many texels a side,
    made smaller where it has more. Sizes that no level reaches are left out."""
    levels = level_sizes(normals.width, normals.height)[1:]
    taken: dict[int, list[tuple[int, int]]] = {}
    for size in wanted:
        fitting = [at for at, level in enumerate(levels) if level[0] >= size[0] and level[1] >= size[1]]
        if fitting:
            taken.setdefault(fitting[-1], []).append(size)
    by_size = {}
    for at, mean in enumerate(_levels(normals, _unit_vectors)):
        for size in taken.get(at, ()):
            by_size[size] = by_rows(lengths, mean if levels[at] == size else _shrunk(mean, size))
    return by_size
