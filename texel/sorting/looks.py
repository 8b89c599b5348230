"""What a picture looks like: a few measured facts, and the kind of picture that follows from them."""

from __future__ import annotations

import base64
import itertools
import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property, lru_cache
from typing import Any

import cv2
import numpy as np

from texel.image import Pixels, Texels, to_unit
from texel.resize import reduced

__all__ = ["COLOURED_SHARE", "COLOURED_SPREAD", "LOOK_FORMAT", "ChannelLook", "Kind", "Look", "look_at"]

# Raised whenever looks are measured in another way, so that kept ones are measured again.
LOOK_FORMAT = 1

# Enough texels for shares and means; they are picked, not mixed, so that masks stay black and white.
_PICKED = 64
_SMALL = 256
_DRAWN = 64
_OUTLINE = 32
# A channel spread, 0 to 1, above which a texel counts as coloured: three 8-bit steps are JPEG noise.
COLOURED_SPREAD = 0.03
# Share of coloured texels above which a picture is no grey one.
COLOURED_SHARE = 0.02
_PLAIN = 2 / 255
_BLACK, _WHITE = 0.04, 0.96
_STEPS = np.arange(256, dtype=np.float64) / 255
# Steps of 8 bits below 0.04 and above 0.96.
_BLACK_STEPS, _WHITE_STEPS = 11, 245


class Kind(StrEnum):
    """What a picture shows at first sight."""

    NORMAL = "normal"
    COLOUR = "colour"
    DARK_COLOUR = "dark colour"
    UNLIKE = "unlike channels"
    PACK = "pack"
    GREY = "grey"
    TWO_VALUES = "black and white"
    PALE = "pale grey"
    DARK = "dark grey"
    PLAIN = "plain"


# What may be the colour of a set: only these are compared by their edges.
_OUTLINED = (Kind.COLOUR, Kind.DARK_COLOUR, Kind.UNLIKE, Kind.GREY, Kind.PALE, Kind.DARK, Kind.PACK)


@dataclass(frozen=True)
class ChannelLook:
    """One channel, values 0 to 1. span: 0.5th to 99.5th percentile; extremes: share of texels near 0 or 1."""

    mean: float
    spread: float
    span: float
    extremes: float
    pale: bool

    @property
    def plain(self) -> bool:
        return self.span <= _PLAIN

    @property
    def two_values(self) -> bool:
        """Whether it holds both black and white, and hardly anything between."""
        return self.extremes > 0.97 and 0.01 < self.mean < 0.99

    @property
    def word(self) -> str:
        """What it looks like: plain_black, plain_grey, plain_white, two_values, pale, or "" for any grey.

        >>> ChannelLook(0.0, 0.0, 0.0, 1.0, False).word
        'plain_black'
        """
        if self.plain:
            return "plain_black" if self.mean < _BLACK else "plain_white" if self.mean > _WHITE else "plain_grey"
        if self.extremes > 0.85:
            return "two_values"
        return "pale" if self.pale else ""


