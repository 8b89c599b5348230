"""Coordinates turned about their origin, as a sheet's coordinates are."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows

_ROWS = (("c", "sine(degrees / 360 + 0.25)"), ("s", "sine(degrees / 360)"))

OPERATION = from_rows(
    "turn", "Turn", ("value", "degrees"), "vector(c * value.r - s * value.g, s * value.r + c * value.g)", "Coordinates",
    rows=_ROWS, fits=(2, 1), shape="2", meaning="data", help="about the origin, in degrees", example="turn(uv, 45)",
)  # fmt: skip
