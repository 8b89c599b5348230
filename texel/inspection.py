"""Everything that can be said of one file: header, colour tags, statistics of each channel, the likeliest roles."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from texel.files import DEFAULT_LIMITS, Limits, probe, read
from texel.image import Texels, to_unit
from texel.naming.tokens import parse_name
from texel.normals.direction import find_direction
from texel.roles import Role
from texel.sorting.content import guess_roles

__all__ = ["channel_statistics", "inspect"]

_SPREAD = (1, 99)


def channel_statistics(texels: Texels) -> dict[str, dict[str, float]]:
    """By channel letter, in units where full scale is 1: min, max, mean, spread (99th minus 1st percentile), and the
    shares of texels at 0 (black) and at 1 (white); distinct: how many values occur.
    """
    unit = to_unit(texels.pixels)
    statistics = {}
    for at, letter in enumerate(texels.channels):
        plane = unit[:, :, at]
        low, high = np.percentile(plane, _SPREAD)
        statistics[letter] = {
            "min": float(plane.min()),
            "max": float(plane.max()),
            "mean": float(plane.mean(dtype=np.float64)),
            "spread": float(high - low),
            "black": float(np.mean(plane <= 0)),
            "white": float(np.mean(plane >= 1)),
            "distinct": len(np.unique(texels.pixels[:, :, at])),
        }
    return statistics


def inspect(path: Path, limits: Limits = DEFAULT_LIMITS, layer: str | None = None) -> dict[str, Any]:
    """One JSON document about a file, or one layer of it. Raises UnreadableImage, TooLarge, OSError.

    guessed: roles from the pixels alone, likeliest first; named: what the file's name says; green: for what may be a
    normal map, its direction from the pixels.
    """
    head = probe(path).of_layer(layer, path.name)
    texels = read(path, limits, layer)
    name = parse_name(layer.rpartition(".")[2] if layer else path.stem)
    guesses = guess_roles(texels)
    tags = texels.tags
    direction = None
    may_be_normal = name.role is Role.NORMAL or any(g.role is Role.NORMAL for g in guesses[:1])
    if may_be_normal and texels.channels[0] != "y":
        green = find_direction(texels)
        direction = {"green": green.green.value, "confidence": round(green.confidence, 3)}
    return {
        "file": path.name,
        "probe": {
            "container": head.container, "width": head.width, "height": head.height, "channels": head.channels,
            "bits": head.bits, "bytes": head.bytes, "lossy": head.lossy,
        },
        "tags": {
            "says": tags.declared_transfer, "srgb": tags.srgb, "gamma": tags.gamma, "icc": tags.icc,
            "cicp": list(tags.cicp) if tags.cicp else None,
            "primaries": list(tags.primaries) if tags.primaries else None,
        },
        "layer": layer,
        "layers": [
            {"name": one.name, "width": one.width, "height": one.height, "channels": one.channels, "bits": one.bits}
            for one in head.layers
        ],
        "channels": channel_statistics(texels),
        "named": {
            "role": name.role.value if name.role else None,
            "pack": {letter: role.value for letter, role in name.pack},
            "green": name.green.value if name.green else None,
        },
        "guessed": [{"role": g.role.value, "confidence": round(g.confidence, 3), "why": g.why} for g in guesses],
        "green": direction,
    }  # fmt: skip
