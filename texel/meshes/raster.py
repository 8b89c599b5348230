"""Triangles laid onto a raster (numba): which texels they cover in UV space, and what a model looks like.

A texel belongs to a triangle when its middle lies inside. Corners are rounded to 1/256 texel and all else is whole
numbers, so a middle on an edge that two triangles share belongs to exactly one of them: to that of which it is a top or
a left edge (the usual rule of hardware; from memory).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.compiling import compiled

__all__ = ["cover", "draw"]

_FINE = 256


@compiled
def _cover(
    corners: NDArray[np.int64], island: NDArray[np.int32], count: NDArray[np.uint16], owner: NDArray[np.int32]
) -> None:
    high, wide = count.shape
    for t in range(len(corners)):
        ax, ay, bx, by, cx, cy = corners[t]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0:
            continue
        if area < 0:
            bx, by, cx, cy = cx, cy, bx, by
        low_x, high_x = max(0, (min(ax, bx, cx) - 128) >> 8), min(wide - 1, max(ax, bx, cx) >> 8)
        low_y, high_y = max(0, (min(ay, by, cy) - 128) >> 8), min(high - 1, max(ay, by, cy) >> 8)
        # An edge owns its points when it is a top or a left one; others want to be strictly inside.
        own_ab = 0 if (by - ay < 0 or (by == ay and bx > ax)) else -1
        own_bc = 0 if (cy - by < 0 or (cy == by and cx > bx)) else -1
        own_ca = 0 if (ay - cy < 0 or (ay == cy and ax > cx)) else -1
        for y in range(low_y, high_y + 1):
            py = y * 256 + 128
            for x in range(low_x, high_x + 1):
                px = x * 256 + 128
                if (
                    (bx - ax) * (py - ay) - (by - ay) * (px - ax) + own_ab >= 0
                    and (cx - bx) * (py - by) - (cy - by) * (px - bx) + own_bc >= 0
                    and (ax - cx) * (py - cy) - (ay - cy) * (px - cx) + own_ca >= 0
                ):
                    if count[y, x] < 65535:
                        count[y, x] += 1
                    owner[y, x] = island[t]


def cover(
    corners: NDArray[np.float64], island: NDArray[np.int32], width: int, height: int
) -> tuple[NDArray[np.uint16], NDArray[np.int32]]:
    """How many triangles cover each texel's middle, shape (height, width), and which island the last is of, -1 where
    none does.

    corners: (n, 3, 2), in texels, x to the right and y down. island: (n,), a number for each triangle.

    >>> square = np.array([[[0, 0], [4, 0], [4, 4]], [[0, 0], [4, 4], [0, 4]]], float)
    >>> count, _ = cover(square, np.zeros(2, np.int32), 8, 4)
    >>> count.sum(), count.max()
    (np.uint64(16), np.uint16(1))
    """
    count = np.zeros((height, width), np.uint16)
    owner = np.full((height, width), -1, np.int32)
    fine = np.clip(np.rint(corners * _FINE), -(2**30), 2**30).astype(np.int64).reshape(-1, 6)
    _cover(fine, np.ascontiguousarray(island, np.int32), count, owner)
    return count, owner


@compiled
def _draw(
    corners: NDArray[np.float32], shade: NDArray[np.float32], depth: NDArray[np.float32], picture: NDArray[np.float32]
) -> None:
    high, wide = depth.shape
    for t in range(len(corners)):
        a, b, c = corners[t, 0], corners[t, 1], corners[t, 2]
        area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        if area == 0:
            continue
        low_x, high_x = max(0, int(min(a[0], b[0], c[0]))), min(wide - 1, int(max(a[0], b[0], c[0])) + 1)
        low_y, high_y = max(0, int(min(a[1], b[1], c[1]))), min(high - 1, int(max(a[1], b[1], c[1])) + 1)
        for y in range(low_y, high_y + 1):
            for x in range(low_x, high_x + 1):
                px, py = x + 0.5, y + 0.5
                w_a = ((b[0] - px) * (c[1] - py) - (b[1] - py) * (c[0] - px)) / area
                w_b = ((c[0] - px) * (a[1] - py) - (c[1] - py) * (a[0] - px)) / area
                w_c = 1 - w_a - w_b
                if w_a < 0 or w_b < 0 or w_c < 0:
                    continue
                z = w_a * a[2] + w_b * b[2] + w_c * c[2]
                if z > depth[y, x]:
                    depth[y, x] = z
                    for channel in range(3):
                        picture[y, x, channel] = shade[t, channel]


def draw(corners: NDArray[np.float32], shade: NDArray[np.float32], side: int) -> NDArray[np.float32]:
    """Triangles as a picture, the nearest in front: shape (side, side, 4), 0 to 1, alpha 0 where there is nothing.

    corners: (n, 3, 3), x and y in texels of the picture, the third grows towards the viewer. shade: (n, 3).
    """
    depth = np.full((side, side), -np.inf, np.float32)
    picture = np.zeros((side, side, 4), np.float32)
    _draw(np.ascontiguousarray(corners, np.float32), np.ascontiguousarray(shade, np.float32), depth, picture[:, :, :3])
    picture[:, :, 3] = np.isfinite(depth)
    return picture
