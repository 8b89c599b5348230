"""Borders patched with parts of the same picture, joined along the lines where they differ least.

Efros and Freeman 2001, "Image quilting for texture synthesis and transfer": blocks are laid one after the other, each
taken from where what overlaps fits best, and joined by the minimum error boundary cut. Here the blocks are laid along
the borders alone, so the rest of the picture stays as it is. What is laid where can be told (Patches) and done alike on
every map of a set, so that colour and relief stay together.
"""

from __future__ import annotations

import base64
import binascii
import zlib
from dataclasses import dataclass
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.errors import BadDocument
from texel.image import Pixels
from texel.repair.tileable import cheapest_path

__all__ = ["LONGEST", "PLANNED_SIDE", "SMALLEST_SIDE", "Patches", "patches_from", "plan_patches"]

Values = NDArray[np.float32]
Indices = NDArray[np.int32]
# Texels a side that a plan is made on at most; larger maps follow it.
PLANNED_SIDE = 1024
# Characters of a plan as a text.
LONGEST = 400_000
# Texels a side on which a place that fits is looked for first.
_SEARCHED = 256
# Overlap as a share of a block: a sixth in the paper; a quarter leaves cuts more room.
_OVERLAP = 4
SMALLEST_SIDE = 16
_MAX_BLOCKS, _MAX_NUMBERS = 4096, 4_000_000


class Block(NamedTuple):
    """A rectangle of the result and where it is taken from, in texels. top, left: in the result, which goes on across
    its borders. y, x: in the picture. before, after: for each row how many texels at its left and right stay as they
    were; above, below: for each column how many at its top and bottom."""

    top: int
    left: int
    y: int
    x: int
    before: Indices
    after: Indices
    above: Indices
    below: Indices

    @property
    def size(self) -> tuple[int, int]:
        return len(self.before), len(self.above)

    def mask(self) -> NDArray[np.bool_]:
        """Which texels are taken, shape (height, width)."""
        height, width = self.size
        rows, columns = np.arange(height)[:, None], np.arange(width)[None, :]
        across = (columns >= self.before[:, None]) & (columns < width - self.after[:, None])
        return np.asarray(across & (rows >= self.above[None, :]) & (rows < height - self.below[None, :]))


@dataclass(frozen=True)
class Patches:
    """What is laid where, for pictures of a width and a height, in texels."""

    width: int
    height: int
    blocks: tuple[Block, ...]

    def sources(self) -> tuple[Indices, Indices]:
        """For each texel of the result the row and the column that it is taken from, each of shape (h, w)."""
        rows, columns = np.indices((self.height, self.width), np.int32)
        for block in self.blocks:
            _lay(block, rows, columns)
        return rows, columns

    def apply(self, pixels: Pixels) -> Pixels:
        """A map patched, of any depth, shape (h, w, c); of another size than the plan's it follows the nearest texel.

        >>> plan_patches(np.random.default_rng(1).random((64, 64, 1), np.float32), 0.2).apply(np.zeros((9, 9, 1))).shape
        (9, 9, 1)
        """
        rows, columns = self.sources()
        height, width = pixels.shape[:2]
        if (height, width) != (self.height, self.width):
            rows = _followed(rows - np.arange(self.height, dtype=np.int32)[:, None], height, width, axis=0)
            columns = _followed(columns - np.arange(self.width, dtype=np.int32)[None, :], height, width, axis=1)
        return np.asarray(pixels[rows, columns])

    def text(self) -> str:
        """As a recipe holds it: "WIDTHxHEIGHT:" and base64 of a zlib stream of whole numbers."""
        numbers = [len(self.blocks)]
        for block in self.blocks:
            numbers += [*block[:4], *block.size, *block.before, *block.after, *block.above, *block.below]
        packed = zlib.compress(np.array(numbers, "<u2").tobytes(), 9)
        return f"{self.width}x{self.height}:{base64.b64encode(packed).decode('ascii')}"


def _followed(moves: Indices, height: int, width: int, axis: int) -> Indices:
    """Sources of a larger or smaller map along an axis, from how far each texel of the plan is moved along it."""
    count = (height, width)[axis]
    scaled = cv2.resize(moves.astype(np.float32), (width, height), interpolation=cv2.INTER_NEAREST_EXACT)
    places = np.arange(count, dtype=np.float32).reshape((-1, 1) if axis == 0 else (1, -1))
    made = np.rint(places + scaled * (count / moves.shape[axis])).astype(np.int32)
    return np.asarray(np.clip(made, 0, count - 1), np.int32)


