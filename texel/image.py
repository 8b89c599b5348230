"""Texels: pixels together with what they mean. No bare array travels between the modules of the core."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.errors import MismatchedMaps
from texel.normals.sign import holds_signed, signed_from_stored, stored_from_signed
from texel.roles import Green, Role, Transfer, facts
from texel.strips import by_rows

__all__ = ["REC709", "ColourTags", "Pixels", "Texels", "full_scale", "narrow", "primaries_code", "to_unit", "widen"]

Pixels = NDArray[Any]


# ITU-T H.273, colour primaries: BT.709 (also sRGB), BT.2020, SMPTE RP 431-2 (P3, DCI white), P3 with D65 white.
REC709 = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
_H273_PRIMARIES = {
    1: REC709,
    9: (0.708, 0.292, 0.170, 0.797, 0.131, 0.046, 0.3127, 0.3290),
    11: (0.680, 0.320, 0.265, 0.690, 0.150, 0.060, 0.314, 0.351),
    12: (0.680, 0.320, 0.265, 0.690, 0.150, 0.060, 0.3127, 0.3290),
}


def primaries_code(primaries: tuple[float, ...]) -> int | None:
    """The code point of ITU-T H.273 for chromaticities that may be rounded to three digits, or None."""
    for code, known in _H273_PRIMARIES.items():
        if max(abs(a - b) for a, b in zip(known, primaries, strict=True)) < 0.0015:
            return code
    return None


@dataclass(frozen=True)
class ColourTags:
    """What the file itself says about its colours; None where it says nothing.

    srgb: rendering intent of a PNG sRGB chunk; gamma: the gAMA chunk as decoding-side file gamma (0.45455 = 1/2.2);
    icc: the profile's name; icc_transfer: what it is, measured, "srgb", "linear" or "other" (texel.files.icc).
    cicp: (primaries, transfer, matrix, full range) of ITU-T H.273.
    chromaticities: x and y of red, green, blue and white, as OpenEXR has them, or as an ICC profile has them.
    """

    srgb: int | None = None
    gamma: float | None = None
    icc: str | None = None
    icc_transfer: str | None = None
    cicp: tuple[int, int, int, int] | None = None
    chromaticities: tuple[float, ...] | None = None

    @property
    def primaries(self) -> tuple[float, ...] | None:
        """x and y of red, green, blue and white that the file names; None where it names none that are known."""
        if self.cicp is not None:
            return _H273_PRIMARIES.get(self.cicp[0])
        return self.chromaticities

    @property
    def declared_transfer(self) -> str | None:
        """ "srgb", "linear", "other" or None; cICP wins over iCCP over sRGB over gAMA (PNG, third edition, 4.3)."""
        if self.cicp is not None:
            full_range = self.cicp[3] == 1
            return {13: "srgb", 8: "linear"}.get(self.cicp[1], "other") if full_range else "other"
        if self.icc is not None:
            return self.icc_transfer or "other"
        if self.srgb is not None:
            return "srgb"
        if self.gamma is not None:
            if abs(self.gamma - 1.0) < 0.01:
                return "linear"
            return "srgb" if abs(self.gamma - 1 / 2.2) < 0.01 else "other"
        return None


@dataclass(frozen=True)
class Texels:
    """A picture and its meaning.

    pixels: shape (height, width, channels), dtype uint8, uint16 or float32.
    channels: one letter a channel: "y", "ya", "rg", "rgb" or "rgba".
    transfer: how the stored numbers relate to light. role, green: None where nothing was said.
    as_colour: how the file's numbers relate to light where they are colour, whatever role they are read in: kept from
    before the first role was given.
    signed: whether the file holds components of normals from -1 to 1; here they are (n + 1) / 2 as in all other maps.
    """

    pixels: Pixels
    channels: str
    transfer: Transfer
    role: Role | None = None
    green: Green | None = None
    tags: ColourTags = field(default_factory=ColourTags)
    name: str = "picture"
    signed: bool = False
    as_colour: Transfer | None = None

    def __post_init__(self) -> None:
        if self.pixels.ndim != 3 or self.pixels.shape[2] != len(self.channels):
            raise ValueError(f"{self.name}: shape {self.pixels.shape} does not hold the channels {self.channels!r}")
        if self.pixels.dtype not in (np.uint8, np.uint16, np.float32):
            raise ValueError(f"{self.name}: {self.pixels.dtype} is not one of uint8, uint16, float32")

    @property
    def width(self) -> int:
        return int(self.pixels.shape[1])

    @property
    def height(self) -> int:
        return int(self.pixels.shape[0])

    @property
    def bits(self) -> int:
        return self.pixels.dtype.itemsize * 8

    @property
    def has_alpha(self) -> bool:
        return "a" in self.channels

    def with_pixels(self, pixels: Pixels, channels: str | None = None) -> Texels:
        return replace(self, pixels=pixels, channels=self.channels if channels is None else channels)

    def as_role(self, role: Role, green: Green | None = None) -> Texels:
        """The same pixels read as ``role``: integers take the role's colour space, floats are linear.

        What sign a float normal map has is decided here, once, over the whole of it; inside it is always (n + 1) / 2.
        """
        transfer = Transfer.LINEAR if self.pixels.dtype == np.float32 else facts(role).transfer
        pixels, signed = self.pixels, self.signed
        if role is Role.NORMAL and self.role is not Role.NORMAL and holds_signed(pixels, self.channels):
            pixels, signed = stored_from_signed(pixels), True
        elif signed and role is not Role.NORMAL:
            pixels, signed = signed_from_stored(pixels), False
        as_colour = self.as_colour or (Transfer.LINEAR if self.pixels.dtype == np.float32 else self._said())
        return replace(
            self, pixels=pixels, role=role, transfer=transfer, green=green, signed=signed, as_colour=as_colour
        )

    def _said(self) -> Transfer:
        return Transfer.LINEAR if self.tags.declared_transfer == "linear" else Transfer.SRGB

    def require(self, transfer: Transfer, purpose: str) -> None:
        """Raise MismatchedMaps unless the numbers are in ``transfer``: the wet-looking surface, caught here."""
        if self.transfer is not transfer:
            raise MismatchedMaps(
                "{what} holds {transfer} numbers, but {purpose} needs {transfer2} ones",
                what=self.name,
                transfer=self.transfer.value,
                purpose=purpose,
                transfer2=transfer.value,
            )

    def channel(self, letter: str) -> Pixels:
        """One channel, shape (height, width). "r", "g", "b" of a grey picture are its only channel.

        Raises MismatchedMaps when the picture has no such channel.
        """
        if letter in self.channels:
            return self.pixels[:, :, self.channels.index(letter)]
        if self.channels[0] == "y" and letter in "rgb":
            return self.pixels[:, :, 0]
        raise MismatchedMaps(
            "{what} has the channels {channels}, there is no {letter}",
            what=self.name,
            channels=self.channels.upper(),
            letter=letter.upper(),
        )


def full_scale(dtype: np.dtype[Any]) -> float:
    """The stored number that means 1.0: 255, 65535, or 1 for floats."""
    return float(np.iinfo(dtype).max) if np.issubdtype(dtype, np.integer) else 1.0


def to_unit(pixels: Pixels) -> NDArray[np.float32]:
    """Stored numbers as float32 where full scale is 1. Floats pass unchanged.

    >>> to_unit(np.array([255], np.uint8)).tolist()
    [1.0]
    """
    if pixels.dtype == np.float32:
        return pixels
    return np.multiply(pixels, np.float32(1 / full_scale(pixels.dtype)), dtype=np.float32)


def narrow(unit: Pixels, dtype: np.dtype[Any]) -> Pixels:
    """Floats 0 to 1 as stored numbers of ``dtype``, rounded to nearest, clipped at the ends.

    >>> narrow(np.array([0.5, 2.0], np.float32), np.dtype(np.uint8)).tolist()
    [128, 255]
    """
    if np.issubdtype(dtype, np.floating):
        return unit.astype(np.float32)
    top = full_scale(dtype)

    def rounded(values: Pixels) -> Pixels:
        scaled = np.multiply(values, top, dtype=values.dtype)
        scaled += 0.5
        # Clipped, nothing is below 0, so that leaving the fraction out rounds down.
        return np.clip(scaled, 0, top, out=scaled).astype(dtype)

    return by_rows(rounded, unit) if unit.ndim else rounded(unit[None])[0]


def widen(pixels: Pixels, dtype: np.dtype[Any]) -> Pixels:
    """The same values at another depth. 8 to 16 bits is exact (v * 257), and back again gives the same bytes.

    >>> widen(np.array([200], np.uint8), np.dtype(np.uint16)).tolist()
    [51400]
    >>> widen(np.array([51400], np.uint16), np.dtype(np.uint8)).tolist()
    [200]
    """
    if pixels.dtype == dtype:
        return pixels
    if pixels.dtype == np.uint8 and dtype == np.uint16:
        return pixels.astype(np.uint16) * np.uint16(257)
    if pixels.dtype == np.uint16 and dtype == np.uint8:
        return ((pixels.astype(np.uint32) * 2 + 257) // 514).astype(np.uint8)
    if np.issubdtype(dtype, np.floating):
        return to_unit(pixels)
    return narrow(pixels, dtype)
