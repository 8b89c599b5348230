"""Take up again what died with its worker."""

from __future__ import annotations

import json
import logging

from asgiref.sync import async_to_sync
from django.db import transaction
from procrastinate.contrib.django import app

from studio.jobs.models import Job
from studio.jobs.queue import queue_up

__all__ = ["HEARTBEAT_SECONDS", "STALLED_SECONDS", "jobs_without_place", "place_again", "rescue_stalled"]

HEARTBEAT_SECONDS = 2.0
# Five missed heartbeats: the worker is gone, not merely busy.
STALLED_SECONDS = 10.0
_log = logging.getLogger(__name__)
# A job that has just been asked for, or whose worker has just ended it, is not lost.
_LOST_SECONDS = 20.0


def rescue_stalled(seconds: float = STALLED_SECONDS) -> int:
    """Queue again every job whose worker has been silent for ``seconds``. Returns how many."""
    return async_to_sync(_rescue)(seconds)


async def _rescue(seconds: float) -> int:
    manager = app.job_manager
    count = 0
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=seconds):
        await manager.retry_job(job)
        # As text, since the framework reads the column as it is.
        given = job.task_kwargs if isinstance(job.task_kwargs, dict) else json.loads(job.task_kwargs)
        what = f"job {given['job_id']}" if "job_id" in given else job.task_name
        _log.warning("%s is taken up again: its worker died", what)
        count += 1
    await manager.prune_stalled_workers(seconds_since_heartbeat=seconds * 6)
    return count


def jobs_without_place(seconds: float = _LOST_SECONDS) -> list[int]:
    """Jobs that wait or run by their row, for longer than ``seconds``, while the queue knows nothing of them: the
    database went away between the two."""
    rows = Job.objects.raw(
        "SELECT id FROM jobs_job j WHERE state IN ('waiting', 'running') "
        "AND greatest(created, coalesce(started, created)) < now() - make_interval(secs => %s) AND NOT EXISTS "
        "(SELECT 1 FROM procrastinate_jobs p WHERE (p.args ->> 'job_id')::bigint = j.id "
        "AND p.status IN ('todo', 'doing')) ORDER BY id",
        [seconds],
    )
    return [row.pk for row in rows]


def place_again(seconds: float = _LOST_SECONDS) -> int:
    """Give jobs that lost their place in the queue a new one. Returns how many.

    A job whose attempt ended without a word is taken up again like one whose worker died, three times at most.
    """
    count = 0
    for pk in jobs_without_place(seconds):
        with transaction.atomic():
            job = Job.objects.select_for_update(skip_locked=True).filter(pk=pk).exclude(state__in=Job.ENDED).first()
            if job is not None:
                queue_up(job)
                count += 1
                _log.warning("job %s had no place in the queue; it has one again", pk)
    return count
