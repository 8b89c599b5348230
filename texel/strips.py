"""Large arrays worked on a strip of rows at a time, over all cores: what is at work then stays in the caches."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["SMALL", "by_rows", "strip_rows"]

Array = NDArray[Any]
# Elements of a strip: a few copies of it as floats stay in the caches of a core.
_STRIP = 192 * 1024
# Below this a picture is done in one piece, faster than threads are started.
SMALL = 4 * _STRIP


def strip_rows(array: Array) -> int:
    """How many rows of ``array`` make a strip; all of them for a small one."""
    return array.shape[0] if array.size <= SMALL else max(1, _STRIP // (array.size // array.shape[0]))


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

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        list(pool.map(put, range(rows, array.shape[0], rows)))
    return out
