"""A colour turned around the grey axis; feColorMatrix of type hueRotate in W3C's Filter Effects Module Level 1, §9.6,
on linear light. Its weights have three digits there."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows

_ROWS = (
    ("c", "sine(turns + 0.25)"),
    ("s", "sine(turns)"),
    ("red", "dot(value, vector(0.213 + c * 0.787 - s * 0.213, 0.715 - c * 0.715 - s * 0.715, "
            "0.072 - c * 0.072 + s * 0.928))"),
    ("green", "dot(value, vector(0.213 - c * 0.213 + s * 0.143, 0.715 + c * 0.285 + s * 0.14, "
              "0.072 - c * 0.072 - s * 0.283))"),
    ("blue", "dot(value, vector(0.213 - c * 0.213 - s * 0.787, 0.715 - c * 0.715 + s * 0.715, "
             "0.072 + c * 0.928 + s * 0.072))"),
)  # fmt: skip

OPERATION = from_rows(
    "shift_hue", "Hue", ("value", "turns"), "maximum(rgb(red, green, blue), 0)", "Colour", rows=_ROWS, fits=(3, 1),
    shape="3", meaning="first", bounds=lambda c, _: (0.0, 3 * max(abs(c[0]), abs(c[1]))),
    help="turned around the circle of hues, once for 1", example="shift_hue(colour, 0.1)",
)  # fmt: skip
