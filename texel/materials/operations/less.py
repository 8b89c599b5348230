"""1 where a value is below a limit, else 0."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows

OPERATION = from_rows(
    "less", "Less", ("value", "limit"), "greater(limit, value)", "Comparison", fits="widest", each=True, meaning="data",
    help="1 where the value is below the limit, else 0", first=("0.5",), example="less(pack.r, threshold)",
)  # fmt: skip
