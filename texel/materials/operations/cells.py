"""How far the nearest of scattered points is, one point a cell (Worley 1996), in units of a cell, at most 1."""

from __future__ import annotations

from functools import lru_cache
from itertools import product

from texel.errors import BadExpression
from texel.materials.operations.definition import Definition
from texel.materials.operations.operation import Operation


@lru_cache
def _definition(sizes: tuple[int, ...]) -> Definition:
    if sizes[0] not in (2, 3):
        raise BadExpression(
            "{name} takes coordinates of 2 or 3 components, not {size}", 0, 0, name="cells", size=sizes[0]
        )
    letters = "rgb"[: sizes[0]]
    rows = [("cell", "floor(value)"), ("inside", "fraction(value)")]
    nearest = "1"
    for number, offset in enumerate(product((-1, 0, 1), repeat=len(letters))):
        step = f"vector({', '.join(map(str, offset))})"
        rows.append((f"first{number}", f"random_at(cell + {step})"))
        others = [f"random_at(vector(first{number} * 288, {at}))" for at in range(1, len(letters))]
        rows.append((f"to{number}", f"vector({', '.join([f'first{number}', *others])}) + {step} - inside"))
        rows.append((f"near{number}", f"minimum({nearest}, dot(to{number}, to{number}))"))
        nearest = f"near{number}"
    return Definition(("value",), tuple(rows), f"root({nearest})")


OPERATION = Operation(
    "cells", "Cells", ("value",), lambda _: (0.0, 1.0), "Noise", fits="own", shape="1", meaning="data",
    help="distance to the nearest of scattered points, one a unit, at two or three coordinates",
    example="cells(uv * 8)", definition=_definition,
)  # fmt: skip
