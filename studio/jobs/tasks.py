"""The one task that workers run: a job, in a child process that dies with its worker."""

from __future__ import annotations

import logging
import multiprocessing
import os
import signal
import time
from multiprocessing.process import BaseProcess
from typing import Any

from django.conf import settings
from django.db import close_old_connections
from procrastinate.contrib.django import app

from studio.jobs.away import AWAY, EXIT_AWAY
from studio.jobs.models import Job
from studio.jobs.queue import finish, give_back, take_up
from studio.jobs.registry import kind_of
from studio.jobs.watching import memory_of_tree

__all__ = ["run_job"]

_POLL_SECONDS = 0.25
_LOOK_SECONDS = 1.0
_PATIENCE = 120.0
_ENDED_BY = {-signal.SIGXCPU: "It used more of the processor than such a job may use."}
_log = logging.getLogger(__name__)


def _server() -> Any:
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
    job = take_up(job_id)
    if job is None:
        return
    process = _server().Process(target=_run, args=(job.pk, job.attempt, os.getpid()))
    # Not a daemon: those may have no children of their own, and judging shares its work out. It watches this process.
    process.start()
    try:
        why = _watched(process, job)
    finally:
        if process.is_alive():
            process.kill()
    if why is not None:
        finish(job.pk, job.attempt, *why)
    elif process.exitcode == EXIT_AWAY:
        _give_back(job)
    elif process.exitcode != 0:
        # Killed from outside, say: the row still says running.
        words = _ENDED_BY.get(process.exitcode or 0, f"its process ended unexpectedly (code {process.exitcode})")
        finish(job.pk, job.attempt, Job.State.FAILED, words)
        _log.error("job %s: %s", job.pk, words)


def _run(job_id: int, attempt: int, worker: int) -> None:
    """In the child, which the fork server has prepared."""
    from studio.jobs import child

    child.run(job_id, attempt, worker)


def _watched(process: BaseProcess, job: Job) -> tuple[str, str] | None:
    """Wait for a child; why it was ended, as state and message, or None when it ended by itself."""
    minutes = kind_of(job.kind).minutes
    until, look_at = time.monotonic() + minutes * 60, 0.0
    while process.is_alive():
        process.join(_POLL_SECONDS)
        if not process.is_alive():
            break
        why: tuple[str, str] | None = None
        if _cancelled(job.pk):
            why = Job.State.CANCELLED, ""
        elif time.monotonic() > until:
            why = Job.State.FAILED, f"It took longer than the {minutes:g} minutes that such a job may take."
        elif time.monotonic() > look_at:
            look_at = time.monotonic() + _LOOK_SECONDS
            if memory_of_tree(process.pid or 0) > settings.JOB_BYTES:
                why = Job.State.FAILED, f"It used more than the {settings.JOB_BYTES >> 20} MB that a job may use."
        if why is not None:
            process.kill()
            process.join()
            return why
    return None


def _give_back(job: Job) -> None:
    """Queue a job again when the database is back; if that takes too long, whoever looks for lost jobs does it."""
    until = time.monotonic() + _PATIENCE
    while True:
        close_old_connections()
        try:
            return give_back(job.pk, job.attempt)
        except AWAY:
            if time.monotonic() > until:
                raise
            time.sleep(1.0)


def _cancelled(job_id: int) -> bool:
    close_old_connections()
    for _ in range(3):
        try:
            return Job.objects.filter(pk=job_id, cancel_asked=True).exists()
        except Exception:
            _log.warning("asking whether job %s is cancelled failed", job_id, exc_info=True)
            time.sleep(0.5)
    return False
