"""Value noise: random numbers at whole coordinates of two or three components, smoothly mixed between.

The numbers come from the permutation polynomial (34 x + 10) x mod 289 (Gustavson and McEwan 2022, "Tiling simplex noise
and flow noise in two and three dimensions", from memory), whose whole numbers stay small: they are the same to the last
bit in every back end.
"""

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
            "{name} takes coordinates of 2 or 3 components, not {size}", 0, 0, name="noise", size=sizes[0]
        )
    letters = "rgb"[: sizes[0]]
    rows = [("cell", "floor(value)"), ("t", "smoothstep(fraction(value), 0, 1)")]
    mixed: dict[str, str] = {}
    for corner in product((0, 1), repeat=len(letters)):
        name = "at" + "".join(map(str, corner))
        rows.append((name, f"random_at(cell + vector({', '.join(map(str, corner))}))"))
        mixed[name] = name
    level = list(mixed)
    # The last component differs fastest, so it is mixed first.
    for letter in reversed(letters):
        pairs = zip(level[::2], level[1::2], strict=True)
        names = [f"{one}_{letter}" for one in level[::2]]
        rows += [(name, f"mix({a}, {b}, t.{letter})") for name, (a, b) in zip(names, pairs, strict=True)]
        level = names
    return Definition(("value",), tuple(rows), level[0])


OPERATION = Operation(
    "noise", "Noise", ("value",), lambda _: (0.0, 1.0), "Noise", fits="own", shape="1", meaning="data",
    help="smooth random values, one hump a unit, at two or three coordinates", example="noise(uv * 8)",
    definition=_definition,
)  # fmt: skip
