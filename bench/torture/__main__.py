"""``./ft torture [KILLS [RESTARTS]]``: 20 kills of each kind of process, 5 database restarts, 2 full disks."""

from __future__ import annotations

import contextlib
import os
import random
import signal
import sys
import tempfile
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from bench.torture.studio import Refused, Studio, running
from demo.intake import write_project_folder
from texel import digest

_TARGETS = ("orm-y-minus", "metal-rough-gloss-y-plus")
_STEPS: list[list[dict[str, Any]]] = [[], [{"step": "invert"}], [{"step": "levels", "gamma": 1.5}]]
_RUN_SECONDS = 4.0
# Every order of the people is waited for so long after the last attack.
_SETTLE_SECONDS = 600.0


@dataclass
class Promised:
    """What was acknowledged: steps by map, digests by path, deliveries, and how often nothing was."""

    steps: dict[int, list[str]] = field(default_factory=dict)
    unsure: set[int] = field(default_factory=set)
    files: dict[str, str] = field(default_factory=dict)
    deliveries: list[int] = field(default_factory=list)
    changes: int = 0
    refused: int = 0


class People(threading.Thread):
    """Somebody who changes steps, orders deliveries, looks at pictures and uploads, without end."""

    def __init__(self, studio: Studio, base: str, seed: int):
        super().__init__(daemon=True)
        self.studio, self.base, self.random = studio, base, random.Random(seed)
        self.promised, self.going = Promised(), True
        self.maps = [
            one for made in studio.patiently("GET", f"{base}/sets")["sets"] for one in made["maps"]
            if one["role"] == "roughness"
        ][seed::2]  # fmt: skip
        self.intake = studio.patiently("POST", f"{base}/intakes", {"name": f"more {seed}"})["id"]
        self.seed = seed

    def run(self) -> None:
        turns = [self.change, self.change, self.change, self.look, self.upload, self.deliver]
        while self.going:
            try:
                self.random.choice(turns)()
            except Refused:
                self.promised.refused += 1
                time.sleep(0.2)

    def change(self) -> None:
        one, steps = self.random.choice(self.maps)["id"], self.random.choice(_STEPS)
        # Without an answer it may have happened or not; with one it has.
        self.promised.unsure.add(one)
        self.studio("PUT", f"{self.base}/maps/{one}/recipe", {"recipe": steps})
        self.promised.unsure.discard(one)
        self.promised.steps[one] = [step["step"] for step in steps]
        self.promised.changes += 1

    def look(self) -> None:
        one = self.random.choice(self.maps)["id"]
        self.studio("GET", f"{self.base}/maps/{one}/histogram")

    def upload(self) -> None:
        name = f"more_{self.seed}_{len(self.promised.files)}_{self.random.randrange(10**9)}.png"
        content = self.random.randbytes(self.random.randrange(10_000, 60_000))
        taken = self.studio.upload(f"{self.base}/intakes/{self.intake}/files", name, content)
        self.promised.files[name] = taken["digest"]

    def deliver(self) -> None:
        if len(self.promised.deliveries) < 12:
            made = self.studio("POST", f"{self.base}/deliveries", {"target": self.random.choice(_TARGETS)})
            self.promised.deliveries.append(made["number"])


def _taken_in(studio: Studio) -> str:
    base = f"/projects/{studio('POST', '/projects', {'name': 'Torture'})['slug']}"
    intake = studio("POST", f"{base}/intakes", {"name": "first"})["id"]
    with tempfile.TemporaryDirectory() as folder:
        write_project_folder("saltmarsh_ferry", Path(folder))
        for path in sorted(one for one in Path(folder).rglob("*") if one.is_file()):
            studio.upload(f"{base}/intakes/{intake}/files", str(path.relative_to(folder)), path.read_bytes())
    studio("POST", f"{base}/intakes/{intake}/sort")
    studio.wait_for(
        lambda: (sets := studio("GET", f"{base}/sets")["sets"]) and all(one["judged"] for one in sets), "judging"
    )
    return base


