"""Pictures of models: the mesh seen from the front left, and a slot's UVs with what lies over each other."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from texel.image import Texels
from texel.meshes.islands import coverage, layout_of
from texel.meshes.mesh import MeshFile
from texel.meshes.raster import draw
from texel.roles import Transfer

__all__ = ["mesh_picture", "uv_picture"]

_AROUND, _ABOVE = math.radians(35), math.radians(20)
# Greys by slot, so that slots are told apart without a hue.
_LIGHTEST, _DARKEST = 0.85, 0.45
# Orange, for slots that wear nothing.
_BARE = (1.0, 0.6, 0.1)
_MOST_SIDE = 2048


def mesh_picture(mesh: MeshFile, side: int = 256, bare: frozenset[int] = frozenset()) -> Texels:
    """The finest level, shaded grey by slot, seen from the front left and above; RGBA, sRGB, 8 bits.

    bare: slots that wear nothing; they are orange.
    """
    double = 2 * side
    level = mesh.levels()[0]
    turn = _view()
    corners, shades = [], []
    for one in (piece for piece in mesh.pieces if piece.level == level and len(piece.triangles)):
        placed = (one.positions.astype(np.float64) @ turn.T)[one.triangles]
        normal = np.cross(placed[:, 1] - placed[:, 0], placed[:, 2] - placed[:, 0])
        length = np.linalg.norm(normal, axis=1, keepdims=True)
        normal = normal / np.where(length > 0, length, 1)
        light = 0.35 + 0.65 * np.abs(normal @ np.array([0.35, 0.55, 0.76]))
        grey = _DARKEST + (_LIGHTEST - _DARKEST) * ((one.slot * 0.381966) % 1)
        colour = np.array(_BARE if one.slot in bare else (grey, grey, grey))
        shades.append(light[:, None] * colour)
        corners.append(placed)
    if not corners:
        return Texels(np.zeros((side, side, 4), np.uint8), "rgba", Transfer.SRGB)
    points = np.concatenate(corners)
    low, high = points.min(axis=(0, 1)), points.max(axis=(0, 1))
    size = max(float((high - low)[:2].max()), 1e-12)
    points = (points - (low + high) / 2) * (0.92 * double / size)
    points[:, :, 1] *= -1
    points[:, :, :2] += double / 2
    picture = draw(points.astype(np.float32), np.concatenate(shades).astype(np.float32), double)
    # Twice as large and halved: edges without steps; colours count by what they cover.
    picture[:, :, :3] *= picture[:, :, 3:]
    small = picture.reshape(side, 2, side, 2, 4).mean(axis=(1, 3))
    small[:, :, :3] /= np.where(small[:, :, 3:] > 0, small[:, :, 3:], 1)
    return Texels(np.rint(small * 255).astype(np.uint8), "rgba", Transfer.SRGB)


def _view() -> NDArray[np.float64]:
    """The world as a viewer at the front left, a little above, sees it: x right, y up, z towards them."""
    c, s = math.cos(_AROUND), math.sin(_AROUND)
    around = np.array([[c, 0, -s], [0, 1, 0], [s, 0, c]])
    c, s = math.cos(_ABOVE), math.sin(_ABOVE)
    return np.asarray(np.array([[1, 0, 0], [0, c, -s], [0, s, c]]) @ around, float)


def uv_picture(mesh: MeshFile, slot: int, side: int = 512) -> Texels | None:
    """A slot's UVs between 0 and 1: grey where one triangle lies, orange and lighter where several do, black elsewhere.

    None where the slot has no UVs. RGB, sRGB, 8 bits.
    """
    layout = layout_of(mesh.of_slot(slot, mesh.levels()[0]))
    if layout is None:
        return None
    side = min(side, _MOST_SIDE)
    count, owner = coverage(layout, side, side)
    picture = np.zeros((side, side, 3), np.uint8)
    # Neighbouring islands in unlike greys.
    picture[count == 1] = (96 + 96 * ((owner[count == 1] * 0.618034) % 1)).astype(np.uint8)[:, None]
    picture[count > 1] = (255, 170, 60)
    return Texels(picture, "rgb", Transfer.SRGB)