@dataclass(frozen=True)
class Look:
    """Measured facts about a picture.

    kind: what it shows. channels: of red, green, blue (one for a grey picture), then alpha if it has one.
    coloured: share of texels that are not grey. dark: share of texels that are nearly black. unlike: 0 to 1, how
    little red, green and blue have to do with each other. detail: mean curvature over spread of a grey picture.
    drawn: brightness at no more than 64 x 64, 8 bits, of what may be the colour of a set; None for the rest.
    apart: means of one channel where another is black, by letters of the two; None for a picture that is no pack.
    """

    kind: Kind
    width: int
    height: int
    bits: int
    letters: str
    channels: tuple[ChannelLook, ...]
    coloured: float
    dark: float
    unlike: float
    detail: float
    drawn: Pixels | None
    alpha: ChannelLook | None
    apart: Mapping[tuple[str, str], float] | None = None

    def document(self) -> dict[str, Any]:
        """The look as JSON, to be kept beside a file so that it need not be decoded again."""
        return {
            "format": LOOK_FORMAT, "kind": self.kind.value, "size": [self.width, self.height, self.bits],
            "letters": self.letters, "channels": [vars(one) for one in self.channels],
            "alpha": vars(self.alpha) if self.alpha else None,
            "shares": [self.coloured, self.dark, self.unlike, self.detail],
            "drawn": None if self.drawn is None else [
                *self.drawn.shape, base64.b64encode(self.drawn.tobytes()).decode("ascii")
            ],
            "apart": None if self.apart is None else [[a, b, value] for (a, b), value in self.apart.items()],
        }  # fmt: skip

    @classmethod
    def of(cls, document: dict[str, Any]) -> Look | None:
        """A kept look; None where it was measured by other rules than today's."""
        if document.get("format") != LOOK_FORMAT:
            return None
        drawn = None
        if document["drawn"] is not None:
            rows, columns, data = document["drawn"]
            drawn = np.frombuffer(base64.b64decode(data), np.uint8).reshape(rows, columns)
        apart = document["apart"]
        width, height, bits = document["size"]
        coloured, dark, unlike, detail = document["shares"]
        return cls(
            Kind(document["kind"]), width, height, bits, document["letters"],
            tuple(ChannelLook(**one) for one in document["channels"]), coloured, dark, unlike, detail, drawn,
            ChannelLook(**document["alpha"]) if document["alpha"] else None,
            None if apart is None else {(a, b): value for a, b, value in apart},
        )  # fmt: skip

    @cached_property
    def outline(self) -> Pixels | None:
        """Strength of edges at 32 x 32, mean 0, spread 1: the same for two paintings of one surface, whatever their
        colours. None for a picture that has none."""
        return None if self.drawn is None else _outline(self.drawn)

    @property
    def grey(self) -> bool:
        return self.kind in (Kind.GREY, Kind.TWO_VALUES, Kind.PALE, Kind.DARK, Kind.PLAIN)

    def resembles(self, other: Look) -> float:
        """Correlation of the edges of two pictures, -1 to 1; 0 where one of them is plain."""
        if self.outline is None or other.outline is None:
            return 0.0
        return float(np.mean(self.outline * other.outline))


def look_at(texels: Texels) -> Look:
    """Measure a picture of any size and depth, shape (h, w, 1 to 4); half a millisecond beside decoding it."""
    picked = to_unit(texels.pixels[_places(texels.height)[:, None], _places(texels.width)])
    count = len(texels.channels) - (1 if texels.has_alpha else 0)
    # One row a channel: sums along rows of memory are many times faster than across.
    planes = np.ascontiguousarray(picked.reshape(-1, len(texels.channels)).T)
    colours = planes[:count]
    channels = tuple(_channel(plane) for plane in colours)
    alpha = _channel(planes[-1]) if texels.has_alpha else None
    highest = colours.max(axis=0)
    coloured = float(np.mean(highest - colours.min(axis=0) > COLOURED_SPREAD)) if count > 1 else 0.0
    dark = float(np.mean(highest < _BLACK))
    unlike = _unlike(colours, channels)
    kind = _kind(colours, highest, channels, coloured, dark, unlike)
    if kind is Kind.PLAIN:
        # A few lit texels between the places that were picked tell a dark colour map from a dark glow.
        whole = to_unit(reduced(texels, _SMALL).pixels[:, :, :count])
        dark = float(np.mean(whole.max(axis=2) < _BLACK))
        channels = (replace(channels[0], mean=float(whole.mean(dtype=np.float64))), *channels[1:])
    grey = kind in (Kind.GREY, Kind.PALE)
    apart = _apart(colours) if kind in (Kind.PACK, Kind.UNLIKE, Kind.COLOUR) else None
    detail = _detail(reduced(texels, _SMALL)) if grey else 0.0
    drawn = _drawn(texels, count) if kind in _OUTLINED else None
    return Look(
        kind, texels.width, texels.height, texels.bits, texels.channels, channels, coloured, dark, unlike,
        detail, drawn, alpha, apart,
    )  # fmt: skip


