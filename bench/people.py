"""People at work while some ask for as much as the server lets them: how long a light request takes, and how much
memory all of it needs."""

from __future__ import annotations

import os
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path

import numpy as np

from bench import thirty
from bench.torture.studio import Refused, Studio, running
from studio.jobs.watching import memory_of_tree
from texel.files import encode
from texel.image import Texels
from texel.roles import Transfer

__all__ = ["run"]

_SECONDS = 40.0
_SIDE = 8192
_PEOPLE, _HOSTILE = 6, 10
# What a light request may take, at the 95th percentile.
_LIGHT_SECONDS = 1.0
# What the web servers and the workers hold without any picture, beside what each child may use (FAIR_TEXEL_DRAWING_MB).
_AT_REST_MB, _EACH_MB = 2048, 2048


def _largest(seed: int) -> bytes:
    """A PNG as large as is let in: 16 bits, four channels, 512 MB decoded."""
    rng = np.random.default_rng(seed)
    rows = rng.integers(0, 65535, (64, _SIDE, 4), dtype=np.uint16)
    return encode(Texels(np.tile(rows, (_SIDE // 64, 1, 1)), "rgba", Transfer.SRGB), "png")


class _Asking(threading.Thread):
    """Asks in turns, without end; counts answers, and how long they took."""

    def __init__(self, studio: Studio, paths: list[str]):
        super().__init__(daemon=True)
        self.studio, self.paths = studio, paths
        self.took: list[float] = []
        self.answers: Counter[int] = Counter()
        self.going = True

    def run(self) -> None:
        at = 0
        while self.going:
            began = time.monotonic()
            try:
                self.studio.ask("GET", self.paths[at % len(self.paths)])
                self.answers[200] += 1
            except Refused as error:
                self.answers[error.status] += 1
            self.took.append(time.monotonic() - began)
            at += 1


def _all_of(base: str, ids: list[int], seed: int) -> list[str]:
    """Everything that makes a map be decoded, each time otherwise than before."""
    rng = np.random.default_rng(seed)
    rows = []
    for _ in range(400):
        one, number = rng.choice(ids), int(rng.integers(1, 2000))
        rows += [
            f"{base}/maps/{one}/histogram", f"{base}/maps/{one}/picture?side={number}", f"{base}/maps/{one}/mips",
            f"{base}/maps/{one}/tile/3/{number % 2}/{number % 3}?channel={'rgb'[number % 3]}",
            f"{base}/maps/{one}/values?x={number}&y={number}", f"{base}/maps/{one}/misread",
        ]  # fmt: skip
    return rows


def run() -> bool:
    with running() as studio, tempfile.TemporaryDirectory() as folder:
        thirty_well = thirty.run(studio, Path(folder) / "in")
        base = f"/projects/{studio('POST', '/projects', {'name': 'People'})['slug']}"
        intake = studio("POST", f"{base}/intakes", {"name": "large"})["id"]
        for seed in range(3):
            studio.upload(f"{base}/intakes/{intake}/files", f"wall{seed}_bc.png", _largest(seed))
        studio("POST", f"{base}/intakes/{intake}/sort")
        sets = studio.wait_for(lambda: studio("GET", f"{base}/sets")["sets"], "sorting", 600)
        # Judging three such maps is work of its own, and not what this is about.
        studio.wait_for(lambda: not studio("GET", f"{base}/jobs"), "judging", 900)
        ids = [one["maps"][0]["id"] for one in sets]
        light = [f"{base}/sets", f"{base}/jobs", "/projects", f"{base}/members", f"{base}/rules/names", "/session"]
        people = [_Asking(studio, light[at:] + light[:at]) for at in range(_PEOPLE)]
        hostile = [_Asking(studio, _all_of(base, ids, seed)) for seed in range(_HOSTILE)]
        peak = 0
        for one in [*people, *hostile]:
            one.start()
        until = time.monotonic() + _SECONDS
        while time.monotonic() < until:
            peak = max(peak, memory_of_tree(studio.supervisor.pid if studio.supervisor else 0))
            time.sleep(0.2)
        for one in [*people, *hostile]:
            one.going = False
        for one in people:
            one.join()
    took = np.array([seconds for one in people for seconds in one.took])
    answers = sum((one.answers for one in hostile), Counter())
    slow = float(np.percentile(took, 95))
    bound = _AT_REST_MB + _EACH_MB * (os.cpu_count() or 1)
    print(
        f"people: {len(took)} light requests, median {np.median(took) * 1000:.0f} ms, 95th percentile "
        f"{slow * 1000:.0f} ms (at most {_LIGHT_SECONDS * 1000:.0f}), longest {took.max():.2f} s"
    )
    print(f"people: {dict(answers)} answers to the {_HOSTILE} who ask for large pictures, by status")
    print(f"people: {peak >> 20} MB at most in all processes together (bound {bound})")
    wrong = [status for one in people for status in one.answers if status != 200]
    return thirty_well and slow < _LIGHT_SECONDS and peak >> 20 < bound and not wrong
