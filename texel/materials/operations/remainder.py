"""What a division by whole steps leaves, from 0 to the divisor."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows

OPERATION = from_rows(
    "remainder", "Remainder", ("value", "by"), "value - floor(value / by) * by", fits="widest", each=True,
    bounds=lambda a, b: (min(b[0], 0.0), max(b[1], 0.0)), help="what a division by whole steps leaves",
    example="remainder(cell, columns)",
)  # fmt: skip
