"""What a machine is asked for: sets an hour by cores, memory of a job, disk by set. Figures for docs/machines.md."""

from __future__ import annotations

import multiprocessing
import os
import resource
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from bench.intake import write_sets
from texel.checks import judge_set
from texel.delivery import builtin_targets, deliver_folder, parse_target, plan_delivery
from texel.library import Library
from texel.sorting import sort_files

__all__ = ["run"]

_SETS, _SIDES = 8, (1024, 2048)
# With twice the cores at least so much more is done in an hour.
_GROWS = 1.4


def _judge(folder: str, at: int) -> int:
    """Judge one set, read anew as a worker does; the most memory that this process has used, in bytes."""
    library = Library.of_folder(Path(folder))
    one = sort_files(library, "in").sets[at]
    judge_set(one, library)
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


def _sets_an_hour(folder: Path, processes: int) -> tuple[float, int]:
    # Kept to so many cores, whatever threads a library starts.
    cores = sorted(os.sched_getaffinity(0))[:processes]
    context = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(processes, context, os.sched_setaffinity, (0, cores)) as pool:
        list(pool.map(_judge, [str(folder)] * processes, range(processes)))  # compiled and warm
        began = time.monotonic()
        peaks = list(pool.map(_judge, [str(folder)] * _SETS, range(_SETS)))
        return 3600 * _SETS / (time.monotonic() - began), max(peaks)


def _size(folder: Path) -> int:
    return sum(path.stat().st_size for path in folder.rglob("*") if path.is_file())


def run() -> bool:
    """Print the figures of each size; whether more cores do more."""
    good = True
    for side in _SIDES:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name) / "in"
            write_sets(folder, _SETS, side)
            cores = sorted({1, os.cpu_count() or 1})
            hours = {count: _sets_an_hour(folder, count) for count in cores}
            library = Library.of_folder(folder)
            target = parse_target(builtin_targets()["orm-y-minus"])
            began = time.monotonic()
            deliver_folder(plan_delivery(sort_files(library, "in").sets, library, target), library, Path(name) / "out")
            delivered = 3600 * _SETS / (time.monotonic() - began)
            sources, made = _size(folder) / _SETS / 1e6, _size(Path(name) / "out") / _SETS / 1e6
            told = ", ".join(f"{rate:.0f} on {count} core{'s' * (count > 1)}" for count, (rate, _) in hours.items())
            print(
                f"sizing: sets of four maps, {side} x {side}: judged an hour {told}; delivered an hour {delivered:.0f} "
                f"on {cores[-1]}; memory of a process {max(peak for _, peak in hours.values()) >> 20} MB; sources "
                f"{sources:.1f} MB a set, delivered {made:.1f} MB (noise, which hardly compresses)",
                flush=True,
            )
            rates = [rate for rate, _ in hours.values()]
            good = good and (len(rates) == 1 or rates[-1] > rates[0] * _GROWS)
    return good
