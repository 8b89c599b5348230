"""Changes to many sets as one job: the same functions as for a few, with progress, and one change to be undone."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from studio.changes.engine import must_be_as_seen, telling
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.projects.models import Project
from studio.sets import editing
from studio.sets.naming import rename_files
from texel.errors import BadDocument

__all__ = ["CHANGES", "ask_to_change_many"]


@dataclass(frozen=True)
class ManyChange:
    """title: of its job, with the number of what is changed. rows: what is changed, of what was asked for."""

    title: str
    run: Callable[[Project, Mapping[str, Any], Any], None]
    rows: str = "sets"


def _seen(given: Mapping[str, Any]) -> dict[int, int]:
    return {int(pk): revision for pk, revision in given["seen"].items()}


def _licence(project: Project, given: Mapping[str, Any], by: Any) -> None:
    editing.set_licence(project, given["sets"], given["licence"], given["credit"], by, _seen(given))


def _targets(project: Project, given: Mapping[str, Any], by: Any) -> None:
    editing.set_targets(project, given["sets"], given["targets"], by, _seen(given))


def _names(project: Project, given: Mapping[str, Any], by: Any) -> None:
    editing.rename_many(project, {int(pk): name for pk, name in given["names"].items()}, by, _seen(given))


def _steps(project: Project, given: Mapping[str, Any], by: Any) -> None:
    editing.add_steps(project, given["sets"], given["role"], given["recipe"], by, _seen(given))


def _copied(project: Project, given: Mapping[str, Any], by: Any) -> None:
    editing.copy_recipe(project, given["map"], given["sets"], by, given["seen"])


def _files(project: Project, given: Mapping[str, Any], by: Any) -> None:
    saw = {one["file"]: one["seen"] for one in given["changes"] if one["seen"] is not None}
    rename_files(project, {one["file"]: one["path"] for one in given["changes"]}, by, saw)


CHANGES: Mapping[str, ManyChange] = {
    "licence": ManyChange("Licence of {count} sets", _licence),
    "targets": ManyChange("Targets of {count} sets", _targets),
    "names": ManyChange("Rename {count} sets", _names, "names"),
    "steps": ManyChange("Steps for {count} sets", _steps),
    "copied steps": ManyChange("Copy steps to {count} sets", _copied),
    "file names": ManyChange("Rename {count} files", _files, "changes"),
}


def ask_to_change_many(project: Project, what: str, given: Mapping[str, Any], by: Any) -> Job:
    """Queue a change to many sets or files. given: what the function for a few takes, as JSON.

    Raises BadDocument, and Stale for a set that has changed already since it was seen.
    """
    wanted = CHANGES[what]
    rows: Sequence[object] = given[wanted.rows]
    if not rows:
        raise BadDocument("choose at least one {what}", what="file" if wanted.rows == "changes" else "set")
    # Of a single map whose steps are copied it is one revision, and renamed files tell their former paths.
    if isinstance(given.get("seen"), Mapping):
        seen = _seen(given)
        for row in project.sets.filter(pk__in=seen):
            must_be_as_seen(row, seen[row.pk])
    return enqueue(project, "many", wanted.title.format(count=len(rows)), by, what=what, given=given, count=len(rows))


@job_kind("many", minutes=60, priority=20)
def change_many(job: Job, progress: Progress) -> str:
    """The job: all or nothing. That it is done is kept with the change, so that another attempt does not make it
    twice."""
    what, count = job.payload["what"], job.payload["count"]
    if "given" in job.payload:
        with transaction.atomic():
            with progress.beside(count) as told, telling(told):
                CHANGES[what].run(job.project, job.payload["given"], job.by)
            progress.hold_lease()
            Job.objects.filter(pk=job.pk).update(payload={"what": what, "count": count}, done=count, total=count)
    return f"{count} {'files' if CHANGES[what].rows == 'changes' else 'sets'} changed"
