"""Schemas of jobs."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema


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
