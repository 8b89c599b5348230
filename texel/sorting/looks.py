"""What a picture looks like: a few measured facts, and the kind of picture that follows from them."""

from __future__ import annotations

import base64
import itertools
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import cv2
import numpy as np

from texel.image import Pixels, Texels, to_unit
from texel.resize import reduced

__all__ = ["LOOK_FORMAT", "ChannelLook", "Kind", "Look", "look_at"]

# Raised whenever looks are measured in another way, so that kept ones are measured again.
LOOK_FORMAT = 1

# Enough texels for shares and means; they are picked, not mixed, so that masks stay black and white.
_PICKED = 128
_SMALL = 256
_OUTLINE = 32
# A channel spread, 0 to 1, above which a texel counts as coloured: three 8-bit steps are JPEG noise.
_COLOURED = 0.03
_PLAIN = 2 / 255
_BLACK, _WHITE = 0.04, 0.96


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
    def words(self) -> str:
        """What it looks like, in words.

        >>> ChannelLook(0.0, 0.0, 0.0, 1.0, False).words
        'plain black'
        """
        if self.plain:
            return "plain black" if self.mean < _BLACK else "plain white" if self.mean > _WHITE else "plain grey"
        if self.extremes > 0.85:
            return "black and white"
        return "mostly white" if self.pale else f"grey around {self.mean:.2f}"


@dataclass(frozen=True)
class Look:
    """Measured facts about a picture.

    kind: what it shows. channels: of red, green, blue (one for a grey picture), then alpha if it has one.
    coloured: share of texels that are not grey. dark: share of texels that are nearly black. unlike: 0 to 1, how
    little red, green and blue have to do with each other. detail: mean curvature over spread of a grey picture.
    outline: strength of edges at 32 x 32, mean 0, spread 1, to compare where two pictures have theirs; None for a plain
    one. apart: means of one channel where another is black, by letters of the two; None for a picture that is no pack.
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
    outline: Pixels | None
    alpha: ChannelLook | None
    apart: Mapping[tuple[str, str], float] | None = None

    def document(self) -> dict[str, Any]:
        """The look as JSON, to be kept beside a file so that it need not be decoded again."""
        drawn = None if self.outline is None else np.clip(self.outline * 32 + 128, 0, 255).astype(np.uint8)
        return {
            "format": LOOK_FORMAT, "kind": self.kind.value, "size": [self.width, self.height, self.bits],
            "letters": self.letters, "channels": [vars(one) for one in self.channels],
            "alpha": vars(self.alpha) if self.alpha else None,
            "shares": [self.coloured, self.dark, self.unlike, self.detail],
            "outline": None if drawn is None else base64.b64encode(drawn.tobytes()).decode("ascii"),
            "apart": None if self.apart is None else [[a, b, value] for (a, b), value in self.apart.items()],
        }  # fmt: skip

    @classmethod
    def of(cls, document: dict[str, Any]) -> Look | None:
        """A kept look; None where it was measured by other rules than today's."""
        if document.get("format") != LOOK_FORMAT:
            return None
        outline = None
        if document["outline"] is not None:
            drawn = np.frombuffer(base64.b64decode(document["outline"]), np.uint8).reshape(_OUTLINE, _OUTLINE)
            outline = (drawn.astype(np.float32) - 128) / 32
        apart = document["apart"]
        return cls(
            Kind(document["kind"]), *document["size"], document["letters"],
            tuple(ChannelLook(**one) for one in document["channels"]), *document["shares"], outline,
            ChannelLook(**document["alpha"]) if document["alpha"] else None,
            None if apart is None else {(a, b): value for a, b, value in apart},
        )  # fmt: skip

    @property
    def grey(self) -> bool:
        return self.kind in (Kind.GREY, Kind.TWO_VALUES, Kind.PALE, Kind.DARK, Kind.PLAIN)

    def resembles(self, other: Look) -> float:
        """Correlation of the edges of two pictures, -1 to 1; 0 where one of them is plain."""
        if self.outline is None or other.outline is None:
            return 0.0
        return float(np.mean(self.outline * other.outline))


