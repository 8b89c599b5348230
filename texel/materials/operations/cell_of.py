"""Coordinates within one cell of a grid, the first at the top left, row by row."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows

_ROWS = (
    ("at", "remainder(floor(number), columns * rows)"),
    ("down", "floor((at + 0.5) / columns)"),
    ("cell", "vector(at - down * columns, down)"),
)

OPERATION = from_rows(
    "cell_of", "Cell of a grid", ("value", "columns", "rows", "number"),
    "(fraction(value) + cell) / vector(columns, rows)", "Coordinates", rows=_ROWS, fits=(2, 1, 1, 1), shape="2",
    meaning="data", bounds=lambda *_: (0.0, 1.0), help="one cell of an atlas or a flipbook, counted from 0, row by row",
    first=("4", "4", "0"), example="read(cell_of(uv, 4, 4, time * 12), pack)",
)  # fmt: skip
