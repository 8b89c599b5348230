"""Where rain runs, as a compiled loop."""

from __future__ import annotations

import heapq
from typing import Any

import numpy as np

from texel.compiling import compiled

__all__ = ["drained"]


def _drained(heights: Any) -> Any:
    rows, columns = heights.shape
    count = rows * columns
    parent = np.full(count, -1, np.int64)
    seen = np.zeros(count, np.bool_)
    order = np.empty(count, np.int64)
    heap = [(0.0, 0, 0)]
    heap.clear()
    at = 0
    for y in range(rows):
        for x in range(columns):
            if y in (0, rows - 1) or x in (0, columns - 1):
                heapq.heappush(heap, (heights[y, x], at, y * columns + x))
                seen[y * columns + x] = True
                at += 1
    done = 0
    while len(heap) > 0:
        level, _, here = heapq.heappop(heap)
        order[done] = here
        done += 1
        y, x = here // columns, here % columns
        for dy in range(-1, 2):
            for dx in range(-1, 2):
                v, u = y + dy, x + dx
                if v < 0 or u < 0 or v >= rows or u >= columns or seen[v * columns + u]:
                    continue
                other = v * columns + u
                seen[other] = True
                parent[other] = here
                # What lies lower than the way out of it is filled up to that.
                heapq.heappush(heap, (max(level, heights[v, u]), at, other))
                at += 1
    area = np.ones(count, np.float64)
    for step in range(count - 1, -1, -1):
        here = order[step]
        if parent[here] >= 0:
            area[parent[here]] += area[here]
    return area.reshape(rows, columns)


drained = compiled(_drained)
