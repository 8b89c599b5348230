"""For whoever runs the server: how it stands, jobs that failed, numbers for a monitor."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Path, Router, Status

from studio import serving
from studio.api.access import must_administer, name_of
from studio.api.schemas.serving import ServerOut, ServerReady
from studio.health import health_now

router = Router(tags=["server"])


@router.get("/ready", response={200: ServerReady, 503: ServerReady}, auth=None)
def ready(request: HttpRequest) -> Any:
    """Whether requests may be sent here: the database answers and is as new as this server; 503 while not."""
    says = serving.is_ready()
    return Status(503 if says else 200, {"ready": not says, "says": says})


@router.get("/metrics", response={200: None})
def metrics(request: HttpRequest) -> HttpResponse:
    """Numbers as Prometheus reads them; with the token of an administrator."""
    must_administer(request)
    return HttpResponse(serving.metrics(), content_type="text/plain; version=0.0.4; charset=utf-8")


@router.get("/server", response=ServerOut)
def server(request: HttpRequest) -> Any:
    """Database, store, queue, workers, and the jobs that failed last. For administrators."""
    must_administer(request)
    return {
        "parts": health_now().parts,
        "queue": serving.queue_counts(),
        "workers": serving.workers(),
        "failed": [
            {
                "id": job.pk, "project": job.project.name, "kind": job.kind, "title": job.title,
                "message": job.message, "by": name_of(job.by), "finished": job.finished,
                "attempts": job.attempt,
            }
            for job in serving.failed_jobs()
        ],
    }  # fmt: skip


@router.post("/server/jobs/{int:pk}/retry", response={204: None})
def retry_job(request: HttpRequest, pk: Path[int]) -> Any:
    """Try a failed job again. For administrators."""
    must_administer(request)
    serving.retry(pk)
    return Status(204, None)
