"""Where each layer lies: by its rule, corrected by painting; weights that sum to one, to the last bit when stored."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from texel.ground.noise import fractal
from texel.ground.painting import painted
from texel.ground.patch import Patch, Term
from texel.ground.terrain import Heights, centres, edge_distance, slope_degrees, water
from texel.image import Texels
from texel.roles import Transfer

__all__ = ["BORDER", "EVENLY", "Laid", "by_relief", "lay", "packed_weights", "stacked", "stored_weights"]

Weights = NDArray[np.float32]
# The width of a border that relief shapes, in units of relief: common practice.
BORDER = 0.2
# Below one part in so many a layer comes and goes evenly, whatever its relief.
EVENLY = 64
_TOP = {8: 255, 16: 65535}


class Laid(NamedTuple):
    """rules, paint, weights: shape (layers, side, side): what rules say, 0 to 1; what was painted, -1 to 1; and the
    weights of both, which sum to one."""

    rules: Weights
    paint: Weights
    weights: Weights


def lay(patch: Patch, heights: Heights, paint: Weights | None = None) -> Laid:
    """Where each layer of a patch lies. heights: metres, of terrain.heights_of. paint: of painting.painted, where it is
    known already."""
    paint = painted(patch) if paint is None else paint
    rules = np.ones_like(paint)
    measures = _Measures(patch, heights)
    so_far: list[Weights] = []
    for at, layer in enumerate(patch.layers):
        if at:
            for term in layer.rule:
                # An edge is that of what lies there once all layers up to it are laid.
                rules[at] *= measures.share(term, so_far)
        so_far.append(_covered(rules[at], paint[at]) if at else rules[0])
    return Laid(rules, paint, stacked(so_far))


def _covered(rule: Weights, paint: Weights) -> Weights:
    covered: Weights = np.clip(rule + paint, 0, 1)
    return covered


class _Measures:
    """What rules ask of a patch, each measured once."""

    def __init__(self, patch: Patch, heights: Heights):
        self._patch, self._heights = patch, heights
        self._known: dict[str, NDArray[np.float32]] = {}

    def _once(self, name: str, make: Any) -> NDArray[np.float32]:
        if name not in self._known:
            self._known[name] = make()
        return self._known[name]

    def _value(self, term: Term, so_far: Sequence[Weights]) -> NDArray[np.float32]:
        patch, heights = self._patch, self._heights
        if term.measure == "altitude":
            return heights
        if term.measure == "slope":
            return self._once("slope", lambda: slope_degrees(heights, patch.texel))
        if term.measure == "water":
            return self._once("water", lambda: water(heights))
        if term.measure == "noise":
            x, y = (one / term.size for one in centres(patch.side, patch.metres))
            return fractal(x, y, term.seed + 500, 4).astype(np.float32)
        of = [one.name for one in patch.layers].index(term.of)
        return edge_distance(stacked(so_far)[of], patch.texel)

    def share(self, term: Term, so_far: Sequence[Weights]) -> Weights:
        return _within(self._value(term, so_far), term)


def _within(values: NDArray[np.float32], term: Term) -> Weights:
    """1 between the term's ends, fading (3t^2 - 2t^3) over ``fade`` around each; an end that is open lies nowhere."""
    share = np.ones_like(values)
    for end, sign in ((term.low, 1), (term.high, -1)):
        if end is None:
            continue
        t = sign * (values - end)
        t = np.clip(t / term.fade + 0.5, 0, 1) if term.fade else (t >= 0).astype(np.float32)
        share *= (t * t * (3 - 2 * t)).astype(np.float32)
    return share


def stacked(covered: Sequence[Weights]) -> Weights:
    """Weights of layers laid over each other, shape (layers, ...): each takes its share of what those below have left.

    covered: how much each covers, 0 to 1, the lowest first, which lies wherever no other does.

    >>> stacked([np.float32([1]), np.float32([0.5]), np.float32([0.5])])[:, 0].tolist()
    [0.25, 0.25, 0.5]
    """
    weights = np.stack(covered).astype(np.float32)
    left = np.ones_like(weights[0])
    for at in range(len(weights) - 1, 0, -1):
        weights[at] *= left
        left = left - weights[at]
    weights[0] = left
    return np.asarray(np.maximum(weights, 0), np.float32)


def by_relief(weights: Weights, reliefs: Weights, edges: Sequence[float]) -> Weights:
    """Weights whose borders follow the layers' own relief: where two meet, the higher one shows.

    reliefs: height of each layer, 0 to 1, shape as weights; edges: how much it counts, of each layer. A layer shows as
    far as weight + relief comes within a border of the highest (common practice of height blending).
    """
    if not any(edges):
        return weights
    strength = np.asarray(edges, np.float32).reshape(-1, *([1] * (weights.ndim - 1)))
    # A layer that is not there has no part in it.
    share = np.minimum(weights * EVENLY, 1)
    raised = share * (weights + strength * (reliefs - 0.5)) - (1 - share)
    width = np.float32(1 - (1 - BORDER) * max(edges))
    shown = np.maximum(raised - raised.max(axis=0) + width, 0) * share
    return np.asarray(shown / shown.sum(axis=0), np.float32)


def stored_weights(weights: Weights, bits: int = 8) -> NDArray[Any]:
    """Weights as whole numbers of 8 or 16 bits whose sum is 255 or 65535 at every texel, shape as weights.

    Each is rounded down, and what is missing goes to those with the largest remainders, the lower layer first where
    they are equal (largest remainder method, Hamilton 1792).

    >>> stored_weights(np.full((3, 1), 1 / 3, np.float32))[:, 0].tolist()
    [85, 85, 85]
    """
    top = _TOP[bits]
    exact = weights.astype(np.float64)
    exact *= top / exact.sum(axis=0)
    whole = np.floor(exact + 1e-9)
    missing = top - whole.sum(axis=0)
    rank = np.argsort(np.argsort(-(exact - whole), axis=0, kind="stable"), axis=0, kind="stable")
    return np.asarray(whole + (rank < missing), np.uint8 if bits == 8 else np.uint16)


def packed_weights(stored: NDArray[Any], each: int = 4) -> list[Texels]:
    """Stored weights as pictures of 3 or 4 channels, layer after layer; channels that hold none are 0."""
    pictures = []
    for first in range(0, len(stored), each):
        some = stored[first : first + each]
        pixels = np.zeros((*stored.shape[1:], each), stored.dtype)
        pixels[:, :, : len(some)] = np.moveaxis(some, 0, -1)
        pictures.append(Texels(pixels, "rgba"[:each], Transfer.LINEAR, name=f"weights {first // each + 1}"))
    return pictures
