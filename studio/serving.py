"""What whoever runs the server looks at: queue, workers, jobs that failed; the same as numbers for a monitor."""

from __future__ import annotations

import os
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.conf import settings
from django.db import connection, transaction
from django.db.migrations.executor import MigrationExecutor
from django.db.models import Count
from django.http import Http404

from studio.changes.errors import Conflict
from studio.deliveries.models import Delivery
from studio.health import health_now
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.queue import queue_up
from studio.jobs.registry import kind_of
from studio.people.models import LogEntry, OpenSession
from studio.projects.models import Project
from studio.sets.models import TextureSet

__all__ = ["Worker", "failed_jobs", "is_ready", "metrics", "queue_counts", "retry", "workers"]

_SHOWN = 100


@dataclass(frozen=True)
class Worker:
    """heard: when it last said that it is there. job: what it does now, None where it waits."""

    id: int
    heard: datetime
    job: str | None


def workers() -> list[Worker]:
    """Those that said that they are there within the last minute."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT w.id, w.last_heartbeat, (SELECT j.title FROM procrastinate_jobs p "
            "JOIN jobs_job j ON j.id = (p.args ->> 'job_id')::bigint "
            "WHERE p.worker_id = w.id AND p.status = 'doing' LIMIT 1) "
            "FROM procrastinate_workers w WHERE w.last_heartbeat > now() - interval '1 minute' ORDER BY w.id"
        )
        return [Worker(*row) for row in cursor.fetchall()]


def queue_counts() -> dict[str, int]:
    """How many jobs are in which state."""
    return dict(Job.objects.values_list("state").annotate(count=Count("pk")))


def failed_jobs() -> list[Job]:
    """The newest that failed, of all projects."""
    return list(Job.objects.filter(state=Job.State.FAILED).select_related("project", "by")[:_SHOWN])


def retry(pk: int) -> Job:
    """Try a failed job again. Raises Http404, and Conflict for one that did not fail, or whose failing was answered
    already: what it was for is told as failed, and has to be asked for again there."""
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(pk=pk).first()
        if job is None:
            raise Http404("There is no such job any more.")
        if job.state != Job.State.FAILED:
            raise Conflict("this job has not failed")
        try:
            on_loss = kind_of(job.kind).on_loss
        except KeyError:
            raise Conflict("there are no such jobs any more; ask for it anew") from None
        if on_loss is not None:
            raise Conflict("its failing was told where it was asked for; ask for it there again")
        job.state, job.message, job.attempt, job.excused, job.done = Job.State.WAITING, "", 0, 0, 0
        job.cancel_asked, job.started, job.finished = False, None, None
        job.save()
        queue_up(job)
        announce(job.project_id, "job", id=job.pk)
    return job


def is_ready() -> str:
    """Why this server should get no requests yet, "" when it should: the database answers, and is as new as this."""
    try:
        executor = MigrationExecutor(connection)
        waiting = executor.migration_plan(executor.loader.graph.leaf_nodes())
    except Exception:
        return "the database does not answer"
    return f"{len(waiting)} changes of the database wait" if waiting else ""


def _store() -> tuple[int, int]:
    told = os.statvfs(settings.STORE_ROOT) if settings.STORE_ROOT.is_dir() else None
    return (told.f_bavail * told.f_frsize, told.f_blocks * told.f_frsize) if told else (0, 0)


def metrics() -> str:
    """The text format of Prometheus (exposition format 0.0.4)."""
    free, whole = _store()
    jobs = Job.objects.values_list("kind", "state").annotate(count=Count("pk")).order_by("kind", "state")
    refused = LogEntry.objects.filter(event__in=["sign_in_refused", "locked_out", "token_refused"]).count()
    rows: list[tuple[str, str, str, list[tuple[dict[str, str], float]]]] = [
        ("up", "gauge", "Whether a part is well.", [
            ({"part": part.name}, float(part.well)) for part in health_now().parts
        ]),
        ("jobs", "gauge", "Jobs by kind and state.", [
            ({"kind": kind, "state": state}, count) for kind, state, count in jobs
        ]),
        ("workers", "gauge", "Workers that said they are there within the last minute.", [({}, len(workers()))]),
        ("projects", "gauge", "Projects.", [({}, Project.objects.count())]),
        ("sets", "gauge", "Texture sets of all projects.", [({}, TextureSet.objects.count())]),
        ("deliveries_total", "counter", "Deliveries that were made.", [
            ({}, Delivery.objects.filter(manifest__isnull=False).count())
        ]),
        ("sessions", "gauge", "Browsers that are signed in.", [({}, OpenSession.objects.count())]),
        ("refused_total", "counter", "Sign-ins and tokens that were refused.", [({}, refused)]),
        ("store_free_bytes", "gauge", "Free bytes on the disk of the store.", [({}, free)]),
        ("store_disk_bytes", "gauge", "Bytes of the disk of the store.", [({}, whole)]),
    ]  # fmt: skip
    return "".join(_family(f"fair_texel_{name}", kind, words, values) for name, kind, words, values in rows)


def _family(name: str, kind: str, words: str, values: list[tuple[dict[str, str], float]]) -> str:
    lines = [f"# HELP {name} {words}", f"# TYPE {name} {kind}"]
    for labels, value in values:
        told = ",".join(f'{key}="{_label(text)}"' for key, text in labels.items())
        lines.append(f"{name}{{{told}}} {value:.17g}" if told else f"{name} {value:.17g}")
    return "\n".join(lines) + "\n"


def _label(text: Any) -> str:
    return str(text).replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n")
