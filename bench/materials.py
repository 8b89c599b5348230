"""Baking: a layered master of four sheets at 4096 x 4096, in megapixels a second, and the memory that it takes."""

from __future__ import annotations

import resource
import time

from demo.materials import MASTERS
from texel.materials import cost_of, parse_master, stacked_sheets
from texel.materials.baking import bake
from texel.materials.versions import sample_maps

__all__ = ["run"]

_SIDE = 4096


def run() -> bool:
    """Print how fast a four-layer master bakes into all its maps, on one thread and on all."""
    solid = MASTERS[0]
    layers = [(name, name.title(), solid) for name in ("first", "second", "third", "fourth")]
    master = parse_master(stacked_sheets("four", "Four layers", layers))
    maps = sample_maps(master, 1024)
    cost = cost_of(master)
    print(f"a master of four layers: {cost.reads} texture reads, {cost.arithmetic} arithmetic steps", flush=True)
    times = {}
    for threads in (1, None):
        start = time.perf_counter()
        made = bake(master, maps, {}, _SIDE, _SIDE, threads=threads, vertex=(0.5, 0, 0, 1))
        times[threads] = time.perf_counter() - start
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    megapixels = _SIDE * _SIDE / 1e6
    print(
        f"baked into {len(made.maps)} maps of {_SIDE} x {_SIDE}: {megapixels / times[1]:.2f} megapixels a second on "
        f"one thread, {megapixels / times[None]:.2f} on all; {peak:.0f} MiB at most"
    )  # fmt: skip
    return True
