"""How soon a step that is tried out on a map of 4096 x 4096 shows, at screen resolution."""

from __future__ import annotations

import statistics
import time
from typing import Any

import numpy as np

from demo.surfaces import SURFACES
from texel.image import Texels, narrow
from texel.normals.from_height import normals_from_height
from texel.pictures import View, picture
from texel.recipes import STEPS, preview_recipe
from texel.recipes.step import Context
from texel.resize import reduced
from texel.roles import Role, Transfer, facts

__all__ = ["run"]

_SIDE, _FULL, _WANTED = 768, 4096, 0.150
_DRAWN = 1024
_EIGHT = np.dtype(np.uint8)


def _small() -> dict[str, Texels]:
    surface = SURFACES["slate_pier"](_DRAWN)
    vectors = (normals_from_height(surface.height, surface.relief * 2) + 1) / 2
    small = {}
    for role in Role:
        values: Any = surface.colour if facts(role).channels == 3 else surface.height[:, :, None]
        values = vectors if role is Role.NORMAL else values
        channels = "rgb" if values.shape[2] == 3 else "y"
        pixels = narrow(np.asarray(values, np.float32), _EIGHT)
        small[role.value] = reduced(Texels(pixels, channels, Transfer.LINEAR).as_role(role), _SIDE)
    return small | {"normal/2": small["normal"]}


def run() -> bool:
    """Print a line a step that is slower than wanted, and the slowest; whether all answer within 150 ms."""
    maps = _small()
    context = Context(other=lambda name: maps[name])
    slowest, good = (0.0, ""), True
    for name, kind in STEPS.items():
        step = {"step": name, **({"width": 2048, "height": 2048} if name == "resize" else {})}
        role = "normal" if name == "height_from_normal" else kind.suits[0].value
        role = "height" if name in ("normal_from_height", "dequantise", "occlusion_from_height") else role
        role = "specular" if name == "metallic_from_specular" else role
        times = []
        for _ in range(4):
            start = time.perf_counter()
            made = preview_recipe(maps[role], _SIDE / _FULL, [step], context)
            picture(made, View(side=_SIDE, pack=False))
            times.append(time.perf_counter() - start)
        taken = statistics.median(times[1:])
        slowest = max(slowest, (taken, name))
        if taken > _WANTED:
            good = False
            print(f"preview of {name}: {taken * 1000:.0f} ms (wanted at most 150)   NOT AS WANTED")
    print(f"previews of {len(STEPS)} steps with their picture: the slowest, {slowest[1]}, {slowest[0] * 1000:.0f} ms")
    return good
