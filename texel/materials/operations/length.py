"""The length of a vector."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows

OPERATION = from_rows(
    "length", "Length", ("value",), "root(dot(value, value))", "Values", fits="widest", shape="1", meaning="data",
    bounds=lambda a: (0.0, 2 * max(abs(a[0]), abs(a[1]))), help="of a vector", example="length(uv - 0.5)",
)  # fmt: skip
