"""Heights of a patch, made or from a map, and what rules measure on them: slope, water, distance from an edge."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.errors import BadDocument
from texel.ground.noise import fractal, value_noise
from texel.ground.patch import Patch
from texel.image import Texels, to_unit

__all__ = ["Heights", "centres", "edge_distance", "heights_of", "slope_degrees", "water"]

Heights = NDArray[np.float32]
# Texels a side on which water is followed: finer ones change where it runs by less than their size.
_WATER_SIDE = 512
# Half the width of a creek, in differences of its noise from the middle.
_CREEK = 0.035


def centres(side: int, metres: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """x and y of all texels' centres in metres from the north-west corner, shape (side, side) each."""
    at = (np.arange(side) + 0.5) * (metres / side)
    x, y = np.meshgrid(at, at)
    return x, y


def heights_of(patch: Patch, picture: Texels | None = None) -> Heights:
    """Metres of every texel, shape (side, side), the north at the top.

    picture: the map of a shape of kind "map": grey, of any size, stretched over the patch. Raises BadDocument.
    """
    shape = patch.shape
    if shape.kind == "map":
        if picture is None:
            raise BadDocument("{patch}: its height map {map} is not there", patch=patch.name, map=shape.map)
        unit = to_unit(picture.pixels[:, :, 0])
        grows = patch.side > min(unit.shape)
        kernel = cv2.INTER_CUBIC if grows else cv2.INTER_AREA
        made = np.clip(cv2.resize(unit, (patch.side, patch.side), interpolation=kernel), 0, 1)
    else:
        made = _made(patch)
    return (shape.low + made * (shape.high - shape.low)).astype(np.float32)


def _made(patch: Patch) -> NDArray[np.float32]:
    """Rolling land from 0 to 1 with creeks along the lines where a second noise is in its middle."""
    shape = patch.shape
    x, y = (one / shape.feature for one in centres(patch.side, patch.metres))
    # Our own recipe; the numbers were chosen by eye. Both noises are bent alike, so that creeks follow the hills.
    bend = value_noise(x * 0.7 + 11, y * 0.7, shape.seed + 90) - 0.5
    land = _spread(fractal(x + bend, y - bend, shape.seed, 6, 0.25 + 0.4 * shape.rough))
    if shape.creeks:
        along = np.abs(fractal(x * 0.8 + 0.6 * bend, y * 0.8 - 7, shape.seed + 40, 3, 0.4) - 0.5)
        land = land - shape.creeks * np.exp(-((along / _CREEK) ** 2))
        land = _spread(land)
    return land.astype(np.float32)


def _spread(values: NDArray[np.float64]) -> NDArray[np.float64]:
    low, high = float(values.min()), float(values.max())
    return (values - low) / (high - low) if high > low else np.zeros_like(values)


def slope_degrees(heights: Heights, texel: float) -> NDArray[np.float32]:
    """Degrees from level, by differences over two texels, at the border over one. texel: metres of one.

    >>> ramp = np.tile(np.arange(4, dtype=np.float32), (4, 1))
    >>> slope_degrees(ramp, 1.0)[1].round(3).tolist()
    [45.0, 45.0, 45.0, 45.0]
    """
    down, across = np.gradient(heights.astype(np.float64), texel)
    made: NDArray[np.float32] = np.degrees(np.arctan(np.hypot(across, down))).astype(np.float32)
    return made


def water(heights: Heights) -> NDArray[np.float32]:
    """How much water runs over each texel when it rains evenly, shape as heights: the logarithm of the area that drains
    through it, 0 for its own rain and 1 for that of the whole patch.

    Each texel drains to the neighbour from which it is reached when water rises from the patch's border, so that
    hollows fill and flow over (priority-flood: Barnes, Lehman and Mulla 2014).
    """
    from texel.ground.draining import drained

    side = min(len(heights), _WATER_SIDE)
    small: Any = cv2.resize(heights, (side, side), interpolation=cv2.INTER_AREA) if side < len(heights) else heights
    area = drained(np.ascontiguousarray(small, np.float64))
    shares: Any = (np.log(area) / np.log(area.size)).astype(np.float32)
    if side < len(heights):
        shares = cv2.resize(shares, heights.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(shares, np.float32)


def edge_distance(weight: NDArray[np.float32], texel: float) -> NDArray[np.float32]:
    """Metres from where a weight crosses one half, below 0 inside; far outside everywhere when it never does."""
    inside = (weight > 0.5).astype(np.uint8)
    if not inside.any():
        return np.full(weight.shape, 1e6, np.float32)
    if inside.all():
        return np.full(weight.shape, -1e6, np.float32)
    outer = cv2.distanceTransform(1 - inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    inner = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    # The border lies half a texel from the centres on both sides of it.
    signed = np.where(inside > 0, 0.5 - inner, outer - 0.5)
    return (signed * texel).astype(np.float32)