def _lay(block: Block, rows: Indices, columns: Indices) -> None:
    """Put a block's sources where it lies."""
    height, width = block.size
    there = np.ix_((block.top + np.arange(height)) % len(rows), (block.left + np.arange(width)) % rows.shape[1])
    taken = block.mask()
    rows[there] = np.where(taken, block.y + np.arange(height, dtype=np.int32)[:, None], rows[there])
    columns[there] = np.where(taken, block.x + np.arange(width, dtype=np.int32)[None, :], columns[there])


def plan_patches(values: Values, width: float = 0.2, axes: str = "both") -> Patches:
    """How a picture's borders are patched. values: floats, full scale 1, shape (h, w, c), at least 16 texels a side.

    width: share of the side, 0.02 to 0.25, along each border that may change. axes: "both", "x" for left and right, "y"
    for upper and lower. A picture of more than PLANNED_SIDE texels a side is planned smaller. The same picture gives
    the same plan. Raises BadDocument for a picture that is too small.
    """
    values = np.ascontiguousarray(values, np.float32)
    height, wide = values.shape[:2]
    if min(height, wide) < SMALLEST_SIDE:
        raise BadDocument(
            "a picture of {width} x {height} texels is too small to be patched", width=wide, height=height
        )
    share = min(1.0, PLANNED_SIDE / max(height, wide))
    if share < 1:
        size = (max(SMALLEST_SIDE, round(wide * share)), max(SMALLEST_SIDE, round(height * share)))
        values = np.asarray(cv2.resize(values, size, interpolation=cv2.INTER_AREA), np.float32)
        values = values.reshape(size[1], size[0], -1)
    height, wide = values.shape[:2]
    rows, columns = np.indices((height, wide), np.int32)
    blocks: list[Block] = []
    for axis in ("x", "y"):
        if axes in ("both", axis):
            blocks += _along(values, rows, columns, width, axis)
    return Patches(wide, height, tuple(blocks))


