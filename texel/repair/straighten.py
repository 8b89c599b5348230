"""A four-cornered part of a picture as a rectangle: what a camera saw at an angle, seen from straight above."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.errors import BadDocument
from texel.image import Pixels

__all__ = ["Corners", "corners_of", "straightened", "turns_of"]

Values = NDArray[np.float32]
Point = tuple[float, float]


class Corners(NamedTuple):
    """Corners of the part, as shares of width and height from the upper left: each (x, y), 0 to 1."""

    upper_left: Point
    upper_right: Point
    lower_right: Point
    lower_left: Point

    @property
    def is_crop(self) -> bool:
        """Whether they are a rectangle that stands straight."""
        (a, b), (c, d), (e, f), (g, h) = self
        return a == g and c == e and b == d and f == h

    def check(self) -> Corners:
        """Raises BadDocument where they span no area, or lines between them cross."""
        turns = [_turn(self[at], self[(at + 1) % 4], self[(at + 2) % 4]) for at in range(4)]
        if min(turns) <= 1e-6:
            raise BadDocument("the corners have to go round clockwise from the upper left, without crossing lines")
        return self

    def size(self, width: int, height: int) -> tuple[int, int]:
        """Texels of the rectangle: the longer of each pair of opposite sides, so that nothing is lost.

        >>> Corners((0, 0), (0.5, 0), (0.5, 0.25), (0, 0.25)).size(100, 80)
        (50, 20)
        """
        sides = [math.dist(self.at(one, width, height), self.at((one + 1) % 4, width, height)) for one in range(4)]
        return max(1, round(max(sides[0], sides[2]))), max(1, round(max(sides[1], sides[3])))

    def at(self, corner: int, width: int, height: int) -> Point:
        return self[corner][0] * width, self[corner][1] * height


def _turn(one: Point, two: Point, three: Point) -> float:
    return (two[0] - one[0]) * (three[1] - two[1]) - (two[1] - one[1]) * (three[0] - two[0])


def _matrix(corners: Corners, width: int, height: int, size: tuple[int, int]) -> NDArray[np.float64]:
    """The homography from texels of the rectangle to those of the picture; texels are counted from their centres."""
    ends = np.array([(0, 0), (size[0], 0), size, (0, size[1])], np.float32) - np.float32(0.5)
    seen = np.array([corners.at(at, width, height) for at in range(4)], np.float32) - np.float32(0.5)
    return np.asarray(cv2.getPerspectiveTransform(ends, seen), np.float64)


def straightened(values: Pixels, corners: Corners) -> Pixels:
    """The part between the corners as a rectangle. values: shape (h, w, c).

    Corners that stand straight on texels cut out what is stored, of any depth. Others are read by cubic convolution
    (Keys 1981; OpenCV takes a = -0.75) from floats and give floats, which may leave the range of the input.

    >>> picture = np.arange(16, dtype=np.uint8).reshape(4, 4, 1)
    >>> straightened(picture, Corners((0.5, 0), (1, 0), (1, 0.5), (0.5, 0.5)))[:, :, 0].tolist()
    [[2, 3], [6, 7]]
    """
    height, width = values.shape[:2]
    size = corners.size(width, height)
    left, top = (corners.upper_left[0] * width, corners.upper_left[1] * height)
    if corners.is_crop and abs(left - round(left)) < 1e-3 and abs(top - round(top)) < 1e-3:
        return np.ascontiguousarray(values[round(top) : round(top) + size[1], round(left) : round(left) + size[0]])
    matrix = _matrix(corners, width, height, size)
    made = cv2.warpPerspective(
        np.ascontiguousarray(values, np.float32), matrix, size,
        flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    return np.asarray(made, np.float32).reshape(size[1], size[0], -1)


def turns_of(corners: Corners, width: int, height: int) -> Values:
    """By how much the picture is turned at each texel of the rectangle, shape (h, w), radians, clockwise on screen from
    the rectangle to the picture: the rotation nearest to the homography's derivative (its polar decomposition)."""
    size = corners.size(width, height)
    m = _matrix(corners, width, height, size)
    y, x = np.mgrid[0 : size[1], 0 : size[0]].astype(np.float64)
    w = m[2, 0] * x + m[2, 1] * y + m[2, 2]
    u, v = (m[0, 0] * x + m[0, 1] * y + m[0, 2]) / w, (m[1, 0] * x + m[1, 1] * y + m[1, 2]) / w
    u_x, u_y = (m[0, 0] - u * m[2, 0]) / w, (m[0, 1] - u * m[2, 1]) / w
    v_x, v_y = (m[1, 0] - v * m[2, 0]) / w, (m[1, 1] - v * m[2, 1]) / w
    return np.asarray(np.arctan2(v_x - u_y, u_x + v_y), np.float32)


def corners_of(numbers: Sequence[float]) -> Corners:
    """Eight numbers, x and y of each corner, clockwise from the upper left. Raises BadDocument."""
    pairs = [(float(numbers[at]), float(numbers[at + 1])) for at in range(0, 8, 2)]
    return Corners(*pairs).check()
