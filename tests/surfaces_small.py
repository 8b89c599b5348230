"""Small maps of every role, drawn from the demo's surfaces: what a folder of somebody else's files would hold."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from demo.surfaces import SURFACES
from texel.image import Texels, narrow
from texel.normals.from_height import normals_from_height
from texel.roles import Green, Role, Transfer

__all__ = ["SURFACE_NAMES", "map_of", "pack_of"]

EIGHT, SIXTEEN = np.dtype(np.uint8), np.dtype(np.uint16)
# Metal in places, so that a metallic map has both values.
SURFACE_NAMES = ("deck_tread_plate", "riveted_hull_plate", "lantern_glass", "brass_bell")
_SIDE = 64


@lru_cache
def _planes(surface: str) -> dict[Role, np.ndarray]:
    one = SURFACES[surface](_SIDE)
    flat = np.ones((_SIDE, _SIDE), np.float32)
    metal = (np.asarray(one.metallic * flat) > 0.5).astype(np.float32)
    if metal.std() < 0.05:
        metal = (one.height > np.quantile(one.height, 0.6)).astype(np.float32)
    light = np.zeros((_SIDE, _SIDE, 3), np.float32)
    light[20:30, 10:50] = (1.0, 0.7, 0.2)
    normal = (normals_from_height(one.height, one.relief * _SIDE / 512, Green.UP) + 1) / 2
    grey = one.colour.mean(axis=2)
    return {
        Role.BASE_COLOR: one.colour,
        Role.NORMAL: normal,
        Role.ROUGHNESS: np.clip(one.roughness * flat, 0, 1),
        Role.GLOSSINESS: 1 - np.clip(one.roughness * flat, 0, 1),
        Role.METALLIC: metal,
        Role.OCCLUSION: one.occlusion,
        Role.HEIGHT: one.height,
        Role.EMISSIVE: light,
        Role.SPECULAR: np.clip(0.1 + 0.7 * grey, 0, 1),
        Role.OPACITY: (one.height > np.quantile(one.height, 0.3)).astype(np.float32),
    }


def map_of(role: Role, surface: str = SURFACE_NAMES[0], bits: np.dtype = EIGHT) -> Texels:
    """A map of 64 x 64 texels; in colour where the role is, grey otherwise."""
    values = _planes(surface)[role]
    colour = values.ndim == 3
    return Texels(narrow(values if colour else values[:, :, None], bits), "rgb" if colour else "y", Transfer.LINEAR)


def pack_of(roles: tuple[Role | None, ...], surface: str = SURFACE_NAMES[0]) -> Texels:
    """A packed map, red first; a channel without a role is black."""
    planes = [_planes(surface)[role] if role else np.zeros((_SIDE, _SIDE), np.float32) for role in roles]
    return Texels(narrow(np.stack(planes, axis=2), EIGHT), "rgba"[: len(roles)], Transfer.LINEAR)
