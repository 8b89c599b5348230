"""Forty projects of five thousand sets: how long what people ask for takes in one of them."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Callable
from typing import Any

from bench.database import with_database

__all__ = ["run"]

_SETS, _PROJECTS = int(os.environ.get("FAIR_TEXEL_BENCH_SETS", "5000")), 40
_ROLES = ("base_color", "normal", "roughness", "metallic", "occlusion", "height")
_WORDS = ("deck", "hull", "rope", "sail", "mast", "quay", "reed", "mud", "slate", "brick", "oak", "iron")
# Seconds that each may take; the pages' own first.
_WANTED = {
    "first rows of the list of sets": 1.0, "list filtered by words": 0.3, "list filtered by what was found": 0.3,
    "one set": 0.3, "overview": 1.0, "projects": 3.0, "history": 0.3, "history of one set": 0.3, "search": 0.3,
    "search for a slip of the pen": 0.5, "names of files": 15.0, "budget": 15.0, "table as CSV": 6.0,
    "whole list of sets": 8.0, "text of the project": 8.0, "licence of all sets, undone": 8.0,
    "licence of all sets as a job, undone": 10.0, "new names of all sets as a job, undone": 15.0,
    "a step for all sets as a job, undone": 15.0, "findings of all sets": 8.0,
}  # fmt: skip


def run() -> bool:
    """Print how long each takes, the median of three; whether all are as wanted."""
    return with_database(_measured)


def _furnish() -> tuple[Any, Any]:
    """A person in all projects; the first project is made row by row, the others are copies of it."""
    from django.contrib.auth import get_user_model
    from django.db import connection
    from django.utils import timezone

    from studio.intake.models import Intake, IntakeFile, SourceFile
    from studio.projects.models import HistoryLine, Membership, Project
    from studio.sets.models import Finding, Placement, TextureSet
    from texel import digest

    person = get_user_model().objects.create_user("ada", password="tide-table-9")
    projects = Project.objects.bulk_create(
        Project(slug=f"project-{at:02d}", name=f"Project {at:02d}") for at in range(_PROJECTS)
    )
    Membership.objects.bulk_create(Membership(project=one, user=person, right="manage") for one in projects)
    first = projects[0]
    intake = Intake.objects.create(project=first, name="all", state="sorted", by=person)
    probe = {
        "container": "png", "width": 2048, "height": 2048, "channels": "rgb", "bits": 8, "tagged": None, "lossy": False,
    }  # fmt: skip
    names = [f"{_WORDS[at % 12]}_{_WORDS[at // 12 % 12]}_{at:05d}" for at in range(_SETS)]
    sets = TextureSet.objects.bulk_create(
        (TextureSet(project=first, name=name, judged=1, revision=1, licence="CC0-1.0") for name in names), 1000
    )
    sources = SourceFile.objects.bulk_create(
        (
            SourceFile(digest=digest.of_bytes(f"{name}{role}".encode()), bytes=4_000_000, probe=probe)
            for name in names for role in _ROLES
        ), 2000,
    )  # fmt: skip
    files = IntakeFile.objects.bulk_create(
        (
            IntakeFile(
                intake=intake, path=f"textures/{one.name}_{role}.png", came_as=f"textures/{one.name}_{role}.png",
                source_id=sources[at * len(_ROLES) + number].pk,
            )
            for at, one in enumerate(sets) for number, role in enumerate(_ROLES)
        ), 2000,
    )  # fmt: skip
    Placement.objects.bulk_create(
        (
            Placement(
                project=first, intake=intake, file=files[at * len(_ROLES) + number], set=one, role=role, confidence=1.0,
                why="its name says so",
            )
            for at, one in enumerate(sets) for number, role in enumerate(_ROLES)
        ), 2000,
    )  # fmt: skip
    found = {
        "check": "missing_map", "severity": "warning", "set": "", "role": "normal", "file": None, "measure": None,
        "threshold": None, "message": "There is no map.", "said": None, "remedy": None, "place": None, "marks": None,
        "output": None,
    }  # fmt: skip
    Finding.objects.bulk_create(
        (
            Finding(
                set=one, rank=0, severity="error" if at % 7 == 0 else "warning", document={**found, "set": one.name}
            )
            for at, one in enumerate(sets) if at % 2 == 0
        ), 2000,
    )  # fmt: skip
    HistoryLine.objects.bulk_create(
        (
            HistoryLine(project=first, by=person, what="change", label=f"Rename {one.name}", about=[f"sets:{one.pk}"])
            for one in sets for _ in range(4)
        ), 2000,
    )  # fmt: skip
    # Indexes of parts of names are made once over all rows, which takes a tenth of the time.
    parts = [
        (model, one) for model in (TextureSet, IntakeFile) for one in model._meta.indexes if one.name.endswith("_parts")
    ]
    with connection.schema_editor() as editor:
        for model, one in parts:
            editor.remove_index(model, one)
    with connection.cursor() as cursor:
        for number, other in enumerate(projects[1:], 1):
            _copied(cursor, first.pk, other.pk, intake.pk, number, timezone.now())
    with connection.schema_editor() as editor:
        for model, one in parts:
            editor.add_index(model, one)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")
    return person, first


def _copied(cursor: Any, first: int, other: int, intake: int, number: int, now: Any) -> None:
    """The rows of one project for another one, in a few statements: with the same ids, moved on."""
    on = number * 10_000_000
    cursor.execute(
        "INSERT INTO intake_intake (id, project_id, name, state, habit, revision, created) "
        "VALUES (%s, %s, 'all', 'sorted', '[]', 1, %s)",
        [intake + on, other, now],
    )
    columns = "revision, judged, metres, licence, credit, targets, regions"
    cursor.execute(
        f"INSERT INTO sets_textureset (id, project_id, name, {columns}) SELECT id + {on}, %s, name, {columns} "
        "FROM sets_textureset WHERE project_id = %s",
        [other, first],
    )
    columns = "path, came_as, source_id, problem, revision"
    cursor.execute(
        f"INSERT INTO intake_intakefile (id, intake_id, {columns}) SELECT id + {on}, intake_id + {on}, {columns} "
        "FROM intake_intakefile WHERE intake_id = %s",
        [intake],
    )
    columns = 'role, channel, layer, "order", confidence, why, said, suffix, by_hand, candidates, recipe, revision'
    cursor.execute(
        f"INSERT INTO sets_placement (id, project_id, intake_id, file_id, set_id, {columns}) "
        f"SELECT id + {on}, %s, intake_id + {on}, file_id + {on}, set_id + {on}, {columns} "
        "FROM sets_placement WHERE project_id = %s",
        [other, first],
    )
    cursor.execute(
        f"INSERT INTO sets_finding (id, set_id, rank, severity, document) SELECT id + {on}, set_id + {on}, rank, "
        "severity, document FROM sets_finding WHERE set_id IN (SELECT id FROM sets_textureset WHERE project_id = %s)",
        [first],
    )


def _measured() -> bool:
    from django.test import Client

    from studio.jobs import child
    from studio.jobs.queue import take_up

    began = time.monotonic()
    person, first = _furnish()
    print(f"scale: {_PROJECTS} projects of {_SETS} sets made in {time.monotonic() - began:.0f} s", flush=True)
    client = Client()
    client.force_login(person)
    base = f"/api/projects/{first.slug}"
    one = first.sets.order_by("name")[_SETS // 2]
    ids = list(first.sets.values_list("pk", flat=True))

    def get(path: str) -> Callable[[], Any]:
        return lambda: client.get(path)

    def licence() -> Any:
        body = json.dumps({"sets": ids, "licence": "CC-BY-4.0", "credit": "Ada"})
        client.put(f"{base}/sets/licence", body, "application/json")
        return client.post(f"{base}/undo")

    def as_job(method: str, path: str, body: dict[str, Any]) -> Callable[[], Any]:
        """Ask for it, do what a worker's child does, and take it back."""

        def run() -> Any:
            answer = client.generic(method, f"{base}{path}?later=true", json.dumps(body), "application/json")
            taken = take_up(answer.json()["job"])
            assert taken is not None
            child.run(taken.pk, taken.attempt)
            return client.post(f"{base}/undo")

        return run

    names = {str(pk): f"set {pk}" for pk in ids}
    step = {"sets": ids, "role": "roughness", "recipe": [{"step": "invert"}]}
    asked: dict[str, Callable[[], Any]] = {
        "first rows of the list of sets": get(f"{base}/sets?first=60"),
        "list filtered by words": get(f"{base}/sets?first=60&words=oak+iron"),
        "list filtered by what was found": get(f"{base}/sets?first=60&severity=error"),
        "one set": get(f"{base}/sets/{one.pk}"),
        "overview": get(f"{base}/overview"),
        "projects": get("/api/projects"),
        "history": get(f"{base}/history"),
        "history of one set": get(f"{base}/history?about=sets:{one.pk}"),
        "search": get("/api/search?words=slate+iron"),
        "search for a slip of the pen": get("/api/search?words=slaet"),
        "names of files": get(f"{base}/names"),
        "budget": get(f"{base}/budget?target=orm-y-minus"),
        "table as CSV": get(f"{base}/sets/table?format=csv"),
        "whole list of sets": get(f"{base}/sets"),
        "text of the project": get(f"{base}/text"),
        "licence of all sets, undone": licence,
        "licence of all sets as a job, undone": as_job("PUT", "/sets/licence", {"sets": ids, "licence": "CC-BY-4.0"}),
        "new names of all sets as a job, undone": as_job("PUT", "/sets/names", {"names": names}),
        "a step for all sets as a job, undone": as_job("POST", "/sets/steps", step),
        "findings of all sets": get(f"{base}/sets/findings"),
    }
    good = True
    for name, ask in asked.items():
        took = []
        for _ in range(3):
            began = time.monotonic()
            answer = ask()
            size = len(b"".join(answer.streaming_content) if answer.streaming else answer.content)
            took.append(time.monotonic() - began)
        seconds = sorted(took)[1]
        fine = answer.status_code == 200 and seconds <= _WANTED[name]
        good = good and fine
        told = "" if answer.status_code == 200 else f", answered {answer.status_code}"
        print(
            f"scale: {name:<34} {seconds:7.3f} s (at most {_WANTED[name]:.1f}), {size / 1e6:6.2f} MB{told}"
            f"{'' if fine else '  <--'}",
            flush=True,
        )
    return good