@lru_cache
def _places(side: int) -> Pixels:
    """Up to 64 places along a side, one in each stretch but not at even distances: those would beat with tiles and with
    the blocks of compressed pictures."""
    if side <= _PICKED:
        return np.arange(side)
    golden = (np.arange(_PICKED) * 0.6180339887) % 1.0
    return ((np.arange(_PICKED) + golden) * (side / _PICKED)).astype(np.int64).clip(0, side - 1)


def _channel(values: Pixels) -> ChannelLook:
    """From a histogram of 256 steps: it is exact to half a step, and as quick for any number of values."""
    counts = np.bincount((np.clip(values, 0, 1) * 255 + 0.5).astype(np.uint8), minlength=256)
    total = values.size
    mean = float(counts @ _STEPS) / total
    off = _STEPS - mean
    square = off * off
    spread = math.sqrt(float(counts @ square) / total)
    skew = float(counts @ (square * off)) / total / max(spread, 1e-6) ** 3
    upto = np.cumsum(counts)
    low, ninety_fifth, high = (
        float(_STEPS[at]) for at in np.searchsorted(upto, (0.005 * total, 0.95 * total, 0.995 * total))
    )
    extremes = float(counts[:_BLACK_STEPS].sum() + counts[_WHITE_STEPS:].sum()) / total
    # Open places are white and few are dark, as in occlusion: a tail towards black.
    pale = mean > 0.6 and skew < -0.5 and ninety_fifth > 0.9 and spread > 0.02
    return ChannelLook(mean, spread, high - low, extremes, pale)


def _apart(colours: Pixels) -> dict[tuple[str, str], float]:
    """Means of each channel where each other one is black, for those that are black in at least a fiftieth."""
    distances = {}
    for other, plane in enumerate(colours[:3]):
        where = plane < 0.1
        count = int(np.count_nonzero(where))
        if count <= 0.02 * plane.size:
            continue
        for at in range(len(colours[:3])):
            if at != other:
                distances["rgb"[at], "rgb"[other]] = float(colours[at] @ where) / count
    return distances


def _unlike(colours: Pixels, channels: tuple[ChannelLook, ...]) -> float:
    """1 minus the strongest correlation between two of red, green and blue; 0 for grey and for plain channels."""
    live = [at for at, channel in enumerate(channels) if channel.spread > 0.02]
    if len(channels) < 3 or len(live) < 2:
        return 0.0
    off = {at: colours[at] - channels[at].mean for at in live}
    spread = {at: math.sqrt(float(off[at] @ off[at])) for at in live}
    pairs = itertools.combinations(live, 2)
    return 1.0 - max(abs(float(off[a] @ off[b])) / max(spread[a] * spread[b], 1e-9) for a, b in pairs)


def _kind(
    colours: Pixels, highest: Pixels, channels: tuple[ChannelLook, ...], coloured: float, dark: float, unlike: float
) -> Kind:
    if len(colours) >= 2 and _holds_normals(colours, channels):
        return Kind.NORMAL
    if len(colours) < 3 or coloured <= COLOURED_SHARE:
        return _grey_kind(channels[0], dark)
    if _has_an_unused_channel(colours, highest, dark) or _has_a_mask_channel(channels):
        return Kind.PACK
    if dark > 0.6:
        return Kind.DARK_COLOUR
    return Kind.UNLIKE if unlike > 0.65 else Kind.COLOUR


