"""A recipe on a picture made smaller, fast enough to follow a hand; and how such pictures are kept."""

from __future__ import annotations

import io
from collections.abc import Callable

import numpy as np

from texel.errors import MismatchedMaps
from texel.image import Texels
from texel.recipes import preview_recipe
from texel.recipes.step import Context
from texel.roles import Transfer
from texel.sets import MapRef

__all__ = ["dump_texels", "load_texels", "preview_map"]


def dump_texels(texels: Texels) -> bytes:
    """Pixels and channel letters only, uncompressed: the quickest way back. load_texels reads it."""
    stream = io.BytesIO()
    np.savez(stream, pixels=texels.pixels, channels=np.array(texels.channels))
    return stream.getvalue()


def load_texels(data: bytes, name: str) -> Texels:
    """What dump_texels wrote. No tag and no role comes back with it."""
    with np.load(io.BytesIO(data), allow_pickle=False) as kept:
        pixels, channels = kept["pixels"], str(kept["channels"])
    transfer = Transfer.LINEAR if pixels.dtype == np.float32 else Transfer.SRGB
    return Texels(pixels, channels, transfer, name=name)


def preview_map(ref: MapRef, small: Callable[[MapRef], tuple[Texels, float]]) -> Texels:
    """A map behind its recipe, from smaller pictures of its source and of the maps beside it.

    small: for a map its source made smaller, in its role, and the texels it has for each of the full one.
    Raises BadDocument, MismatchedMaps.
    """
    texels, scale = small(ref)
    dependencies = dict(ref.dependencies)

    def other(name: str) -> Texels:
        if name not in dependencies:
            raise MismatchedMaps(
                "this recipe needs the set's {name} map, and there is none", name=name.replace("_", " ")
            )
        return preview_map(dependencies[name], small)

    return preview_recipe(texels, scale, ref.recipe, Context(other=other))
