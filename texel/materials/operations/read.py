"""A slot's map read at any coordinates: the one operation that every back end knows by name."""

from __future__ import annotations

from texel.materials.operations.operation import MAP, Operation

OPERATION = Operation(
    "read", "Read map", ("value", "map"), lambda at, values: values, "Maps", fits=(2, MAP), shape="map", meaning="map",
    reads=1, help="a slot's map at these coordinates, v down", example="read(uv * 4, bumps)",
)  # fmt: skip
