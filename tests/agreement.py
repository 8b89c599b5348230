"""What every test of one back end against another shares: the same maps, the same surface, the same tolerance."""

from __future__ import annotations

import numpy as np

from tests.places import PLACE
from texel.materials import INPUTS, evaluate
from texel.roles import Transfer

SIDE = 16
# A step of 8 bits, which the design asks for.
STEP = 1 / 255


def rgba(texels):
    """A map's pixels as four channels of bytes; grey three times, alpha full."""
    pixels = texels.pixels
    found = np.full((*pixels.shape[:2], 4), 255, np.uint8)
    found[:, :, : pixels.shape[2] if pixels.shape[2] > 1 else 3] = pixels
    return found


def computed(master, maps):
    return evaluate(master, maps, {}, SIDE, SIDE, place=PLACE)


def apart(made, wanted):
    """The largest difference of a texel's channels, within what a picture shows."""
    return np.abs(np.clip(made, 0, 1) - np.clip(wanted, 0, 1)).max(axis=2)


def shaken(master, maps):
    """Where, by input, a hair's breadth in a map's values decides: a step of a switch, the pole of a division."""
    base = computed(master, maps)
    off = {name: np.zeros((SIDE, SIDE), bool) for name in INPUTS}
    for shift in (-1, 1):
        moved = {}
        for slot, texels in maps.items():
            unit = texels.pixels.astype(np.float32) / 255
            if texels.transfer is Transfer.SRGB:
                unit = np.where(unit <= 0.04045, unit / 12.92, ((unit + 0.055) / 1.055) ** 2.4)
            moved[slot] = texels.with_pixels((unit + np.float32(shift * 2e-5)).astype(np.float32))
        other = computed(master, moved)
        for name in INPUTS:
            off[name] |= ~(apart(other[name], base[name]) <= STEP / 8)
    return off
