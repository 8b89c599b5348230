"""Stored normals to vectors and back, their length, the third component from two."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from texel.errors import MismatchedMaps
from texel.image import Pixels, Texels, full_scale, narrow, to_unit
from texel.planes import Plane, joined, planes_of
from texel.roles import Role
from texel.strips import by_rows

__all__ = [
    "as_normal", "decode", "decoded_planes", "encode", "lengths", "renormalise", "stored_planes", "unit", "unit_planes",
    "z_from_xy",
]  # fmt: skip

Vectors = NDArray[np.float32]
_SHORTEST = np.float32(1e-6)


def as_normal(texels: Texels) -> Texels:
    """A picture read as a normal map; the same again if it was. Raises MismatchedMaps for a grey one."""
    if texels.channels[0] == "y":
        raise MismatchedMaps("{texels} is a grey picture; a normal map needs at least two channels", texels=texels.name)
    if texels.role is Role.NORMAL or texels.pixels.dtype != np.float32:
        return texels
    return texels.as_role(Role.NORMAL, texels.green)


def decode(texels: Texels) -> Vectors:
    """Vectors of a normal map, shape (h, w, 3), components -1 to 1, not normalised: 2 v / full scale - 1.

    A two-channel map gets z = sqrt(1 - x^2 - y^2). A float picture that was not read as a normal map yet is looked at
    first, whole, as Texels.as_role does. Raises MismatchedMaps for a grey map.
    """
    texels = as_normal(texels)
    stored = texels.pixels[:, :, : min(3, len(texels.channels))]
    scale = np.float32(2 / full_scale(stored.dtype))
    vectors = by_rows(lambda part: part * scale - 1, stored)
    if vectors.shape[2] == 2:
        z = np.sqrt(np.maximum(0, 1 - (vectors**2).sum(axis=2, keepdims=True)))
        vectors = np.concatenate([vectors, z], axis=2)
    return vectors


def decoded_planes(texels: Texels, rows: slice) -> tuple[Plane, Plane, Plane]:
    """Some rows of decode: x, y and z, each of shape (rows, w). ``texels`` must have been read as a normal map."""
    x, y, z = planes_of(decode(texels.with_pixels(texels.pixels[rows])))
    return x, y, z


def stored_planes(planes: Sequence[Plane], like: Texels, rows: slice) -> Pixels:
    """x, y and z as (n + 1) / 2, as floats, with the channels of ``like``: two stay two, and alpha stays as it is."""
    stored = [(one + 1) * np.float32(0.5) for one in planes[: len(like.channels.removesuffix("a"))]]
    if like.has_alpha:
        stored.append(to_unit(like.channel("a")[rows]))
    return joined(*stored)


def encode(vectors: Vectors, like: Texels) -> Texels:
    """Vectors as a map of the same depth and channels as ``like``, which has their size; alpha stays as it is."""
    return _encoded(vectors, like, like.channels.removesuffix("a"))


def _encoded(vectors: Vectors, like: Texels, letters: str) -> Texels:
    stored = narrow((vectors[:, :, : len(letters)] + 1) * np.float32(0.5), like.pixels.dtype)
    if like.has_alpha:
        stored = np.concatenate([stored, like.channel("a")[:, :, None]], axis=2)
        letters += "a"
    return like.with_pixels(stored, letters)


def lengths(vectors: Vectors) -> NDArray[np.float32]:
    """Length of each vector, shape (h, w); 1 in a sound map."""
    made: NDArray[np.float32] = np.sqrt(np.einsum("hwc,hwc->hw", vectors, vectors))
    return made


def unit(vectors: Vectors) -> Vectors:
    """The same directions at length 1; where there is none (length 0) the vector points at the viewer."""
    return by_rows(_unit, vectors)


def _unit(vectors: Vectors) -> Vectors:
    return joined(*unit_planes(*planes_of(vectors)))


def unit_planes(x: Plane, y: Plane, z: Plane) -> tuple[Plane, Plane, Plane]:
    """As unit, for the components one by one, each of shape (h, w): planes are worked on twice as fast as triples."""
    length = np.sqrt(x * x + y * y + z * z)
    nowhere = length <= _SHORTEST
    np.maximum(length, _SHORTEST, out=length)
    x, y, z = x / length, y / length, z / length
    if nowhere.any():
        x[nowhere], y[nowhere], z[nowhere] = 0, 0, 1
    return x, y, z


def renormalise(texels: Texels) -> Texels:
    """Every vector at unit length; where there is none (length 0) it points at the viewer."""
    return encode(unit(decode(texels)), texels)


def z_from_xy(texels: Texels) -> Texels:
    """The third component from the first two, for maps whose blue is missing or plain.

    z = sqrt(1 - x^2 - y^2); where x^2 + y^2 > 1 the two are scaled down to length 1 and z is 0.
    """
    xy = decode(texels)[:, :, :2]
    squared = (xy**2).sum(axis=2, keepdims=True)
    xy = np.where(squared > 1, xy / np.sqrt(np.maximum(squared, 1)), xy)
    z = np.sqrt(np.maximum(0, 1 - squared))
    return _encoded(np.concatenate([xy, z], axis=2).astype(np.float32), texels, "rgb")
