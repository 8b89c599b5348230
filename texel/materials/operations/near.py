"""1 where two values are no further apart than a distance, else 0."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows

OPERATION = from_rows(
    "near", "Equal within", ("value", "to", "distance"), "1 - greater(absolute(value - to), distance)", "Comparison",
    fits="widest", each=True, meaning="data", help="1 where both are no further apart than the distance, else 0",
    first=("0.5", "0.1"), example="near(mask.r, 0.5, 0.1)",
)  # fmt: skip
