"""The child process of a worker: does one job, reports its progress, and ends."""

from __future__ import annotations

import os
import signal
import sys
import traceback

import django
from django.conf import settings

# The fork server loads this module before any job, so that children start with the application ready.
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
django.setup()

from studio.deliveries.advice import advise_project  # noqa: E402
from studio.deliveries.build import build_delivery  # noqa: E402
from studio.intake.sample import take_in_sample  # noqa: E402
from studio.intake.sorting import sort_again, sort_intake  # noqa: E402
from studio.jobs.lifeline import die_with  # noqa: E402
from studio.jobs.models import Job  # noqa: E402
from studio.jobs.progress import Lost, Progress  # noqa: E402
from studio.jobs.queue import finish  # noqa: E402
from studio.materials.exports import export_casts  # noqa: E402
from studio.sets.judging import judge_sets  # noqa: E402
from studio.sets.trials import try_formats  # noqa: E402
from texel.errors import TexelError  # noqa: E402
from texel.threads import take_part  # noqa: E402

__all__ = ["run"]

_KINDS = {
    "sample": take_in_sample, "sort": sort_intake, "resort": sort_again, "judge": judge_sets, "deliver": build_delivery,
    "advise": advise_project, "try": try_formats, "export": export_casts,
}  # fmt: skip


def run(job_id: int, attempt: int, worker: int | None = None) -> None:
    """Do the job; ``worker`` is the process to die with. Ends with 0 when the job's row says how it went."""
    if worker is not None:
        die_with(worker)
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        take_part(settings.AT_WORK)
    job = Job.objects.select_related("project").get(pk=job_id)
    progress = Progress(job, attempt)
    try:
        message = _KINDS[job.kind](job, progress)
        finish(job_id, attempt, Job.State.DONE, message or "")
    except Lost:
        # Cancelled, and seen here before the worker saw it; or another attempt holds the job, and has the last word.
        if Job.objects.filter(pk=job_id, cancel_asked=True).exists():
            finish(job_id, attempt, Job.State.CANCELLED)
    except TexelError as error:
        finish(job_id, attempt, Job.State.FAILED, str(error))
    except Exception as error:
        traceback.print_exc(file=sys.stderr)
        finish(job_id, attempt, Job.State.FAILED, f"{type(error).__name__}: {error}")
