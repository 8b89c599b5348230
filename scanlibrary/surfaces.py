"""The surfaces of the stand-in library, drawn by recipe: every one tiles, none comes from a real place."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from demo.patterns import Field, cells, grid, mix, noise, ramp, smoothstep, tint, warp
from demo.surfaces import Surface

__all__ = ["ITEMS", "Item"]


@dataclass(frozen=True)
class Item:
    """One surface of the library. draw: from the side in texels and the revision. metres: that a tile covers."""

    id: str
    title: str
    tags: tuple[str, ...]
    metres: float
    licence: tuple[str, str]
    draw: Callable[[int, int], Surface]


def _stones(across: int, seed: int, colours: tuple[str, ...], gap: str) -> Callable[[int, int], Surface]:
    def draw(n: int, revision: int) -> Surface:
        first, second, value = cells(n, across, seed + revision - 1)
        edge = smoothstep(0.02, 0.3, second - first)
        fine = noise(n, seed + 7, 1.1, 10)
        colour = mix(tint(gap, gap)(fine), tint(*colours)(0.7 * value + 0.3 * fine), edge)
        return Surface(0.15 + edge * (0.5 + 0.3 * value) + 0.05 * fine, colour, 0.95 - 0.35 * edge * value, 0.0, 26)

    return draw


def _sand(seed: int, ripples: int, colours: tuple[str, ...]) -> Callable[[int, int], Surface]:
    def draw(n: int, revision: int) -> Surface:
        _, y = grid(n)
        bend = noise(n, seed + revision - 1, 2.2, 1)
        ripple = ramp(y * ripples + 1.2 * bend)
        fine = noise(n, seed + 3, 0.7, 24)
        height = 0.2 + 0.6 * ripple + 0.08 * fine
        return Surface(height, tint(*colours)(0.6 * ripple + 0.4 * fine), 0.8 + 0.15 * fine, 0.0, 14)

    return draw


def _planks(boards: int, seed: int, colours: tuple[str, ...]) -> Callable[[int, int], Surface]:
    def draw(n: int, revision: int) -> Surface:
        x, _ = grid(n)
        gap = smoothstep(0.0, 0.08, ramp(x * boards))
        grain = noise(n, seed + revision - 1, 1.2, 6, (1, 0.05))
        wander = noise(n, seed + 5, 2.0, 1) * 14
        grain = warp(grain, wander, wander)
        colour = mix(tint("#1b1713", "#1b1713")(grain), tint(*colours)(grain), gap)
        return Surface(0.1 + 0.7 * gap + 0.15 * grain, colour, 0.62 + 0.3 * grain, 0.0, 16)

    return draw


def _plaster(seed: int, colours: tuple[str, ...]) -> Callable[[int, int], Surface]:
    def draw(n: int, revision: int) -> Surface:
        broad, fine = noise(n, seed + revision - 1, 2.0, 2), noise(n, seed + 4, 1.2, 12)
        worn: Field = smoothstep(0.6, 0.75, broad + 0.2 * fine)
        colour = mix(tint(*colours)(0.5 * broad + 0.5 * fine), tint("#7c5a48", "#8d6a55")(fine), worn)
        return Surface(0.7 + 0.1 * fine - 0.35 * worn, colour, 0.85 + 0.1 * fine, 0.0, 10)

    return draw


_OWN = ("CC0-1.0", "")
_NAMED = ("CC-BY-4.0", "Surfaces by the Tin Library")
ITEMS = {
    one.id: one
    for one in (
        Item("slipway-cobble", "Slipway cobble", ("stone", "ground", "wet"), 2.0, _OWN,
             _stones(9, 31, ("#5b5f60", "#7c7f7b", "#9a9488"), "#2d2a26")),
        Item("shingle-bank", "Shingle bank", ("stone", "ground", "beach"), 1.0, _NAMED,
             _stones(16, 57, ("#6d6459", "#a0927f", "#c9bda8"), "#4a4238")),
        Item("rippled-sand", "Rippled sand", ("sand", "ground", "beach"), 3.0, _OWN,
             _sand(71, 9, ("#a88b63", "#d0b58a", "#e4d2ad"))),
        Item("tide-silt", "Tide silt", ("mud", "ground", "wet"), 4.0, _OWN,
             _sand(83, 4, ("#3c3a33", "#57524a", "#6c675d"))),
        Item("jetty-planks", "Jetty planks", ("wood", "planks"), 1.5, _NAMED,
             _planks(7, 97, ("#54473a", "#7d6b56", "#a08d74"))),
        Item("boathouse-wall", "Boathouse wall", ("plaster", "wall"), 2.5, _OWN,
             _plaster(113, ("#c4beb0", "#d8d2c4", "#e6e1d5"))),
        Item("customs-house-plaster", "Customs house plaster", ("plaster", "wall"), 2.5, ("LicenseRef-print-only", ""),
             _plaster(131, ("#a9b6a5", "#bcc8b7", "#d0d9cb"))),
    )
}  # fmt: skip
