"""The one task that workers run: a job, in a child process that dies with its worker."""

from __future__ import annotations

import logging
import multiprocessing
import os
import time

from django.db import close_old_connections
from procrastinate.contrib.django import app

from studio.jobs.models import Job
from studio.jobs.queue import finish, take_up

__all__ = ["run_job"]

_POLL_SECONDS = 0.25
_log = logging.getLogger(__name__)


def _server():
    """A fork server with the application loaded: a child is ready in milliseconds, and has no threads of ours."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["studio.jobs.child"])
    return context


@app.task(name="run_job")
def run_job(job_id: int) -> None:
    """Run one attempt and watch over it.

    Decoding holds the interpreter for seconds; in this process it would stop the heartbeat, and the job would be taken
    for dead. So the work runs in a child, which ends when this process does.
    """
    from studio.jobs import child

    job = take_up(job_id)
    if job is None:
        return
    process = _server().Process(target=child.run, args=(job.pk, job.attempt, os.getpid()))
    # Not a daemon: those may have no children of their own, and judging shares its work out. It watches this process.
    process.start()
    try:
        while process.is_alive():
            process.join(_POLL_SECONDS)
            if process.is_alive() and _cancelled(job.pk):
                process.kill()
                process.join()
                finish(job.pk, job.attempt, Job.State.CANCELLED)
                return
    finally:
        if process.is_alive():
            process.kill()
    if process.exitcode != 0:
        # Killed from outside (out of memory, say): the row still says running.
        reason = f"its process ended unexpectedly (code {process.exitcode})"
        finish(job.pk, job.attempt, Job.State.FAILED, reason)
        _log.error("job %s: %s", job.pk, reason)


def _cancelled(job_id: int) -> bool:
    close_old_connections()
    for _ in range(3):
        try:
            return Job.objects.filter(pk=job_id, cancel_asked=True).exists()
        except Exception:
            _log.warning("asking whether job %s is cancelled failed", job_id, exc_info=True)
            time.sleep(0.5)
    return False
