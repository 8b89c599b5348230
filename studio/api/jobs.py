"""Jobs: what runs, and stopping it."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db.models import Q
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Path, Router

from studio.api.access import project_for
from studio.api.schemas.jobs import JobOut
from studio.jobs.models import Job
from studio.jobs.queue import cancel
from studio.projects.models import Membership

router = Router(tags=["jobs"])
_RECENT_SECONDS = 60


@router.get("", response=list[JobOut])
def list_jobs(request: HttpRequest, slug: Path[str]) -> Any:
    """Jobs that wait or run, and those that ended within the last minute."""
    since = timezone.now() - timedelta(seconds=_RECENT_SECONDS)
    open_or_recent = ~Q(state__in=Job.ENDED) | Q(finished__gte=since)
    return project_for(request, slug).jobs.filter(open_or_recent).defer("payload")[:500]


@router.get("/{int:pk}", response=JobOut)
def one_job(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """A job, however long ago it ended. state: waiting, running, done, failed or cancelled."""
    return get_object_or_404(Job, pk=pk, project=project_for(request, slug))


@router.post("/{int:pk}/cancel", response=JobOut)
def stop(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    job = get_object_or_404(Job, pk=pk, project=project_for(request, slug, Membership.Right.PREPARE))
    cancel(job)
    job.refresh_from_db()
    return job
