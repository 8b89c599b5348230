"""Schemas for whoever runs the server."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema

from studio.api.schemas.session import PartOut


class WorkerOut(Schema):
    """job: what it does now, None where it waits."""

    id: int
    heard: datetime
    job: str | None


class FailedJob(Schema):
    id: int
    project: str
    kind: str
    title: str
    message: str
    by: str | None
    finished: datetime | None
    attempts: int


class ServerOut(Schema):
    """queue: how many jobs are in which state."""

    parts: list[PartOut]
    queue: dict[str, int]
    workers: list[WorkerOut]
    failed: list[FailedJob]


class ServerReady(Schema):
    """says: why not yet; empty when it is."""

    ready: bool
    says: str
