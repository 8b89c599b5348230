"""The child process of a worker: does one job, reports its progress, and ends."""

from __future__ import annotations

import ctypes
import os
import signal
import sys
import traceback

import django

# The fork server loads this module before any job, so that children start with the application ready.
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
django.setup()

from studio.deliveries.build import build_delivery  # noqa: E402
from studio.intake.sorting import sort_intake  # noqa: E402
from studio.jobs.models import Job  # noqa: E402
from studio.jobs.progress import Lost, Progress  # noqa: E402
from studio.jobs.queue import finish  # noqa: E402
from studio.sets.judging import judge_sets  # noqa: E402
from texel.errors import TexelError  # noqa: E402

__all__ = ["run"]

_PR_SET_PDEATHSIG = 1
_KINDS = {"sort": sort_intake, "judge": judge_sets, "deliver": build_delivery}


def _die_with_parent() -> None:
    ctypes.CDLL("libc.so.6", use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)


def run(job_id: int, attempt: int) -> None:
    """Do the job. Ends the process with 0 when the job's row says how it went."""
    _die_with_parent()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    job = Job.objects.select_related("project").get(pk=job_id)
    progress = Progress(job, attempt)
    try:
        message = _KINDS[job.kind](job, progress)
        finish(job_id, attempt, Job.State.DONE, message or "")
    except Lost:
        pass
    except TexelError as error:
        finish(job_id, attempt, Job.State.FAILED, str(error))
    except Exception as error:
        traceback.print_exc(file=sys.stderr)
        finish(job_id, attempt, Job.State.FAILED, f"{type(error).__name__}: {error}")
