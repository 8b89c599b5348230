"""The child process of a worker: does one job, reports its progress, and ends."""

from __future__ import annotations

import os
import resource
import signal
import sys
import traceback

import django
from django.conf import settings
from django.http import Http404

# The fork server loads this module before any job, so that children start with the application ready.
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
django.setup()

from studio.changes.errors import Conflict  # noqa: E402
from studio.jobs.away import AWAY, EXIT_AWAY  # noqa: E402
from studio.jobs.lifeline import die_with  # noqa: E402
from studio.jobs.models import Job  # noqa: E402
from studio.jobs.progress import LeaseLost, Progress  # noqa: E402
from studio.jobs.queue import finish  # noqa: E402
from studio.jobs.registry import kind_of, load  # noqa: E402
from studio.logs import at_work  # noqa: E402
from texel.errors import TexelError  # noqa: E402
from texel.threads import take_part  # noqa: E402

__all__ = ["run"]

load()


def run(job_id: int, attempt: int, worker: int | None = None) -> None:
    """Do the job; ``worker`` is the process to die with. Ends with 0 when the job's row says how it went."""
    at_work.set(f"job {job_id}")
    if worker is not None:
        die_with(worker)
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        take_part(settings.AT_WORK)
    try:
        if worker is not None:
            _limit(job_id)
        _do(job_id, attempt)
    except AWAY as error:
        if worker is None:
            raise
        # Not the job's fault: it is taken up again.
        print(f"job {job_id}: the database is away: {error}", file=sys.stderr)
        os._exit(EXIT_AWAY)


def _limit(job_id: int) -> None:
    """All cores for all the time that the job may take: what uses more has run away."""
    minutes = kind_of(Job.objects.values_list("kind", flat=True).get(pk=job_id)).minutes
    used = int(minutes * 60) * (os.cpu_count() or 1)
    resource.setrlimit(resource.RLIMIT_CPU, (used, used + 10))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _do(job_id: int, attempt: int) -> None:
    job = Job.objects.select_related("project").get(pk=job_id)
    progress = Progress(job, attempt)
    try:
        message = kind_of(job.kind).run(job, progress)
        finish(job_id, attempt, Job.State.DONE, message or "")
    except LeaseLost:
        # Cancelled, and seen here before the worker saw it; or another attempt holds the job, and has the last word.
        if Job.objects.filter(pk=job_id, cancel_asked=True).exists():
            finish(job_id, attempt, Job.State.CANCELLED)
    except (TexelError, Conflict, Http404) as error:
        finish(job_id, attempt, Job.State.FAILED, str(error))
    except MemoryError:
        finish(job_id, attempt, Job.State.FAILED, "It needs more memory than a job may use.")
    except AWAY:
        raise
    except Exception as error:
        traceback.print_exc(file=sys.stderr)
        # What it says may name folders of this machine; the log has all of it.
        words = f"A fault of the studio's own ({type(error).__name__}); the log of its workers says more."
        finish(job_id, attempt, Job.State.FAILED, words)
