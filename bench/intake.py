"""Taking in many small sets: sorting against decoding alone, judging against the bare checks, at two sizes."""

from __future__ import annotations

import multiprocessing
import os
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from bench.database import with_database
from texel.files import write
from texel.image import Texels, narrow
from texel.library import Library
from texel.normals.from_height import normals_from_height
from texel.roles import Green, Transfer
from texel.sets import TextureSet
from texel.sorting import sort_files

__all__ = ["run", "write_sets"]

_SETS, _MORE = 600, 1800
_SIDE = 128
# Sorting is measured at two sizes, wanted at the second, which people have; of smaller maps naming and looking at them
# take as long as decoding them.
_SORTED = ((150, 512, None), (75, 1024, 1.3))
_SET_SECONDS, _LINEAR = 0.010, 1.25


def run() -> bool:
    """Print sorting as a ratio to decoding what it looks at, and judging as seconds a set beyond the bare checks, on
    as many cores; whether both are as wanted, and judging grows no faster than the number of sets."""
    with tempfile.TemporaryDirectory() as name:
        folder, good = Path(name) / "judged", True
        for sets, side, wanted in _SORTED:
            write_sets(Path(name) / str(side), sets, side)
            good = _sorting(Path(name) / str(side), side, wanted) and good
        write_sets(folder, _MORE, _SIDE)
        return with_database(lambda: _judging(folder)) and good


def write_sets(folder: Path, count: int, side: int) -> None:
    """Sets of four maps with names that must be looked at; every surface is another crop of three noises."""
    folder.mkdir()
    rng = np.random.default_rng(5)
    whole = max(1536, 2 * side)
    big = rng.random((3, whole, whole), np.float32)
    eight = np.dtype(np.uint8)
    for at in range(count):
        x, y = int(rng.integers(0, whole - side)), int(rng.integers(0, whole - side))
        a, b, c = (plane[y : y + side, x : x + side] for plane in big)
        colour = np.stack([a * 0.6 + 0.2, a * 0.5 + 0.2, a * 0.3 + b * 0.1], axis=2)
        normal = (normals_from_height(b, 2.0, Green.UP) + 1) / 2
        maps = {"": colour, "_nm": normal, "_s": b[:, :, None], "_z": c[:, :, None]}
        for word, values in maps.items():
            texels = Texels(narrow(values, eight), "rgb" if values.shape[2] == 3 else "y", Transfer.LINEAR)
            write(texels, folder / f"surface{at:04d}{word}.png")


def _sorting(folder: Path, side: int, wanted: float | None) -> bool:
    library = Library.of_folder(folder)
    ratios = []
    for _ in range(3):
        start = time.perf_counter()
        fresh = Library.of_folder(folder)
        with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
            for _ in pool.map(fresh.texels, fresh.files):
                pass
        decoding = time.perf_counter() - start
        start = time.perf_counter()
        sorted_files = sort_files(Library.of_folder(folder))
        ratios.append((time.perf_counter() - start) / decoding)
    ratio = sorted(ratios)[1]
    good = wanted is None or ratio <= wanted
    verdict = "" if good else f"; wanted at most {wanted}"
    print(
        f"sorting {len(library.files)} files of {side} texels a side into {len(sorted_files.sets)} sets: "
        f"{ratio:.2f} of decoding them{verdict}"
    )
    return good


def _judging(folder: Path) -> bool:
    few, bare = _judged(folder, _SETS)
    more, more_bare = _judged(folder, _MORE)
    beyond = (few - bare) / _SETS
    good = beyond <= _SET_SECONDS
    growth = (more / _MORE) / (few / _SETS)
    linear = growth <= _LINEAR
    print(
        f"judging {_SETS} sets: {few:.1f} s, the checks alone {bare:.1f} s: {beyond * 1e3:.1f} ms a set beyond them"
        f"{'' if good else f'; wanted at most {_SET_SECONDS * 1e3:.0f}'}"
    )
    print(
        f"judging {_MORE} sets: {more:.1f} s (checks {more_bare:.1f} s), {growth:.2f} times as long a set"
        f"{'' if linear else '; wanted: linear'}"
    )
    return good and linear


def _judged(folder: Path, count: int) -> tuple[float, float]:
    """Seconds for a project of ``count`` sets to be judged by its job, and for the checks alone on as many cores."""
    from studio.intake.models import Intake
    from studio.intake.uploads import take_file
    from studio.jobs import child
    from studio.jobs.models import Job
    from studio.jobs.queue import take_up
    from studio.projects.models import Project
    from studio.rules.models import table_of, target_for, wanted_of
    from texel.checks import judge_set
    from texel.delivery import plan_delivery
    from texel.delivery.checks import check_encodings

    project = Project.objects.create(name=f"Many {count}", slug=f"many-{count}")
    intake = Intake.objects.create(project=project, name="many", state=Intake.State.SORTING)
    names = [path.name for path in sorted(folder.iterdir()) if int(path.name[7:11]) < count]
    from django.core.files.base import File

    for name in names:
        with (folder / name).open("rb") as stream:
            take_file(intake, name, File(stream, name=str(folder / name)))
    _do(Job.objects.create(project=project, kind="sort", title="sort", payload={"intake": intake.pk}), child, take_up)
    job = Job.objects.get(project=project, kind="judge")
    start = time.perf_counter()
    _do(job, child, take_up)
    judging = time.perf_counter() - start
    assert not project.sets.exclude(judged=1).exists(), "every set is judged"
    library = Library({name: folder / name for name in names})
    sets = sort_files(library).sets
    wanted = wanted_of(project)
    target, table = target_for(project, project.target), table_of(project)

    def check(some: list[TextureSet]) -> None:
        for one in some:
            mine = Library({ref.file: folder / ref.file for ref in one.maps})
            judge_set(one, mine, wanted)
            check_encodings(plan_delivery([one], mine, target), mine, table)

    # In as many processes as the job's, since two cores at work are slower each than one alone.
    cores = os.cpu_count() or 1
    children = [
        multiprocessing.get_context("fork").Process(target=check, args=(sets[at::cores],)) for at in range(cores)
    ]
    start = time.perf_counter()
    for child_process in children:
        child_process.start()
    for child_process in children:
        child_process.join()
    return judging, time.perf_counter() - start


def _do(job: Any, child: Any, take_up: Any) -> None:
    taken = take_up(job.pk)
    child.run(taken.pk, taken.attempt)
    job.refresh_from_db()
    assert job.state == "done", job.message