def _holds_normals(colours: Pixels, channels: tuple[ChannelLook, ...]) -> bool:
    """Vectors in tangent space: level on the whole, towards the viewer, of about unit length. Old maps, and those that
    were compressed hard, are some way off unit length; that they point at the viewer holds for all of them."""
    x, y = colours[0] * 2 - 1, colours[1] * 2 - 1
    across = x * x + y * y
    if len(colours) > 2 and channels[2].mean > 0.6 and max(channels[0].span, channels[1].span) > 0.02:
        z = colours[2] * 2 - 1
        length = np.sqrt(across + z * z)
        # No picture of anything else holds vectors of unit length all over, however they lean.
        if float(np.mean(np.abs(length - 1) < 0.06)) > 0.9 and float(np.mean(z > 0)) > 0.9:
            return True
    if abs(channels[0].mean - 0.5) > 0.075 or abs(channels[1].mean - 0.5) > 0.075:
        return False
    if len(colours) > 2 and not (channels[2].plain and channels[2].mean < 0.9):
        z = colours[2] * 2 - 1
        towards = float(np.mean(z > np.maximum(np.abs(x), np.abs(y)) - 0.1))
        square = across + z * z
        sound = float(np.mean((square > 0.16) & (square < 1.69)))
        if channels[2].mean > 0.675 and towards > 0.75 and sound > 0.75:
            return True
        if not channels[2].plain:
            return False
    # Two channels only: few of their vectors may be longer than 1, and they must say something.
    inside = float(np.mean(across <= 1.05))
    says = min(channels[0].span, channels[1].span) > 0.1
    return inside > 0.98 and says and max(channels[0].spread, channels[1].spread) < 0.25


def _has_an_unused_channel(colours: Pixels, highest: Pixels, dark: float) -> bool:
    """Whether a channel is black or white all over although the picture is not: colour hardly ever is, packs often."""
    # Light on black is often pure red or green: there an empty channel says nothing.
    if dark > 0.65:
        return False
    shown = highest >= _BLACK
    count = int(np.count_nonzero(shown))
    if count < 16:
        return False
    white = dark < 0.02 and any(float(np.mean(plane > 0.99)) > 0.97 for plane in colours)
    black = any(np.count_nonzero(shown & (plane >= 0.012)) <= 0.03 * count for plane in colours)
    return white or black


def _has_a_mask_channel(channels: tuple[ChannelLook, ...]) -> bool:
    """Whether one channel is black and white while another is not: masks stand so beside roughness, colours do not."""
    masks = [one for one in channels if one.two_values]
    return 0 < len(masks) < 3 and any(not one.plain and one.extremes < 0.5 for one in channels)


def _grey_kind(channel: ChannelLook, dark: float) -> Kind:
    if channel.plain:
        return Kind.PLAIN
    if channel.two_values:
        return Kind.TWO_VALUES
    if dark > 0.6 and channel.mean < 0.3:
        return Kind.DARK
    if channel.pale:
        return Kind.PALE
    return Kind.TWO_VALUES if channel.extremes > 0.85 else Kind.GREY


def _detail(small: Texels) -> float:
    values = np.ascontiguousarray(to_unit(small.pixels)[:, :, 0])
    return float(np.abs(cv2.Laplacian(values, cv2.CV_32F)).mean()) / max(float(values.std()), 1e-6)


def _drawn(texels: Texels, count: int) -> Pixels:
    small = to_unit(reduced(texels, _DRAWN).pixels[:, :, :count])
    made: Pixels = (small.mean(axis=2) * 255 + 0.5).astype(np.uint8)
    return made


def _outline(drawn: Pixels) -> Pixels | None:
    grey = drawn.astype(np.float32) / 255
    if min(grey.shape) < 8 or float(grey.std()) < _PLAIN:
        return None
    edges = np.abs(cv2.Sobel(grey, cv2.CV_32F, 1, 0)) + np.abs(cv2.Sobel(grey, cv2.CV_32F, 0, 1))
    blurred = np.sqrt(cv2.resize(edges, (_OUTLINE, _OUTLINE), interpolation=cv2.INTER_AREA))
    spread = float(blurred.std())
    return (blurred - blurred.mean()) / spread if spread > 1e-6 else None
