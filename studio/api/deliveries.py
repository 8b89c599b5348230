"""Deliveries: the list before, the run, the result."""

from __future__ import annotations

from typing import Any

from django.db.models import BooleanField, ExpressionWrapper, Q, QuerySet
from django.http import FileResponse, Http404, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Path, Router

from studio.api.access import project_for, user_of
from studio.api.schemas.deliveries import DeliveryDetail, DeliveryOut, Order
from studio.deliveries import asked
from studio.deliveries.build import order_delivery, rows_of
from studio.deliveries.facts import PlanOut
from studio.projects.models import Membership, Project

router = Router(tags=["deliveries"])


@router.post("/plan", response=PlanOut)
def plan(request: HttpRequest, slug: Path[str], order: Order) -> Any:
    """What would be written, before anything is. Nothing is changed."""
    project = project_for(request, slug)
    return asked.plan_of.ask(user_of(request).pk, project=project.pk, target=order.target, sets=order.sets).said


def _out(delivery: Any) -> DeliveryOut:
    job, whole = delivery.job, delivery.whole
    return {
        "number": delivery.number,
        "target": delivery.target["name"],
        "title": delivery.target.get("title", delivery.target["name"]),
        "created": delivery.created,
        "by": delivery.by.get_username() if delivery.by else None,
        "sets": len(delivery.set_ids),
        "state": "done" if whole else job.state if job else "failed",
        "job": delivery.job_id,
        "message": job.message if job else "",
        "counts": delivery.counts,
        "problems": delivery.problems,
        "folder": str(delivery.folder) if whole else None,
    }


def _rows(project: Project) -> QuerySet[Any]:
    """Deliveries with what is told of them; whole: whether there is a manifest, which is large and not loaded."""
    whole = ExpressionWrapper(Q(manifest__isnull=False), output_field=BooleanField())
    return project.deliveries.select_related("job", "by", "project").annotate(whole=whole).defer("manifest", "sets")


@router.get("", response=list[DeliveryOut])
def list_deliveries(request: HttpRequest, slug: Path[str]) -> Any:
    return [_out(row) for row in _rows(project_for(request, slug))[:200]]


@router.post("", response=DeliveryOut)
def deliver(request: HttpRequest, slug: Path[str], order: Order) -> Any:
    """Build a delivery in a worker. It gets a number and a folder of its own; nothing is overwritten."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    made = order_delivery(project, rows_of(project, order.sets), order.target, user_of(request))
    return _out(_rows(project).get(pk=made.pk))


def _delivery(request: HttpRequest, slug: Path[str], number: int) -> Any:
    return get_object_or_404(_rows(project_for(request, slug)), number=number)


@router.get("/{int:number}", response=DeliveryDetail)
def one_delivery(request: HttpRequest, slug: Path[str], number: int) -> Any:
    delivery = _delivery(request, slug, number)
    return {**_out(delivery), "manifest": delivery.manifest}


@router.get("/{int:number}/zip")
def download(request: HttpRequest, slug: Path[str], number: int) -> FileResponse:
    delivery = _delivery(request, slug, number)
    if delivery.manifest is None or not delivery.zip_path.is_file():
        raise Http404("This delivery is not whole.")
    name = f"{delivery.project.slug}-{delivery.folder.name}.zip"
    return FileResponse(delivery.zip_path.open("rb"), as_attachment=True, filename=name)
