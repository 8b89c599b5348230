"""Large arrays worked on a strip of rows at a time, over all cores: what is at work then stays in the caches."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.threads import each

__all__ = ["SMALL", "by_rows", "filled", "rows_around", "strip_rows", "strips"]

Array = NDArray[Any]
# Elements of a strip: a few copies of it as floats stay in the caches of a core.
_STRIP = 192 * 1024
# Below this a picture is done in one piece, faster than threads are started.
SMALL = 4 * _STRIP


def strip_rows(array: Array) -> int:
    """How many rows of ``array`` make a strip; all of them for a small one."""
    made: int = array.shape[0] if array.size <= SMALL else max(1, _STRIP // (array.size // array.shape[0]))
    return made


def strips(height: int, numbers: int, around: int = 0) -> list[slice]:
    """The rows of a picture in strips. numbers: that a row holds. around: rows beyond a strip that its work reads too;
    a strip is then at least four times as high."""
    rows = max(1, _STRIP // max(1, numbers), 4 * around)
    return [slice(top, min(top + rows, height)) for top in range(0, height, rows)]


def filled(shape: tuple[int, ...], dtype: np.dtype[Any], make: Callable[[slice], Array], around: int = 0) -> Array:
    """An array whose rows are made by ``make(rows)``, strip by strip, over all cores."""
    out = np.empty(shape, dtype)

    def put(part: slice) -> None:
        out[part] = make(part)

    each(put, strips(shape[0], out.size // max(1, shape[0]), around))
    return out


def rows_around(array: Array, part: slice, around: int, wrap: bool) -> Array:
    """The rows ``part`` and ``around`` more on each side; beyond the border those of the other side, or the last."""
    top, bottom = part.start - around, part.stop + around
    if top >= 0 and bottom <= len(array):
        return array[top:bottom]
    at = np.arange(top, bottom)
    made: Array = array[at % len(array) if wrap else np.clip(at, 0, len(array) - 1)]
    return made


def by_rows(work: Callable[[Array], Array], array: Array) -> Array:
    """``work(array)`` for a function that maps every row of an array, of at least one axis, without its neighbours."""
    rows = strip_rows(array)
    if rows >= array.shape[0]:
        return work(array)
    first = work(array[:rows])
    out = np.empty((array.shape[0], *first.shape[1:]), first.dtype)
    out[:rows] = first

    def put(top: int) -> None:
        out[top : top + rows] = work(array[top : top + rows])

    each(put, range(rows, array.shape[0], rows))
    return out
