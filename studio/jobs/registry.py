"""The kinds of jobs: each registers itself where it is written, and is queued by its name.

@job("judge", minutes=60, priority=0)
def judge_sets(job: Job, progress: Progress) -> str: ...
"""

from __future__ import annotations

import importlib
from collections.abc import Callable
from dataclasses import dataclass

from django.conf import settings

from studio.jobs.models import Job
from studio.jobs.progress import Progress

__all__ = ["Kind", "job", "kind_of", "load"]

Run = Callable[[Job, Progress], str]
OnLoss = Callable[[Job], None]


@dataclass(frozen=True)
class Kind:
    """minutes: that one attempt may take. priority: higher ones come first; judging yields to what a person waits for.

    on_loss: leaves nothing half done behind a job that did not come to its end.
    """

    name: str
    run: Run
    minutes: float
    priority: int
    on_loss: OnLoss | None


_kinds: dict[str, Kind] = {}


def job(name: str, *, minutes: float, priority: int = 10, on_loss: OnLoss | None = None) -> Callable[[Run], Run]:
    """Register a function as a kind of job; what it returns is shown as the job's message."""

    def register(run: Run) -> Run:
        _kinds[name] = Kind(name, run, minutes, priority, on_loss)
        return run

    return register


def load() -> None:
    """Know every kind that there is."""
    for module in settings.JOB_MODULES:
        importlib.import_module(module)


def kind_of(name: str) -> Kind:
    """Raises KeyError for a kind that there is not."""
    if name not in _kinds:
        load()
    return _kinds[name]