def _attack(studio: Studio, kills: int, restarts: int) -> dict[str, int]:
    """Everything that may befall a machine, one after the other; returns how often each did."""
    rolled, done = random.Random(1), {}
    for kind in ("server process", "server", "worker", "keeper of the workers", "child"):
        for _ in range(kills):
            pids = studio.wait_for(lambda kind=kind: studio.processes().get(kind), f"a {kind} to kill")
            with contextlib.suppress(ProcessLookupError):
                os.kill(rolled.choice(pids), signal.SIGKILL)
                done[kind] = done.get(kind, 0) + 1
            time.sleep(rolled.uniform(0.2, _RUN_SECONDS / 2))
        studio.until_well()
        print(f"torture: {done.get(kind, 0)} kills of a {kind}", flush=True)
    for _ in range(restarts):
        studio.restart_database()
        done["database restart"] = done.get("database restart", 0) + 1
        time.sleep(_RUN_SECONDS)
    studio.until_well()
    print(f"torture: {restarts} database restarts", flush=True)
    for _ in range(2 if studio.own_disk else 0):
        with studio.full_disk():
            time.sleep(2 * _RUN_SECONDS)
        done["full disk"] = done.get("full disk", 0) + 1
        time.sleep(_RUN_SECONDS)
    studio.until_well()
    return done


def _faults(studio: Studio, base: str, people: list[People]) -> list[str]:
    """What is lost, half, or waits for ever."""
    faults: list[str] = []
    until = time.monotonic() + _SETTLE_SECONDS
    while True:
        waiting = [j for j in studio.patiently("GET", f"{base}/jobs") if j["state"] in ("waiting", "running")]
        if not waiting:
            break
        if time.monotonic() > until:
            faults += [f"job {job['id']} ({job['title']}) is {job['state']} for ever" for job in waiting]
            break
        time.sleep(1)
    sets = studio.patiently("GET", f"{base}/sets")["sets"]
    now = {one["id"]: [step["step"] for step in one["recipe"]] for made in sets for one in made["maps"]}
    faults += [f"set {one['name']} is not judged" for one in sets if not one["judged"]]
    for person in people:
        for pk, steps in person.promised.steps.items():
            if pk not in person.promised.unsure and now[pk] != steps:
                faults.append(f"map {pk} has the steps {now[pk]}, acknowledged were {steps}")
        taken = studio.patiently("GET", f"{base}/intakes/{person.intake}")["taken"]
        kept = {one["path"]: one["digest"] for one in taken}
        for path, wanted in person.promised.files.items():
            place = Path(studio.env["FAIR_TEXEL_STORE"], "source", wanted[:2], wanted)
            if kept.get(path) != wanted or not place.is_file() or digest.of_file(place) != wanted:
                faults.append(f"the upload {path} is lost or damaged")
        for number in person.promised.deliveries:
            faults += _faults_of(studio.patiently("GET", f"{base}/deliveries/{number}"))
    left = [path for path in Path(studio.env["FAIR_TEXEL_DELIVERIES"]).rglob("*.part-*") if path.is_dir()]
    return faults + [f"half a delivery: {path.name}" for path in left]


def _faults_of(delivery: dict[str, Any]) -> list[str]:
    if delivery["state"] == "failed":
        # A full disk may fail one, in words.
        return [] if delivery["message"] else [f"delivery {delivery['number']} failed without a word"]
    if delivery["state"] != "done":
        return [f"delivery {delivery['number']} is {delivery['state']}"]
    return [
        f"delivery {delivery['number']}: {entry['path']} is not what its manifest says"
        for entry in delivery["manifest"]["files"]
        if digest.of_file(Path(delivery["folder"], entry["path"])) != entry["digest"]
    ]


def main(words: list[str]) -> int:
    """1 when something was lost, half, or waits for ever."""
    numbers = [int(word) for word in words if word.isdigit()]
    kills, restarts = (numbers + [20, 5][len(numbers) :])[:2]
    began = time.monotonic()
    with running() as studio:
        base = _taken_in(studio)
        people = [People(studio, base, seed) for seed in range(2)]
        for person in people:
            person.start()
        done = _attack(studio, kills, restarts)
        for person in people:
            person.going = False
        for person in people:
            person.join()
        faults = _faults(studio, base, people)
    made = [person.promised for person in people]
    print(f"torture: {', '.join(f'{count} x {what}' for what, count in done.items())}")
    if "full disk" not in done:
        print("torture: no disk could be filled; mounting one needs an administrator")
    print(
        f"torture: {sum(one.changes for one in made)} changes, {sum(len(one.files) for one in made)} uploads and "
        f"{sum(len(one.deliveries) for one in made)} deliveries acknowledged, {sum(one.refused for one in made)} asked "
        f"in vain, {time.monotonic() - began:.0f} s"
    )
    for fault in faults:
        print(f"torture: {fault}")
    print("torture: nothing lost, nothing half, nothing waiting" if not faults else f"torture: {len(faults)} faults")
    return 1 if faults else 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
