"""Enqueue, cancel and take up long work. A job's row and its place in the queue are made in one transaction."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.db.models import F
from django.utils import timezone
from procrastinate.contrib.django import app

from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.registry import kind_of
from studio.projects.models import Project

__all__ = ["MAX_ATTEMPTS", "cancel", "enqueue", "finish", "give_back", "queue_up", "take_up", "when_ended"]

# A job that took its worker down three times would do so for ever.
MAX_ATTEMPTS = 3
_log = logging.getLogger(__name__)
_ended: list[Callable[[Job], None]] = []


def when_ended(hook: Callable[[Job], None]) -> Callable[[Job], None]:
    """Call a function with every job that ends, however it ends."""
    if hook not in _ended:
        _ended.append(hook)
    return hook


def enqueue(project: Project, kind: str, title: str, by: Any = None, **payload: object) -> Job:
    """A new job, queued when the surrounding transaction commits."""
    with transaction.atomic():
        job = Job.objects.create(project=project, kind=kind, title=title[:200], by=by, payload=payload)
        queue_up(job)
        announce(project.pk, "job", id=job.pk)
    return job


def queue_up(job: Job) -> None:
    """Give a job a place in the queue."""
    app.configure_task("run_job", priority=kind_of(job.kind).priority).defer(job_id=job.pk)


def give_back(job_id: int, attempt: int) -> None:
    """Queue a job again whose attempt ended because the database was away; that attempt does not count."""
    with transaction.atomic():
        rows = Job.objects.filter(pk=job_id, attempt=attempt, state=Job.State.RUNNING)
        if rows.update(state=Job.State.WAITING, excused=F("excused") + 1):
            job = Job.objects.get(pk=job_id)
            queue_up(job)
            announce(job.project_id, "job", id=job_id)


def take_up(job_id: int) -> Job | None:
    """Begin an attempt: the job as now running, or None when there is nothing (more) to do."""
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(pk=job_id).first()
        if job is None or job.state in Job.ENDED:
            return None
        if job.cancel_asked:
            finish(job.pk, None, Job.State.CANCELLED)
            return None
        if job.attempt - job.excused >= MAX_ATTEMPTS:
            finish(job.pk, None, Job.State.FAILED, "given up: its worker died each time")
            return None
        job.attempt += 1
        job.state, job.done, job.started = Job.State.RUNNING, 0, timezone.now()
        job.save()
        announce(job.project_id, "job", id=job.pk)
        return job


def finish(job_id: int, attempt: int | None, state: str, message: str = "") -> bool:
    """End a job; with ``attempt`` only while that attempt still holds it. Returns whether it did."""
    rows = Job.objects.filter(pk=job_id).exclude(state__in=Job.ENDED)
    if attempt is not None:
        rows = rows.filter(attempt=attempt)
    changed = rows.update(state=state, message=message[:500], finished=timezone.now())
    if changed:
        job = Job.objects.get(pk=job_id)
        announce(job.project_id, "job", id=job_id)
        for hook in _ended:
            try:
                with transaction.atomic():
                    hook(job)
            except Exception:
                # Whoever wants to know of it does not keep a job from ending.
                _log.exception("job %s: telling that it ended failed", job_id)
        if state in (Job.State.FAILED, Job.State.CANCELLED):
            on_loss = kind_of(job.kind).on_loss
            if on_loss is not None:
                on_loss(job)
    return bool(changed)


def cancel(job: Job) -> None:
    """Ask a job to stop. One that waits ends at once; a running one within a second."""
    with transaction.atomic():
        Job.objects.filter(pk=job.pk).update(cancel_asked=True)
        if Job.objects.filter(pk=job.pk, state=Job.State.WAITING).exists():
            finish(job.pk, None, Job.State.CANCELLED)
        announce(job.project_id, "job", id=job.pk)
