"""Schemas of jobs."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema, Status

from studio.jobs.models import Job


class JobOut(Schema):
    id: int
    kind: str
    title: str
    state: str
    done: int
    total: int
    message: str
    attempt: int
    created: datetime


class Queued(Schema):
    """job: its number; GET /projects/{slug}/jobs tells how it goes."""

    job: int


def queued(job: Job) -> Status[dict[str, int]]:
    """The answer to what was asked for and is not done yet: 202 (RFC 9110, 15.3.3)."""
    return Status(202, {"job": job.pk})
