"""Thirty people at once on what people usually do: looking at lists, sets and pictures, and changing things."""

from __future__ import annotations

import copy
import random
import threading
import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from bench.intake import write_sets
from bench.torture.studio import Refused, Studio, manage

__all__ = ["run"]

_PEOPLE, _SECONDS, _SETS = 30, 60.0, 60
# A person looks at an answer before asking for more.
_LOOKS_SECONDS = 0.5
# What a request of anybody may take, at the 95th percentile, with so many on a machine of two cores.
_WANTED_SECONDS = 2.0


class _Person(threading.Thread):
    """Works without end, a request at a time. took: seconds by what was asked; failed: what was not answered."""

    def __init__(self, studio: Studio, token: str, base: str, own: dict, sets: list[dict], seed: int):
        super().__init__(daemon=True)
        self.studio = copy.copy(studio)
        self.studio.token = token
        self.base, self.own, self.sets = base, own, sets
        self.chance = random.Random(seed)
        self.took: dict[str, list[float]] = defaultdict(list)
        self.failed: list[str] = []
        self.going = True

    def run(self) -> None:
        while self.going:
            for what, ask in self._day():
                if not self.going:
                    return
                began = time.monotonic()
                try:
                    ask()
                except Refused as error:
                    self.failed.append(f"{what}: {error}")
                self.took[what].append(time.monotonic() - began)
                time.sleep(_LOOKS_SECONDS * self.chance.random())

    def _day(self) -> Iterator[tuple[str, Callable[[], object]]]:
        """One round of what people do; each changes a set of their own, as teams share work out."""
        one = self.chance.choice(self.sets)
        studio, base, own = self.studio, self.base, self.own
        metres = round(self.chance.uniform(0.5, 4), 2)
        yield "list of sets", lambda: studio("GET", f"{base}/sets")
        yield "one set", lambda: studio("GET", f"{base}/sets/{one['id']}")
        yield "picture", lambda: studio.ask("GET", f"{base}/maps/{one['maps'][0]['id']}/picture?side=512")
        yield "values", lambda: studio("GET", f"{base}/maps/{one['maps'][0]['id']}/histogram")
        yield "change of a set", lambda: studio("PUT", f"{base}/sets/{own['id']}/metres", {"metres": metres})
        yield "comment", lambda: studio("POST", f"{base}/comments", {"text": f"{metres} m", "set": own["id"]})
        yield "overview", lambda: studio("GET", f"{base}/overview")
        yield "search", lambda: studio("GET", f"/search?words={own['name'][:9]}")
        yield "history", lambda: studio("GET", f"{base}/history?about=sets:{own['id']}")
        yield "jobs", lambda: studio("GET", f"{base}/jobs")
        yield "undo", lambda: studio("POST", f"{base}/undo")


def run(studio: Studio, folder: Path) -> bool:
    """Print throughput, median and 95th percentile of all and of each; whether they are as wanted and none failed."""
    slug = studio("POST", "/projects", {"name": "Thirty"})["slug"]
    base = f"/projects/{slug}"
    write_sets(folder, _SETS, 256)
    intake = studio("POST", f"{base}/intakes", {"name": "all"})["id"]
    for path in sorted(folder.iterdir()):
        studio.upload(f"{base}/intakes/{intake}/files", path.name, path.read_bytes())
    studio("POST", f"{base}/intakes/{intake}/sort")
    studio.wait_for(
        lambda: (s := studio("GET", f"{base}/sets")["sets"]) and all(one["judged"] for one in s), "judging", 600
    )
    sets = studio("GET", f"{base}/sets")["sets"]
    script = (
        "from django.contrib.auth.models import User; from studio.people.models import AccessToken;"
        "from studio.projects.models import Membership, Project;"
        f"p = Project.objects.get(slug='{slug}')\n"
        f"for at in range({_PEOPLE}):\n"
        "    user = User.objects.create_user(f'person{at}')\n"
        "    Membership.objects.create(project=p, user=user, right='prepare')\n"
        "    print('token', AccessToken.make(user, 'bench'))"
    )
    told = manage(studio.env, "shell", "-v", "0", "-c", script)
    tokens = [line.split()[1] for line in told.splitlines() if line.startswith("token ")]
    people = [_Person(studio, token, base, sets[at], sets, at) for at, token in enumerate(tokens)]
    began = time.monotonic()
    for one in people:
        one.start()
    time.sleep(_SECONDS)
    for one in people:
        one.going = False
    for one in people:
        one.join()
    lasted = time.monotonic() - began
    by_what: dict[str, list[float]] = defaultdict(list)
    for one in people:
        for what, took in one.took.items():
            by_what[what] += took
    every = np.array([seconds for took in by_what.values() for seconds in took])
    failed = [words for one in people for words in one.failed]
    slow = float(np.percentile(every, 95))
    print(
        f"people: {len(people)} at once, {len(every) / lasted:.0f} requests a second, median "
        f"{np.median(every) * 1000:.0f} ms, 95th percentile {slow * 1000:.0f} ms (at most "
        f"{_WANTED_SECONDS * 1000:.0f}), {len(failed)} failed"
    )
    for what, took in by_what.items():
        part = np.array(took) * 1000
        middle, slowest = np.median(part), np.percentile(part, 95)
        print(f"people:   {what:<16} {len(part):5d}, median {middle:5.0f} ms, 95th {slowest:5.0f}")
    for words in failed[:5]:
        print(f"people: failed: {words}")
    return slow < _WANTED_SECONDS and not failed
