"""Advice on what a project would deliver for a target: measured in a worker, kept by what went in."""

from __future__ import annotations

import json
from typing import Any, cast

from studio import store
from studio.deliveries.build import plan_for, rows_of
from studio.deliveries.facts import AdviceOut, BudgetOut, MemoryOut
from studio.deliveries.measured import advice_key, formats_digest
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.projects.models import Project
from studio.rules.models import table_of, target_for
from texel.delivery import Plan, PlannedFile
from texel.delivery.advice import advise_files
from texel.delivery.budget import budget_document, shrink_until
from texel.threads import may_use

__all__ = ["advise_project", "ask_to_advise", "budget_of", "memory_of"]

_MIB = 1024 * 1024


def ask_to_advise(project: Project, target: str, by: Any) -> Job:
    """Queue a job that measures formats for every file of a target. Raises BadDocument."""
    title = target_for(project, target).title
    return enqueue(project, "advise", f"Measure formats for {title}", by, target=target)


def _maps(plan: Plan) -> list[PlannedFile]:
    return [planned for planned in plan.files if planned.kind == "map"]


@job_kind("advise", minutes=240)
def advise_project(job: Job, progress: Progress) -> str:
    """The job "advise". Files that were measured before are passed over, so that it can be cancelled and goes on."""
    project = job.project
    table, formats = table_of(project), formats_digest(project)
    with store.local_copies() as copies:
        plan, library = plan_for(project, rows_of(project, None), target_for(project, job.payload["target"]), copies)
        maps = _maps(plan)
        new = [planned for planned in maps if store.read_bytes("advice", advice_key(planned, formats)) is None]
        known = len(maps) - len(new)
        progress.report(known, len(maps))
        measured = advise_files(new, library, table, may_use())
        for number, (planned, document) in enumerate(measured, known + 1):
            store.save_bytes("advice", advice_key(planned, formats), json.dumps(document).encode())
            announce(project.pk, "budget")
            progress.report(number, len(maps), planned.path)
    return f"{len(maps)} files"


def budget_of(project: Project, target_name: str) -> BudgetOut:
    """Memory and density of what a target makes of the project, the advice measured so far, and what to shrink first.

    Raises TexelError.
    """
    target = target_for(project, target_name)
    rows = rows_of(project, None)
    with store.local_copies() as copies:
        plan, _ = plan_for(project, rows, target, copies)
    formats = formats_digest(project)
    document = budget_document(plan, {row.name: row.metres for row in rows if row.metres})
    ids = {row.name: row.pk for row in rows}
    advice: dict[str, AdviceOut] = {}
    for planned in _maps(plan):
        data = store.read_bytes("advice", advice_key(planned, formats))
        if data is not None:
            advice[planned.path] = json.loads(data)
    for one in document["sets"]:
        one["id"] = ids[one["name"]]
        for file in one["files"]:
            file["advice"] = advice.get(file["path"])
    errors = {path: advised["halving"] for path, advised in advice.items()}
    files = [file for one in document["sets"] for file in one["files"]]
    limit = target.budget.memory_mib
    steps, left = shrink_until(files, errors, int(limit * _MIB)) if limit is not None else ([], document["memory"])
    told = {
        "measured": len(advice), "files": len(files), "shrink": [vars(step) for step in steps], "shrunk": left,
        "problems": list(plan.problems),
    }  # fmt: skip
    return cast(BudgetOut, document | told)


def memory_of(project: Project, target_name: str) -> MemoryOut:
    """What all sets of a project take for a target, beside that target's budget. Raises TexelError."""
    target = target_for(project, target_name)
    with store.local_copies() as copies:
        plan, _ = plan_for(project, rows_of(project, None), target, copies)
    return {
        "slug": project.slug, "project": project.name, "target": target.name, "title": target.title,
        "memory": sum(planned.memory for planned in _maps(plan)), "memory_mib": target.budget.memory_mib,
        "problems": list(plan.problems),
    }  # fmt: skip
