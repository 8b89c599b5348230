"""Baking: a layered master of four sheets at 4096 x 4096, against a program written by hand for that one sheet.

Both run in processes of their own, so that each shows what memory it takes.
"""

from __future__ import annotations

import json
import os
import resource
import statistics
import subprocess
import sys
import time

from demo.materials import MASTERS
from texel.materials import Master, cost_of, parse_master, stacked_sheets
from texel.materials.versions import sample_maps

__all__ = ["run"]

_SIDE, _MAPS = 4096, 1024
_PAIRS = 3
_RED = 0.5
# As the design asks for: wall time, and memory.
_MOST = 1.5


def _master() -> Master:
    layers = [(name, name.title(), MASTERS[0]) for name in ("first", "second", "third", "fourth")]
    return parse_master(stacked_sheets("four", "Four layers", layers))


def _work(way: str, threads: int) -> tuple[float, float, float]:
    """Seconds, MiB at most, and the mean of all that was made, in this process."""
    master = _master()
    maps = sample_maps(master, _MAPS)
    if way == "hand":
        from bench.layers_reference import bake_by_hand

        given = {name: one.pixels for name, one in maps.items()}
        bake_by_hand({name: one[:64, :64] for name, one in given.items()}, 256, _RED, threads)
        start = time.perf_counter()
        made = bake_by_hand(given, _SIDE, _RED, threads)
    else:
        from texel.materials.baking import bake

        # Loops are compiled once for a machine, not once for a bake.
        bake(master, sample_maps(master, 16), {}, 2048, 2048, vertex=(_RED, 0, 0, 1), threads=threads)
        start = time.perf_counter()
        baked = bake(master, maps, {}, _SIDE, _SIDE, vertex=(_RED, 0, 0, 1), threads=threads)
        made = {role.value: texels.pixels for role, texels in baked.maps.items()}
    seconds = time.perf_counter() - start
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return seconds, peak, float(sum(one.mean() for one in made.values()))


def _apart(way: str, threads: int) -> tuple[float, float, float]:
    done = subprocess.run(
        [sys.executable, "-m", "bench.materials", way, str(threads)], capture_output=True, text=True, check=True
    )
    seconds, peak, mean = json.loads(done.stdout)
    return seconds, peak, mean


def run() -> bool:
    """Print how long a four-layer master takes into all its maps and what memory, as ratios to the program by hand:
    medians of pairs, on one thread and on all. False where one of the ratios on all threads is above 1.5."""
    cost = cost_of(_master())
    print(f"a master of four layers: {cost.reads} texture reads, {cost.arithmetic} arithmetic steps", flush=True)
    good = True
    for threads in (1, os.cpu_count() or 1):
        pairs = [(_apart("ours", threads), _apart("hand", threads)) for _ in range(_PAIRS)]
        wall = statistics.median(ours[0] / hand[0] for ours, hand in pairs)
        memory = statistics.median(ours[1] / hand[1] for ours, hand in pairs)
        (seconds, peak, mean), (_, _, wanted) = pairs[-1]
        print(
            f"baked into 5 maps of {_SIDE} x {_SIDE} on {threads} threads: {seconds:.1f} s, {peak:.0f} MiB; "
            f"{wall:.2f} of the time by hand, {memory:.2f} of the memory; means {abs(mean - wanted):.3f} apart",
            flush=True,
        )  # fmt: skip
        good = abs(mean - wanted) < 1 and (threads == 1 or max(wall, memory) <= _MOST)
    return good


if __name__ == "__main__":
    print(json.dumps(_work(sys.argv[1], int(sys.argv[2]))))
