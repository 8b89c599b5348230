"""Pictures that a job made, as an intake of their own: kept like files that came from outside."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable
from pathlib import Path

from django.core.files.base import File
from django.db import transaction

from studio.intake.models import Intake
from studio.intake.uploads import UploadRejected, take_file
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.projects.models import Project
from texel.errors import TexelError

__all__ = ["drop_made", "made_intake"]


def made_intake(
    job: Job, progress: Progress, project: Project, name: str, pictures: Iterable[tuple[str, bytes]], count: int
) -> Intake:
    """An intake of pictures, each with its file's name; one that an attempt before this one left goes on.

    count: how many there will be. Raises TexelError for one that is refused.
    """
    kept = job.payload.get("intake")
    intake = Intake.objects.filter(pk=kept, project=project).first() if kept else None
    if intake is None:
        with transaction.atomic():
            progress.hold_lease()
            intake = Intake.objects.create(project=project, name=name[:200], by=job.by, state=Intake.State.SORTING)
            job.payload = {**job.payload, "intake": intake.pk}
            job.save(update_fields=["payload"])
            announce(project.pk, "intake")
    with tempfile.TemporaryDirectory(prefix="texel-made-") as folder:
        for number, (called, body) in enumerate(pictures):
            progress.report(number, count, called)
            copy = Path(folder) / str(number)
            copy.write_bytes(body)
            with copy.open("rb") as stream:
                try:
                    take_file(intake, called, File(stream, name=str(copy)))
                except UploadRejected as error:
                    raise TexelError("{reason}", reason=error) from None
    return intake


def drop_made(job: Job) -> None:
    """Take away the pictures of a job that did not come to its end; nobody else knows of them yet."""
    left = Intake.objects.filter(pk=job.payload.get("intake"), state=Intake.State.SORTING)
    if left.delete()[0]:
        announce(job.project_id, "intake")
