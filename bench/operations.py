"""Pack, unpack and flip as whole processes, ours and bare OpenCV in turn."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
from pathlib import Path

import cv2
import numpy as np

from bench.inputs import SIDE

__all__ = ["run"]

_RUNS = 5
_WANTED_RATIO = 1.3
_ROOT = Path(__file__).resolve().parent.parent
_REFERENCE = [sys.executable, str(Path(__file__).with_name("opencv_reference.py"))]
_ROLES = ("occlusion", "roughness", "metallic")


def _seconds(command: list[str], cwd: Path) -> float:
    start = time.perf_counter()
    subprocess.run(command, cwd=cwd, env={**os.environ, "PYTHONPATH": str(_ROOT)}, check=True, capture_output=True)
    return time.perf_counter() - start


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
        decoded = cv2.imread(str(folder / name), cv2.IMREAD_UNCHANGED)
        assert decoded is not None, name
        return decoded

    return all(np.array_equal(pixels(ours), pixels(theirs)) for ours, theirs in pairs)


def run(folder: Path) -> bool:
    """Print a line an operation; whether all are exact and within the wanted ratio."""
    good = True
    print(f"whole processes on {SIDE} x {SIDE}, {_RUNS} pairs in turn, medians; OpenCV {cv2.__version__}, PNG level 1")
    for operation, (ours, reference, pairs) in _commands(folder).items():
        _seconds(reference, folder), _seconds(ours, folder)
        timed = [(_seconds(ours, folder), _seconds(reference, folder)) for _ in range(_RUNS)]
        ratio = statistics.median(a / b for a, b in timed)
        exact = _exact(folder, pairs)
        good = good and exact and ratio <= _WANTED_RATIO
        print(
            f"{operation:<7} ours {statistics.median(a for a, _ in timed):6.2f} s"
            f"   reference {statistics.median(b for _, b in timed):6.2f} s   ratio {ratio:5.2f}"
            f" (wanted at most {_WANTED_RATIO})   {'exact' if exact else 'NOT EXACT'}",
            flush=True,
        )
    return good
