"""How strongly the eye finds the tile: measured on the shaded patch, with what would help."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.colour import luminance
from texel.density import Seen, sharp_from, texels_needed
from texel.ground.patch import Layer
from texel.ground.surface import Ground, Sun, lit, part_of, shown_weights, slopes_at, sum_of
from texel.ground.tiles import tiled

__all__ = ["VISIBLE", "Remedy", "Repetition", "measure_repetition", "repetition_of"]

Values = NDArray[np.float32]
# From here on the tile is counted as seen: chosen on the demo's surfaces between one that shows squares and one that
# does not.
VISIBLE = 0.15
# A step of lightness that is just seen: 2.3 of 100 (Mahy and others 1994, from memory).
_JUST_SEEN = 0.023
# Texels a side of what is measured on: pixels of the screen.
_SIDE = 768
# Tile sizes that are tried, each so many times the one before.
_STEP = 1.4
_MAX_STEPS = 12
# What changes over more than so many tiles is the land, not the tile.
_BLUR_TILES = 1.5
# A turn that is tried, degrees.
_TURNED = 30
# Fewer places of a layer than this say nothing about it.
_LEAST = 4096


@dataclass(frozen=True)
class Remedy:
    """What could be changed about a layer, and how strongly the tile would be seen then."""

    layer: Layer
    strength: float


@dataclass(frozen=True)
class Repetition:
    """strength: 0 to 1, None where the layer shows too little to tell. agreement: how alike places one tile apart are,
    -1 to 1. contrast: how much lightness differs, 0 to 1. vanishes: the smallest tile from which on it is not seen, in
    metres. density: texels a metre; needed: those that give one a pixel at the distance; sharp_from: metres."""

    layer: str
    strength: float | None
    agreement: float = 0.0
    contrast: float = 0.0
    vanishes: float | None = None
    density: float = 0.0
    needed: float = 0.0
    sharp_from: float = 0.0
    remedies: tuple[Remedy, ...] = ()

    @property
    def is_seen(self) -> bool:
        return self.strength is not None and self.strength >= VISIBLE

    def document(self) -> dict[str, Any]:
        """All of it as JSON says it; of a remedy how the layer would be laid, and its strength."""
        kept = ("layer", "strength", "agreement", "contrast", "is_seen", "vanishes", "density", "needed", "sharp_from")
        remedies = [
            {"tile": one.layer.tile, "turn": one.layer.turn, "repeat": one.layer.repeat, "strength": one.strength}
            for one in self.remedies
        ]
        return {key: getattr(self, key) for key in kept} | {"limit": VISIBLE, "remedies": remedies}


def repetition_of(
    lightness: Values, mask: NDArray[np.bool_], lags: Sequence[tuple[float, float]], blur: float
) -> tuple[float, float, float]:
    """Strength, agreement and contrast of a repetition in a picture.

    lightness: 0 to 1, shape (h, w). mask: where it counts. lags: (x, y) in texels at which it repeats. blur: texels;
    what changes more slowly is not counted. Agreement is the normalised autocorrelation at the lags, over the places
    of which both ends count (masked normalised correlation: Padfield 2012); strength weighs it by how well the
    contrast is seen.

    >>> stripes = np.tile(np.float32([0.2, 0.2, 0.8, 0.8]), (64, 16))
    >>> [round(one, 2) for one in repetition_of(stripes, np.ones((64, 64), bool), [(4, 0)], 16)][1]
    1.0
    """
    counted = mask.astype(np.float32)
    local = _blurred(lightness * counted, blur) / np.maximum(_blurred(counted, blur), 1e-6)
    rest = np.where(mask, lightness - local, 0).astype(np.float32)
    contrast = float(np.sqrt((rest**2).sum() / max(counted.sum(), 1)))
    agreements = [one for lag in lags if (one := _agreement(rest, counted, lag)) is not None]
    if not agreements or contrast <= 0:
        return 0.0, 0.0, contrast
    agreement = float(np.mean(agreements))
    return max(agreement, 0.0) * contrast / (contrast + _JUST_SEEN), agreement, contrast


def _blurred(values: Values, blur: float) -> Values:
    """Blurred by a Gaussian; a wide one on a smaller picture, which is the same and takes no time."""
    height, width = values.shape
    times = max(1, int(blur / 4))
    if times == 1:
        return np.asarray(cv2.GaussianBlur(values, (0, 0), blur), np.float32)
    size = (max(1, width // times), max(1, height // times))
    small = cv2.resize(values, size, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), blur / times)
    return np.asarray(cv2.resize(small, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)


def _agreement(rest: Values, counted: Values, lag: tuple[float, float]) -> float | None:
    """The best normalised correlation within a texel of a lag; None where too few places have both ends."""
    best = None
    height, width = rest.shape
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            x, y = round(lag[0]) + dx, round(lag[1]) + dy
            if abs(x) >= width or abs(y) >= height:
                continue
            here = (slice(max(0, -y), min(height, height - y)), slice(max(0, -x), min(width, width - x)))
            there = (slice(max(0, y), min(height, height + y)), slice(max(0, x), min(width, width + x)))
            one, other = rest[here], rest[there]
            both = counted[here] * counted[there]
            if both.sum() < _LEAST / 4:
                continue
            size = math.sqrt(float((one**2 * both).sum()) * float((other**2 * both).sum()))
            found = float((one * other * both).sum()) / size if size > 0 else 0.0
            best = found if best is None else max(best, found)
    return best


def measure_repetition(
    ground: Ground, distance: float, helped: str | None = None, sun: Sun | None = None
) -> list[Repetition]:
    """For each layer how strongly its tile is seen from a distance in metres. Raises BadDocument.

    helped: name of a layer of which is told what would help, which takes a few seconds. The patch is drawn as it falls
    onto the pixels of a screen that is looked at straight; where it is too large for that, its middle is.
    """
    needed = texels_needed(Seen(distance))
    side = int(min(_SIDE, max(64, ground.patch.metres * needed)))
    share = min(1.0, side / (ground.patch.metres * needed))
    drawn = _Drawn(ground, side, ((1 - share) / 2, (1 + share) / 2), sun or Sun())
    return [_of_layer(drawn, at, Seen(distance), layer.name == helped) for at, layer in enumerate(ground.patch.layers)]


class _Drawn:
    """The patch on the screen, each layer by itself, so that one can be drawn anew."""

    def __init__(self, ground: Ground, side: int, window: tuple[float, float], sun: Sun):
        self.ground, self.sun = ground, sun
        self.uv, self.footprint = part_of(ground, side, slice(None), window)
        self._slopes = slopes_at(ground, self.uv)
        layers = ground.patch.layers
        self._values = [self._read(at, layer) for at, layer in enumerate(layers)]
        self.weights = shown_weights(ground, self.uv, self._values)
        self._all = sum_of(self._values, self.weights)

    def _read(self, at: int, layer: Layer) -> Values:
        return tiled(self.ground.tiles[at], layer, self.uv, self.ground.patch.metres, self.footprint)

    def lightness(self, at: int, layer: Layer) -> Values:
        """Of the patch with a layer changed within its border: CIE 1976 lightness, divided by 100."""
        values = self._all
        if layer != self.ground.patch.layers[at]:
            values = values + self.weights[at][..., None] * (self._read(at, layer) - self._values[at])
        light = luminance(lit(values, self._slopes, self.sun))
        low = light * np.float32(903.3 / 100)
        return np.where(light > 0.008856, 1.16 * np.cbrt(light) - 0.16, low).astype(np.float32)

    def strength(self, at: int, layer: Layer) -> tuple[float, float, float]:
        step = layer.tile / self.footprint
        angle = math.radians(layer.turn)
        # A step of one tile along both of its axes, and across both.
        along = (step * math.cos(angle), -step * math.sin(angle))
        across = (step * math.sin(angle), step * math.cos(angle))
        lags = [along, across, (along[0] + across[0], along[1] + across[1])]
        return repetition_of(self.lightness(at, layer), self.weights[at] > 0.5, lags, max(_BLUR_TILES * step, 2.0))


def _of_layer(drawn: _Drawn, at: int, seen: Seen, is_helped: bool) -> Repetition:
    layer, tile = drawn.ground.patch.layers[at], drawn.ground.tiles[at]
    known = Repetition(
        layer.name, None, density=tile.side / layer.tile, needed=texels_needed(seen),
        sharp_from=sharp_from(tile.side, seen._replace(metres=layer.tile)),
    )  # fmt: skip
    if (drawn.weights[at] > 0.5).sum() < _LEAST:
        return known
    strength, agreement, contrast = drawn.strength(at, layer)
    known = replace(known, strength=strength, agreement=agreement, contrast=contrast)
    if not known.is_seen:
        return replace(known, vanishes=layer.tile)
    return _with_help(drawn, at, known) if is_helped else known


def _with_help(drawn: _Drawn, at: int, known: Repetition) -> Repetition:
    layer = drawn.ground.patch.layers[at]
    turned = (layer.turn + _TURNED) % 360
    changed = [
        replace(layer, tile=layer.tile * 2), replace(layer, repeat="two_scales"), replace(layer, repeat="hexagons"),
        replace(layer, turn=turned),
    ]  # fmt: skip
    remedies = [Remedy(one, drawn.strength(at, one)[0]) for one in changed if one != layer]
    vanishes, size = None, layer.tile
    for _ in range(_MAX_STEPS):
        size *= _STEP
        if drawn.strength(at, replace(layer, tile=size))[0] < VISIBLE:
            vanishes = size
            break
    return replace(known, vanishes=vanishes, remedies=tuple(sorted(remedies, key=lambda one: one.strength)))
