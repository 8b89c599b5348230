"""Judging a whole set against decoding its files."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
from pathlib import Path

from bench.inputs import SIDE

__all__ = ["run"]

_WANTED_ANALYSIS = 2.0
_ROOT = Path(__file__).resolve().parent.parent
_NAMES = ("base_color", "normal", "occlusion", "roughness", "metallic")
_ANALYSIS = """
import resource, sys, time
from pathlib import Path
from texel.checks import check_sets
from texel.files import read
from texel.library import Library
from texel.roles import Role
from texel.sets import MapRef, TextureSet
folder, names = Path(sys.argv[1]), dict(pair.split("=") for pair in sys.argv[2:])
start = time.perf_counter()
for name in names.values():
    read(folder / name)
decoding = time.perf_counter() - start
library = Library.of_folder(folder)
start = time.perf_counter()
check_sets([TextureSet("s", tuple(MapRef(Role(role), name) for role, name in names.items()))], library)
print(decoding, time.perf_counter() - start, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
"""


def run(folder: Path) -> bool:
    """Judging five maps of 4096 x 4096, decoding included, against decoding the files alone, in one process."""
    names = {role: f"{role}.png" for role in _NAMES}
    command = [sys.executable, "-c", _ANALYSIS, str(folder), *(f"{role}={name}" for role, name in names.items())]
    runs = []
    for _ in range(3):
        said = subprocess.run(
            command, env={**os.environ, "PYTHONPATH": str(_ROOT)}, check=True, capture_output=True, text=True
        )
        runs.append([float(word) for word in said.stdout.split()])
    decoding, judging, memory = (statistics.median(column) for column in zip(*runs, strict=True))
    ratio = statistics.median(b / a for a, b, _ in runs)
    print(
        f"judging five maps of {SIDE} x {SIDE}: {judging:.2f} s with decoding, decoding alone {decoding:.2f} s,"
        f" ratio {ratio:.2f} (wanted at most {_WANTED_ANALYSIS}); {memory:.0f} MiB at most (wanted under 1536)"
    )
    return ratio <= _WANTED_ANALYSIS and memory < 1536