def _along(values: Values, rows: Indices, columns: Indices, width: float, axis: str) -> list[Block]:
    """Blocks along left and right ("x") or upper and lower border ("y"), laid into ``rows`` and ``columns`` as well."""
    long, short = values.shape[:2] if axis == "x" else values.shape[1::-1]
    thick = 2 * max(4, min(round(width * short), short // 4))
    overlap = max(2, thick // _OVERLAP)
    count = max(2, round(long / max(1, thick - overlap)))
    starts = [round(at * long / count) for at in range(count + 1)]
    blocks = []
    for at in range(count):
        size = min(starts[at + 1] - starts[at] + overlap, long)
        place = (starts[at], short - thick // 2, size, thick)
        top, left, high, across = place if axis == "x" else (place[1], place[0], place[3], place[2])
        # The first block has no neighbour yet: it is laid whole there, since the raw border lies beneath.
        ends = (at > 0, at == count - 1)
        sides = (True, True, *ends) if axis == "x" else (*ends, True, True)
        block = _fitting(values, values[rows, columns], (top, left, high, across), sides, overlap)
        _lay(block, rows, columns)
        blocks.append(block)
    return blocks


def _fitting(
    values: Values, laid: Values, place: tuple[int, int, int, int], sides: tuple[bool, bool, bool, bool], overlap: int
) -> Block:
    """The block for a place (top, left, height, width) of what is laid so far. sides: whether it has to fit what is
    there at its left, right, upper and lower side."""
    top, left, height, width = place
    there = laid.take(np.arange(top, top + height), axis=0, mode="wrap")
    there = there.take(np.arange(left, left + width), axis=1, mode="wrap")
    ring = np.zeros((height, width), np.float32)
    for asked, part in zip(sides, _strips(overlap), strict=True):
        if asked:
            ring[part] = 1
    y, x = _best_place(values, there, ring)
    apart = np.square(values[y : y + height, x : x + width] - there).sum(axis=2)
    cuts = []
    for asked, part, turned in zip(sides, _strips(overlap), (False, False, True, True), strict=True):
        cost = apart[part].T if turned else apart[part]
        length = width if turned else height
        # Counted from the side inwards.
        far = part[0 if turned else 1].start is not None
        cuts.append(cheapest_path(cost[:, ::-1] if far else cost) if asked else np.zeros(length, np.int64))
    before, after, above, below = (np.asarray(cut, np.int32) for cut in cuts)
    return Block(top % len(laid), left % laid.shape[1], y, x, before, after, above, below)


def _strips(overlap: int) -> tuple[tuple[slice, slice], ...]:
    """The parts of a block along its left, right, upper and lower side."""
    near, far, whole = slice(None, overlap), slice(-overlap, None), slice(None)
    return (whole, near), (whole, far), (near, whole), (far, whole)


def _best_place(values: Values, wanted: Values, ring: Values) -> tuple[int, int]:
    """Row and column of the part of the picture that is most like ``wanted`` where ``ring`` is 1."""
    every = max(1, max(values.shape[:2]) // _SEARCHED)
    y, x = _least(_smaller(values, every), _smaller(wanted, every), _smaller(ring[:, :, None], every)[:, :, 0])
    if every == 1:
        return y, x
    height, width = wanted.shape[:2]
    low_y, low_x = max(0, (y - 1) * every), max(0, (x - 1) * every)
    high_y = min(len(values), (y + 1) * every + height)
    high_x = min(values.shape[1], (x + 1) * every + width)
    low_y, low_x = min(low_y, high_y - height), min(low_x, high_x - width)
    more_y, more_x = _least(values[low_y:high_y, low_x:high_x], wanted, ring)
    return low_y + more_y, low_x + more_x


def _smaller(values: Values, every: int) -> Values:
    if every == 1:
        return values
    size = (max(1, values.shape[1] // every), max(1, values.shape[0] // every))
    made = cv2.resize(values, size, interpolation=cv2.INTER_AREA)
    return np.asarray(made, np.float32).reshape(size[1], size[0], -1)


def _least(values: Values, wanted: Values, ring: Values) -> tuple[int, int]:
    """Where ``wanted`` differs least, weighed by ``ring``: the first of several."""
    total = np.zeros((values.shape[0] - wanted.shape[0] + 1, values.shape[1] - wanted.shape[1] + 1), np.float64)
    for channel in range(values.shape[2]):
        total += cv2.matchTemplate(
            np.ascontiguousarray(values[:, :, channel]), np.ascontiguousarray(wanted[:, :, channel]), cv2.TM_SQDIFF,
            mask=np.ascontiguousarray(ring),
        )  # fmt: skip
    # Sums by Fourier transform differ in their last digits between machines.
    at = int(np.round(total, 3).argmin())
    return at // total.shape[1], at % total.shape[1]


def patches_from(text: str) -> Patches:
    """The plan of a text. Raises BadDocument for any other text."""
    try:
        size, _, body = text.partition(":")
        width, height = (int(one) for one in size.split("x"))
        limits = SMALLEST_SIDE <= width <= PLANNED_SIDE and SMALLEST_SIDE <= height <= PLANNED_SIDE
        if len(text) > LONGEST or not limits:
            raise ValueError("too large, or too small")
        # No more is unpacked than a plan may have, whatever the stream holds.
        data = zlib.decompressobj().decompress(base64.b64decode(body, validate=True), 2 * _MAX_NUMBERS)
        numbers = np.frombuffer(data[: len(data) // 2 * 2], "<u2").astype(np.int32)
        return Patches(width, height, tuple(_blocks_of(numbers, width, height)))
    except (ValueError, binascii.Error, zlib.error) as error:
        raise BadDocument("patches: this is no such text ({error})", error=error) from None


def _blocks_of(numbers: Indices, width: int, height: int) -> list[Block]:
    if not numbers.size or numbers[0] > _MAX_BLOCKS:
        raise ValueError("no such number of blocks")
    blocks, at = [], 1
    for _ in range(int(numbers[0])):
        top, left, y, x, high, wide = (int(one) for one in numbers[at : at + 6])
        at += 6
        cuts = [numbers[start : start + length] for start, length in _spans(at, high, wide)]
        at += 2 * (high + wide)
        inside = top < height and left < width and high > 0 and y + high <= height and wide > 0 and x + wide <= width
        if at > numbers.size or not inside:
            raise ValueError("a block lies outside")
        blocks.append(Block(top, left, y, x, *cuts))
    return blocks


def _spans(at: int, high: int, wide: int) -> list[tuple[int, int]]:
    return [(at, high), (at + high, high), (at + 2 * high, wide), (at + 2 * high + wide, wide)]
