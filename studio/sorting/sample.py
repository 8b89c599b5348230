"""A folder to try the tool on: the untidy intake of the demo, for a project that has nothing yet."""

from __future__ import annotations

import tempfile
from pathlib import Path

from demo.intake import write_project_folder
from studio.intake.models import Intake
from studio.intake.uploads import take_folder
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.registry import job as job_kind
from studio.sorting.intakes import failed_intake, sort_intake

__all__ = ["SAMPLE", "take_in_sample"]

SAMPLE = "saltmarsh_ferry"


@job_kind("sample", minutes=60, on_loss=failed_intake)
def take_in_sample(job: Job, progress: Progress) -> str:
    """The job "sample": draw the folder, take it in as an upload would be, sort it. Taken up again, it goes on."""
    intake = Intake.objects.get(pk=job.payload["intake"])
    progress.report(0, 0, "drawing the folder")
    with tempfile.TemporaryDirectory() as folder:
        write_project_folder(SAMPLE, Path(folder))
        take_folder(intake, Path(folder))
    return sort_intake(job, progress)
