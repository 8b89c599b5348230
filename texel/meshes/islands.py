"""UV islands: triangles that hang together in UV space, the gaps between them, and what lies over each other."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from texel.meshes.mesh import Piece
from texel.meshes.raster import cover

__all__ = ["Layout", "clean_mips", "coverage", "gap_between", "layout_of"]

Corners = NDArray[np.float64]
# UVs nearer than this are the same point: a tenth of a texel of a map of 4096.
_SAME = 1 / 40960
# Beyond this a UV is no place on a texture that anybody would tile so often.
_FARTHEST = 1e6


@dataclass(frozen=True)
class Layout:
    """The triangles of a slot in UV space.

    corners: (n, 3, 2), UVs. island: (n,), from 0. signed: (n,), twice the area, below 0 where the texture is seen
    mirrored. spanning: share of the UV area in triangles that reach over the border of a tile, so that it must repeat.
    """

    corners: Corners
    island: NDArray[np.int32]
    signed: NDArray[np.float64]
    islands: int
    spanning: float

    @property
    def area(self) -> float:
        """Of all triangles, counted each; 1 is the whole texture."""
        return float(np.abs(self.signed).sum() / 2)

    def in_tile(self) -> Corners:
        """The corners with each triangle moved, whole tiles, to where its middle lies between 0 and 1."""
        tile = np.floor(self.corners.mean(axis=1, keepdims=True))
        return np.asarray(self.corners - tile)


def layout_of(pieces: Sequence[Piece], uv_set: int = 0) -> Layout | None:
    """The layout of pieces that wear one slot; None where one of them has no such UVs."""
    some = [one for one in pieces if len(one.triangles)]
    if not some or any(len(one.uvs) <= uv_set for one in some):
        return None
    corners = np.concatenate([one.uvs[uv_set][one.triangles] for one in some]).astype(np.float64)
    np.clip(corners, -_FARTHEST, _FARTHEST, out=corners)
    edge_1, edge_2 = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    # V grows downwards: what is counter-clockwise on the mesh turns the other way in numbers.
    signed = -(edge_1[:, 0] * edge_2[:, 1] - edge_1[:, 1] * edge_2[:, 0])
    first = np.floor(corners.min(axis=1) + _SAME)
    last = np.ceil(corners.max(axis=1) - _SAME) - 1
    across = (last > first).any(axis=1)
    whole = float(np.abs(signed).sum())
    spanning = float(np.abs(signed[across]).sum() / whole) if whole else 0.0
    island, count = _islands(corners, some)
    return Layout(corners, island, signed, count, spanning)


def _islands(corners: Corners, pieces: Sequence[Piece]) -> tuple[NDArray[np.int32], int]:
    """A number for each triangle: those of one part that share a point of UV space hang together."""
    points = np.rint(corners.reshape(-1, 2) / _SAME).astype(np.int64)
    part = np.repeat(np.arange(len(pieces)), [3 * len(one.triangles) for one in pieces])
    # One number a point: parts apart, and x and y in halves of 64 bits.
    key = (points[:, 0] * 1_000_003 + points[:, 1]) * 4099 + part
    _, node = np.unique(key, return_inverse=True)
    node = node.reshape(-1, 3)
    count = int(node.max()) + 1 if len(node) else 0
    ends = np.concatenate([node[:, [0, 1]], node[:, [1, 2]]])
    graph = coo_matrix((np.ones(len(ends), np.int8), (ends[:, 0], ends[:, 1])), shape=(count, count))
    _, label = connected_components(graph, directed=False)
    _, island = np.unique(label[node[:, 0]], return_inverse=True)
    return island.astype(np.int32), int(island.max()) + 1 if len(island) else 0


def coverage(layout: Layout, width: int, height: int) -> tuple[NDArray[np.uint16], NDArray[np.int32]]:
    """How often each texel is covered, and by which island, see texel.meshes.raster.cover."""
    return cover(layout.in_tile() * (width, height), layout.island, width, height)


def gap_between(owner: NDArray[np.int32]) -> int | None:
    """The fewest empty texels between two islands, straight or along a diagonal; None where there is one island.

    owner: the island that covers each texel, -1 where none does. Texels between are counted along the Euclidean
    distance of the nearest covered ones (distance transform of Felzenszwalb and Huttenlocher 2012, as OpenCV has it).

    >>> row = np.full((8, 16), -1, np.int32)
    >>> row[:, :4], row[:, 9:] = 0, 1
    >>> gap_between(row)
    5
    """
    empty = owner < 0
    if owner.size == 0 or empty.all():
        return None
    mask = empty.astype(np.uint8)
    distance, label = cv2.distanceTransformWithLabels(
        mask, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL
    )
    # The island of the nearest covered texel, for every texel.
    of_label = np.full(int(label.max()) + 1, -1, np.int32)
    of_label[label[~empty]] = owner[~empty]
    nearest = of_label[label]
    least = math.inf
    for ours, theirs, ours_far, theirs_far in (
        (nearest[:, :-1], nearest[:, 1:], distance[:, :-1], distance[:, 1:]),
        (nearest[:-1], nearest[1:], distance[:-1], distance[1:]),
    ):
        border = ours != theirs
        if border.any():
            least = min(least, float((ours_far[border] + theirs_far[border]).min()))
    return None if least is math.inf else round(least)


def clean_mips(gap: int) -> int:
    """How many levels below the first do not mix islands: a texel of level n is a mean over 2**n, and the level is
    clean while the gap holds one such texel.

    >>> clean_mips(8), clean_mips(1), clean_mips(0)
    (3, 0, 0)
    """
    return int(math.log2(gap)) if gap >= 1 else 0
