"""``./ft bench``: whole processes, ours and the reference in turn, medians and the ratio of each pair."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np

from bench.labelled import Labelled, clean_sets, faulty_sets
from demo.patterns import noise
from demo.surfaces import SURFACES
from texel.checks import Severity, check_sets
from texel.files import read, write
from texel.image import Texels, narrow
from texel.normals.from_height import normals_from_height
from texel.roles import Transfer

_SIDE = 4096
_RUNS = 5
_WANTED_RATIO = 1.3
_WANTED_ANALYSIS = 2.0
_LABELLED_SIDE = 256
_MOST_ALARMS, _MOST_MISSES = 0.02, 0.05
_ROOT = Path(__file__).resolve().parent.parent
_REFERENCE = [sys.executable, str(Path(__file__).with_name("opencv_reference.py"))]
_ROLES = ("occlusion", "roughness", "metallic")


def _seconds(command: list[str], cwd: Path) -> float:
    start = time.perf_counter()
    subprocess.run(command, cwd=cwd, env={**os.environ, "PYTHONPATH": str(_ROOT)}, check=True, capture_output=True)
    return time.perf_counter() - start


def _make_inputs(folder: Path) -> None:
    """Maps of 4096 x 4096 with real structure: a demo surface repeated, under noise so that no two tiles agree."""
    eight = np.dtype(np.uint8)
    surface = SURFACES["slate_pier"](1024)
    grain = noise(_SIDE, 5, 0.8, 8)
    fields = {"occlusion": surface.occlusion, "roughness": surface.roughness, "metallic": surface.height}
    for role, field in fields.items():
        values = np.clip(np.tile(field, (4, 4)) * 0.9 + grain * 0.1, 0, 1)
        write(Texels(narrow(values[:, :, None], eight), "y", Transfer.LINEAR), folder / f"{role}.png")
    colour = np.clip(np.tile(surface.colour, (4, 4, 1)) + (grain[:, :, None] - 0.5) * 0.05, 0, 1)
    write(Texels(narrow(colour.astype(np.float32), eight), "rgb", Transfer.SRGB), folder / "base_color.png")
    vectors = normals_from_height(np.tile(surface.height, (4, 4)) + grain * 0.05, 20)
    write(Texels(narrow((vectors + 1) / 2, eight), "rgb", Transfer.LINEAR), folder / "normal.png")


def _commands(folder: Path) -> dict[str, tuple[list[str], list[str], list[tuple[str, str]]]]:
    """Name: our command, the reference's, and pairs of files that must hold the same pixels afterwards."""
    texel = [sys.executable, "-m", "texel"]
    sets = [f"--set={role}={role}.png" for role in _ROLES]
    return {
        "pack": (
            [*texel, "pack", "--layout", "orm", *sets, "-o", "ours_orm.png"],
            [*_REFERENCE, "pack", "reference_orm.png", *(f"{role}.png" for role in _ROLES)],
            [("ours_orm.png", "reference_orm.png")],
        ),
        "unpack": (
            [*texel, "unpack", "reference_orm.png", "--layout", "orm", "-o", "ours"],
            [*_REFERENCE, "unpack", "reference_orm.png", *(f"reference_{role}.png" for role in _ROLES)],
            [(f"ours/{role}.png", f"{role}.png") for role in _ROLES],
        ),
        "flip": (
            [*texel, "flip", "normal.png", "ours_flip.png"],
            [*_REFERENCE, "flip", "normal.png", "reference_flip.png"],
            [("ours_flip.png", "reference_flip.png")],
        ),
    }


def _exact(folder: Path, pairs: list[tuple[str, str]]) -> bool:
    def pixels(name: str) -> np.ndarray:
        found = cv2.imread(str(folder / name), cv2.IMREAD_UNCHANGED)
        assert found is not None, name
        return found

    return all(np.array_equal(pixels(ours), pixels(theirs)) for ours, theirs in pairs)


def _judged(one: Labelled) -> tuple[str, set[str]]:
    found, library = one.parts()
    return one.fault, {f.check for f in check_sets([found], library) if f.severity is not Severity.NOTE or one.fault}


def _judging() -> bool:
    """False alarms on clean sets and misses on faulty ones, by check; whether both stay within what is wanted."""
    print(
        f"judging a labelled set: {len(SURFACES)} surfaces in eight positions, {_LABELLED_SIDE} texels a side",
        flush=True,
    )
    alarms: Counter[str] = Counter()
    tried: Counter[str] = Counter()
    found: Counter[str] = Counter()
    with ProcessPoolExecutor() as pool:
        clean = [checks for _, checks in pool.map(_judged, clean_sets(_LABELLED_SIDE), chunksize=4)]
        for checks in clean:
            alarms.update(checks)
        for fault, checks in pool.map(_judged, faulty_sets(_LABELLED_SIDE), chunksize=16):
            tried[fault] += 1
            found[fault] += fault.split(" ")[0] in checks
    good = True
    for fault, count in tried.items():
        check = fault.split(" ")[0]
        false = alarms[check]
        recall, precision = found[fault] / count, found[fault] / max(found[fault] + false, 1)
        alarm = false / len(clean)
        fine = alarm <= _MOST_ALARMS and 1 - recall <= _MOST_MISSES
        good = good and fine
        print(
            f"{fault:<32} recall {recall:6.1%} of {count:3}   precision {precision:6.1%}"
            f"   false alarms {alarm:5.1%} of {len(clean)} clean sets   {'' if fine else 'NOT AS WANTED'}",
            flush=True,
        )
    others = {check: n for check, n in alarms.items() if check not in {f.split(" ")[0] for f in tried}}
    print(f"alarms on clean sets by checks without a fault of their own: {others or 'none'}")
    return good


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


def _analysis(folder: Path) -> bool:
    """Judging five maps of 4096 x 4096, decoding included, against decoding the files alone, in one process."""
    names = {role: f"{role}.png" for role in ("base_color", "normal", *_ROLES)}
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
        f"judging five maps of {_SIDE} x {_SIDE}: {judging:.2f} s with decoding, decoding alone {decoding:.2f} s,"
        f" ratio {ratio:.2f} (wanted at most {_WANTED_ANALYSIS}); {memory:.0f} MiB at most (wanted under 1536)"
    )
    return ratio <= _WANTED_ANALYSIS and memory < 1536


def main() -> int:
    """Print a line for each operation; 1 when a result is not exact, a ratio too high or a check not sure enough."""
    failed = not _judging()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        print(f"making maps of {_SIDE} x {_SIDE} ...", flush=True)
        _make_inputs(folder)
        assert read(folder / "normal.png").width == _SIDE
        print(f"whole processes, {_RUNS} pairs in turn, medians; reference: OpenCV {cv2.__version__}, PNG level 1")
        for operation, (ours, reference, pairs) in _commands(folder).items():
            _seconds(reference, folder), _seconds(ours, folder)
            timed = [(_seconds(ours, folder), _seconds(reference, folder)) for _ in range(_RUNS)]
            ratio = statistics.median(a / b for a, b in timed)
            exact = _exact(folder, pairs)
            failed = failed or not exact or ratio > _WANTED_RATIO
            print(
                f"{operation:<7} ours {statistics.median(a for a, _ in timed):6.2f} s"
                f"   reference {statistics.median(b for _, b in timed):6.2f} s   ratio {ratio:5.2f}"
                f" (wanted at most {_WANTED_RATIO})   {'exact' if exact else 'NOT EXACT'}",
                flush=True,
            )
        failed = not _analysis(folder) or failed
    return 1 if failed else 0


if __name__ == "__main__":
    raise SystemExit(main())
