"""A random number from 0 to 1 for every cell of whole coordinates; see noise for the formula."""

from __future__ import annotations

from functools import lru_cache

from texel.materials.operations.definition import Definition
from texel.materials.operations.operation import Operation


def _remainder(text: str) -> str:
    # Half a step more than is divided, so that rounding never takes a whole number below itself. Not times 1 / 289:
    # shader generators write constants with six decimals.
    return f"{text} - floor(({text} + 0.5) / 289) * 289"


@lru_cache
def _definition(sizes: tuple[int, ...]) -> Definition:
    rows: list[tuple[str, str]] = [("cell", "floor(value)"), ("whole", _remainder("cell"))]
    before = ""
    for at, letter in enumerate("rgba"[: sizes[0]]):
        part = f"whole.{letter}" if sizes[0] > 1 else "whole"
        rows.append((f"sum{at}", f"{before} + {part}" if before else f"{part} + 17"))
        rows.append((f"low{at}", _remainder(f"sum{at}")))
        # Reduced between the two factors, so that no number is large enough for a rough division to miss.
        rows.append((f"factor{at}", f"34 * low{at} + 10"))
        rows.append((f"small{at}", _remainder(f"factor{at}")))
        rows.append((f"high{at}", f"small{at} * low{at}"))
        before = f"hash{at}"
        rows.append((before, _remainder(f"high{at}")))
    return Definition(("value",), tuple(rows), f"{before} / 288")


OPERATION = Operation(
    "random_at", "Random number", ("value",), lambda _: (0.0, 1.0), "Noise", fits="own", shape="1", meaning="data",
    help="one for every cell of whole coordinates", example="random_at(uv * 8)", definition=_definition,
)  # fmt: skip
