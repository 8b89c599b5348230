"""A value through a table of points: straight from one to the next, level before the first and behind the last."""

from __future__ import annotations

from functools import lru_cache

from texel.errors import BadExpression
from texel.materials.operations.definition import Definition
from texel.materials.operations.operation import Interval, Operation


def _bounds(_: Interval, *points: Interval) -> Interval:
    ends = points[1::2]
    return min(one[0] for one in ends), max(one[1] for one in ends)


@lru_cache
def _definition(sizes: tuple[int, ...]) -> Definition:
    if len(sizes) % 2 == 0 or any(size != 1 for size in sizes[1:]):
        raise BadExpression("a curve takes a value and points, each an x and a y", 0, 0)
    count = (len(sizes) - 1) // 2
    names = ("value", *(f"{letter}{at}" for at in range(count) for letter in "xy"))
    pieces = [f"(y{at} - y{at - 1}) * levels(value, x{at - 1}, x{at})" for at in range(1, count)]
    return Definition(names, (), " + ".join(["y0", *pieces]))


OPERATION = Operation(
    "curve", "Curve", ("value", "x", "y", "x", "y"), _bounds, "Arithmetic", fits="own", shape="first", most=17,
    meaning="data", help="a table of two to eight points, x and y by turns, x rising",
    first=("0", "0", "1", "1"), example="curve(pack.g, 0, 0.1, 0.5, 0.3, 1, 0.9)", definition=_definition,
)  # fmt: skip
