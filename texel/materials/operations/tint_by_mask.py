"""Four tints, each where one channel of a mask is; where several are, the later ones lie on the earlier ones."""

from __future__ import annotations

from texel.materials.operations.definition import from_rows

_ROWS = (
    ("one", "tint(value, first, mask.r)"),
    ("two", "mix(one, value * second, mask.g)"),
    ("three", "mix(two, value * third, mask.b)"),
)

OPERATION = from_rows(
    "tint_by_mask", "Four tints by mask", ("value", "mask", "first", "second", "third", "fourth"),
    "mix(three, value * fourth, mask.a)", "Colour", rows=_ROWS, fits=(3, 4, 3, 3, 3, 3), shape="3", meaning="first",
    help="a tint for each of the mask's red, green, blue and alpha",
    first=("vector(0, 0, 0, 0)", "rgb(1, 1, 1)", "rgb(1, 1, 1)", "rgb(1, 1, 1)", "rgb(1, 1, 1)"),
    example="tint_by_mask(colour, masks, cloth, trim, metal, sign)",
)  # fmt: skip
