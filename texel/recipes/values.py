"""Steps that change values: invert, levels, power, clamp, constant, exchange and extract channels."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from texel.channels.packing import invert as invert_pixels
from texel.errors import MismatchedMaps
from texel.image import ColourTags, Pixels, Texels
from texel.recipes.step import ANY, COLOURS, SCALARS, Context, Shape, Step, choice, number, over_colour
from texel.roles import Role

__all__ = [
    "Clamp", "Constant", "DropAlpha", "ExchangeChannels", "ExtractChannel", "GlossToRoughness", "IgnoreTag", "Invert",
    "Levels", "Power",
]  # fmt: skip

_LETTERS = {"r": "Red", "g": "Green", "b": "Blue", "a": "Alpha"}


@dataclass(frozen=True)
class Invert(Step):
    """Full scale minus value in every channel but alpha. Exact."""

    step = "invert"
    label = "Invert values"
    exact = True

    def apply(self, texels: Texels, context: Context) -> Texels:
        return over_colour(texels, invert_pixels)


@dataclass(frozen=True)
class GlossToRoughness(Step):
    """Roughness = 1 - gloss, exact. The same numbers as inverting; it says why."""

    step = "gloss_to_roughness"
    label = "Turn gloss into roughness"
    suits = (Role.ROUGHNESS, Role.GLOSSINESS)
    exact = True

    def apply(self, texels: Texels, context: Context) -> Texels:
        return over_colour(texels, invert_pixels)


@dataclass(frozen=True)
class Levels(Step):
    """Stored values between black and white are stretched to 0 to 1, bent by gamma, and laid between low and high.

    out = low + (high - low) * clip((v - black) / (white - black), 0, 1) ^ (1 / gamma)
    """

    step = "levels"
    label = "Levels"
    black: float = number(0, 0, 1, "This value and less becomes black")
    white: float = number(1, 0, 1, "This value and more becomes white")
    gamma: float = number(1, 0.1, 10, "Above 1 the middle gets brighter")
    low: float = number(0, 0, 1, "What black becomes")
    high: float = number(1, 0, 1, "What white becomes")

    def curve(self, values: Pixels) -> Pixels:
        span = max(self.white - self.black, 1e-6)
        bent = np.clip((values - self.black) / span, 0, 1) ** (1 / self.gamma)
        return self.low + (self.high - self.low) * bent


@dataclass(frozen=True)
class Power(Step):
    """Stored values, 0 to 1, to the power of the exponent."""

    step = "power"
    label = "Power"
    exponent: float = number(1, 0.1, 10, "Above 1 the middle gets darker")

    def curve(self, values: Pixels) -> Pixels:
        return np.power(np.maximum(values, 0), self.exponent)


@dataclass(frozen=True)
class Clamp(Step):
    """Stored values held between low and high."""

    step = "clamp"
    label = "Clamp"
    low: float = number(0, 0, 1, "Nothing below this")
    high: float = number(1, 0, 1, "Nothing above this")

    def curve(self, values: Pixels) -> Pixels:
        return np.clip(values, self.low, max(self.low, self.high))


@dataclass(frozen=True)
class Constant(Step):
    """One value everywhere."""

    step = "constant"
    label = "Constant"
    suits = SCALARS
    value: float = number(0.5, 0, 1, "The value")

    def curve(self, values: Pixels) -> Pixels:
        return np.full_like(values, self.value)


@dataclass(frozen=True)
class ExchangeChannels(Step):
    """Two channels change places. Exact."""

    step = "exchange_channels"
    label = "Exchange channels"
    suits = (*COLOURS, Role.NORMAL)
    exact = True
    first: str = choice("r", _LETTERS, "One channel")
    second: str = choice("g", _LETTERS, "The other")

    def apply(self, texels: Texels, context: Context) -> Texels:
        lacking = [letter for letter in (self.first, self.second) if letter not in texels.channels]
        if lacking:
            raise MismatchedMaps(
                "{texels} has no {letters} channel to exchange",
                texels=texels.name,
                letters=_LETTERS[lacking[0]].lower(),
            )
        order = list(range(len(texels.channels)))
        a, b = texels.channels.index(self.first), texels.channels.index(self.second)
        order[a], order[b] = order[b], order[a]
        pixels = np.empty_like(texels.pixels)
        cv2.mixChannels([texels.pixels], [pixels], [one for pair in enumerate(order) for one in pair[::-1]])
        return texels.with_pixels(pixels)

    @property
    def summary(self) -> str:
        return f"Exchange {_LETTERS[self.first].lower()} and {_LETTERS[self.second].lower()}"


@dataclass(frozen=True)
class ExtractChannel(Step):
    """One channel as a grey picture. Exact."""

    step = "extract_channel"
    label = "Take one channel"
    suits = SCALARS
    exact = True
    channel: str = choice("r", _LETTERS, "The channel")

    def apply(self, texels: Texels, context: Context) -> Texels:
        return texels.with_pixels(np.ascontiguousarray(texels.channel(self.channel)[:, :, None]), "y")

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y")

    @property
    def summary(self) -> str:
        return f"Take the {_LETTERS[self.channel].lower()} channel"


@dataclass(frozen=True)
class DropAlpha(Step):
    """Leave the alpha channel out. Exact."""

    step = "drop_alpha"
    label = "Drop alpha"
    group = "File"
    suits = ANY
    exact = True

    def apply(self, texels: Texels, context: Context) -> Texels:
        if not texels.has_alpha or len(texels.channels) == 1:
            return texels
        return texels.with_pixels(texels.pixels[:, :, :-1].copy(), texels.channels[:-1])

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels=before.channels.removesuffix("a") or before.channels)


@dataclass(frozen=True)
class IgnoreTag(Step):
    """Read the numbers as the role asks, whatever colour tag the file carries. Exact."""

    step = "ignore_tag"
    label = "Ignore the file's colour tag"
    group = "File"
    exact = True

    def apply(self, texels: Texels, context: Context) -> Texels:
        return replace(texels, tags=ColourTags())
