"""Maps of 4096 x 4096 with real structure, for every part of the benchmark."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from demo.patterns import noise
from demo.surfaces import SURFACES
from texel.files import write
from texel.image import Texels, narrow
from texel.normals.from_height import normals_from_height
from texel.roles import Transfer

__all__ = ["SIDE", "make_inputs"]

SIDE = 4096


def make_inputs(folder: Path) -> None:
    """Maps of 4096 x 4096 with real structure: a demo surface repeated, under noise so that no two tiles agree."""
    eight = np.dtype(np.uint8)
    surface = SURFACES["slate_pier"](1024)
    grain = noise(SIDE, 5, 0.8, 8)
    fields = {"occlusion": surface.occlusion, "roughness": surface.roughness, "metallic": surface.height}
    for role, field in fields.items():
        values = np.clip(np.tile(field, (4, 4)) * 0.9 + grain * 0.1, 0, 1)
        write(Texels(narrow(values[:, :, None], eight), "y", Transfer.LINEAR), folder / f"{role}.png")
    colour = np.clip(np.tile(surface.colour, (4, 4, 1)) + (grain[:, :, None] - 0.5) * 0.05, 0, 1)
    write(Texels(narrow(colour.astype(np.float32), eight), "rgb", Transfer.SRGB), folder / "base_color.png")
    vectors = normals_from_height(np.tile(surface.height, (4, 4)) + grain * 0.05, 20)
    write(Texels(narrow((vectors + 1) / 2, eight), "rgb", Transfer.LINEAR), folder / "normal.png")
