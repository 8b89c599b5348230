"""A library of 200 masters and 5000 casts in one project: list, search and impact report, each to answer in 500 ms."""

from __future__ import annotations

import copy
import time
from collections.abc import Callable
from typing import Any

from bench.database import with_database
from demo.materials import MASTERS

__all__ = ["run"]

_MASTERS, _CASTS = 200, 5000
_SECONDS = 0.5


def run() -> bool:
    """Print how long each answer takes in a database of its own, first and again; whether all are quick enough."""
    return with_database(_measure)


def _measure() -> bool:
    client = _filled()
    base = "/api/projects/large/materials"

    def get(path: str) -> Callable[[], Any]:
        return lambda: client.get(path)

    def impact() -> Any:
        return client.post(f"{base}/masters/master-7/impact", {"number": "1.0.1"}, content_type="application/json")

    asked = {
        "the library's list": get("/api/masters"), "a search in it": get("/api/masters?search=13"),
        "a project's masters and casts": get(base), "an impact report": impact,
    }  # fmt: skip
    good = True
    for name, ask in asked.items():
        times = []
        for _ in range(4):
            start = time.perf_counter()
            answer = ask()
            times.append(time.perf_counter() - start)
            assert answer.status_code == 200, answer.content[:300]
        quick = min(times[1:]) <= _SECONDS
        good &= quick
        verdict = "" if quick else f"; slower than {_SECONDS * 1e3:.0f} ms"
        print(f"{name}: {times[0] * 1e3:.0f} ms first, {min(times[1:]) * 1e3:.0f} ms again{verdict}", flush=True)
    return good


def _filled() -> Any:
    """A client of a person in a project that uses every master, with casts that change something or derive."""
    from django.contrib.auth import get_user_model
    from django.test import Client

    from studio.materials.models import Adoption, Cast, Master, MasterVersion
    from studio.projects.models import Membership, Project

    person = get_user_model().objects.create_user("bench", password="x")
    project = Project.objects.create(name="Large", slug="large")
    Membership.objects.create(project=project, user=person, right="rules")
    masters = []
    for at in range(_MASTERS):
        document = copy.deepcopy(MASTERS[at % len(MASTERS)]) | {"name": f"master-{at}", "title": f"Master {at}"}
        master = Master.objects.create(name=f"master-{at}", title=f"Master {at}", by=person)
        number = {"major": 1, "minor": 0, "patch": 0}
        version = MasterVersion.objects.create(master=master, document=document, by=person, **number)
        MasterVersion.objects.create(master=master, document=document, by=person, **(number | {"patch": 1}))
        Adoption.objects.create(project=project, master=master, version=version)
        masters.append((master, document))
    rows = []
    for at in range(_CASTS):
        master, document = masters[at % _MASTERS]
        tiling = {"tiling": [1 + at % 5, 2]}
        changes = tiling if any(one["name"] == "tiling" for one in document.get("parameters", [])) else {}
        rows.append(Cast(project=project, master=master, name=f"Cast {at}", changes=changes, by=person))
    Cast.objects.bulk_create(rows)
    client = Client()
    client.force_login(person)
    return client