def look_at(texels: Texels) -> Look:
    """Measure a picture of any size and depth, shape (h, w, 1 to 4); about a millisecond beside decoding it."""
    step = -(-max(texels.width, texels.height) // _PICKED)
    picked = to_unit(np.ascontiguousarray(texels.pixels[::step, ::step]))
    count = len(texels.channels) - (1 if texels.has_alpha else 0)
    colours = picked[:, :, :count].reshape(-1, count)
    channels = tuple(_channel(np.ascontiguousarray(colours[:, at])) for at in range(count))
    alpha = _channel(picked[:, :, -1].ravel()) if texels.has_alpha else None
    spread = colours.max(axis=1) - colours.min(axis=1)
    coloured = float(np.mean(spread > _COLOURED))
    dark = float(np.mean(colours.max(axis=1) < _BLACK))
    small = reduced(texels, _SMALL)
    unlike = _unlike(colours)
    kind = _kind(colours, channels, coloured, dark, unlike)
    apart = _apart(colours) if coloured > 0.02 and kind is not Kind.NORMAL else None
    return Look(
        kind, texels.width, texels.height, texels.bits, texels.channels, channels, coloured, dark, unlike,
        _detail(small), _outline(small), alpha, apart,
    )  # fmt: skip


def _channel(values: Pixels) -> ChannelLook:
    low, high, ninety_fifth = (float(v) for v in np.percentile(values, (0.5, 99.5, 95)))
    mean, spread = float(values.mean()), float(values.std())
    extremes = float(np.mean((values < _BLACK) | (values > _WHITE)))
    skew = float(np.mean(((values - mean) / max(spread, 1e-6)) ** 3))
    # Open places are white and few are dark, as in occlusion: a tail towards black.
    pale = mean > 0.6 and skew < -0.5 and ninety_fifth > 0.9 and spread > 0.02
    return ChannelLook(mean, spread, high - low, extremes, pale)


def _apart(colours: Pixels) -> dict[tuple[str, str], float]:
    """Means of each channel where each other one is black, for those that are black in at least a fiftieth."""
    found = {}
    for at, other in itertools.permutations(range(min(3, colours.shape[1])), 2):
        where = colours[:, other] < 0.1
        if where.mean() > 0.02:
            found["rgb"[at], "rgb"[other]] = float(colours[where, at].mean())
    return found


def _unlike(colours: Pixels) -> float:
    """1 minus the strongest correlation between two of red, green and blue; 0 for grey and for plain channels."""
    if colours.shape[1] < 3:
        return 0.0
    spread = colours.std(axis=0)
    live = [at for at in range(3) if spread[at] > 0.02]
    pairs = [(a, b) for a in live for b in live if a < b]
    if not pairs:
        return 0.0
    strongest = max(abs(float(np.corrcoef(colours[:, a], colours[:, b])[0, 1])) for a, b in pairs)
    return 1.0 - strongest


def _kind(colours: Pixels, channels: tuple[ChannelLook, ...], coloured: float, dark: float, unlike: float) -> Kind:
    if colours.shape[1] >= 2 and _holds_normals(colours, channels):
        return Kind.NORMAL
    if colours.shape[1] < 3 or coloured <= 0.02:
        return _grey_kind(channels[0], dark)
    if _has_an_unused_channel(colours, channels, dark) or _has_a_mask_channel(channels):
        return Kind.PACK
    if dark > 0.6:
        return Kind.DARK_COLOUR
    return Kind.UNLIKE if unlike > 0.65 else Kind.COLOUR


def _holds_normals(colours: Pixels, channels: tuple[ChannelLook, ...]) -> bool:
    """Vectors in tangent space: level on the whole, towards the viewer, of about unit length. Old maps, and those that
    were compressed hard, are some way off unit length; that they point at the viewer holds for all of them."""
    x, y = colours[:, 0] * 2 - 1, colours[:, 1] * 2 - 1
    if abs(float(x.mean())) > 0.15 or abs(float(y.mean())) > 0.15:
        return False
    if colours.shape[1] > 2 and not (channels[2].plain and channels[2].mean < 0.9):
        z = colours[:, 2] * 2 - 1
        towards = float(np.mean(z > np.maximum(np.abs(x), np.abs(y)) - 0.1))
        length = np.sqrt(x * x + y * y + z * z)
        if float(z.mean()) > 0.35 and towards > 0.75 and float(np.mean((length > 0.4) & (length < 1.3))) > 0.75:
            return True
        if not channels[2].plain:
            return False
    # Two channels only: few of their vectors may be longer than 1, and they must say something.
    inside = float(np.mean(x * x + y * y <= 1.05))
    return inside > 0.98 and min(channels[0].span, channels[1].span) > 0.1 and max(x.std(), y.std()) < 0.5


def _has_an_unused_channel(colours: Pixels, channels: tuple[ChannelLook, ...], dark: float) -> bool:
    """Whether a channel is black or white all over although the picture is not: colour hardly ever is, packs often."""
    shown = colours[colours.max(axis=1) >= _BLACK]
    # Light on black is often pure red or green: there an empty channel says nothing.
    if dark > 0.65 or len(shown) < 16:
        return False
    lowest, highest = shown.min(axis=0), np.quantile(shown, 0.97, axis=0)
    white = dark < 0.02 and any(float(np.quantile(shown[:, at], 0.03)) > 0.99 for at in range(3))
    black = any(float(highest[at]) < 0.012 for at in range(3))
    return (black or white) and float(lowest.min()) < 0.9


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


def _outline(small: Texels) -> Pixels | None:
    """Strength of edges, blurred: the same for two paintings of one surface, whatever their colours."""
    values = to_unit(small.pixels)
    grey = np.ascontiguousarray(values[:, :, : min(3, values.shape[2])].mean(axis=2))
    if min(grey.shape) < 8 or float(grey.std()) < _PLAIN:
        return None
    edges = np.abs(cv2.Sobel(grey, cv2.CV_32F, 1, 0)) + np.abs(cv2.Sobel(grey, cv2.CV_32F, 0, 1))
    drawn = cv2.resize(edges, (_OUTLINE, _OUTLINE), interpolation=cv2.INTER_AREA)
    drawn = np.sqrt(drawn)
    spread = float(drawn.std())
    return (drawn - drawn.mean()) / spread if spread > 1e-6 else None
