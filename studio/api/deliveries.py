"""Deliveries: the list before, the run, the result."""

from __future__ import annotations

from typing import Any

from django.db.models import BooleanField, ExpressionWrapper, Q, QuerySet
from django.db.models.fields.json import KT
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router

from studio.api.access import name_of, project_for, user_of
from studio.api.caching import png
from studio.api.schemas.deliveries import DeliveryDetail, DeliveryOut, MirrorCounts, Order, OrderAll
from studio.api.schemas.watched import OutdatedOut
from studio.deliveries import asked
from studio.deliveries.archive import zip_of
from studio.deliveries.build import order_delivery, order_for_all_targets, rows_of
from studio.deliveries.facts import ComparedFile, PlanOut, ReflectionOut
from studio.deliveries.ordered import OrderedCasts
from studio.deliveries.outdated import outdated_deliveries
from studio.ground.delivering import with_ground
from studio.materials.delivering import casts_to_deliver
from studio.meshes.delivering import with_models
from studio.projects.models import Membership, Project
from studio.rules.models import target_documents
from texel.delivery.changes import compare

router = Router(tags=["deliveries"])


def _beside(project: Project, order: Order) -> OrderedCasts:
    """The casts, models and ground of an order."""
    casts = casts_to_deliver(project, order.casts, order.keep_others)
    casts = with_models(project, casts, order.models, order.keep_others)
    return with_ground(project, casts, order.grounds, order.keep_others)


@router.post("/plan", response=PlanOut)
def plan(request: HttpRequest, slug: Path[str], order: Order) -> Any:
    """What would be written, before anything is. Nothing is changed."""
    project = project_for(request, slug)
    return asked.plan_of.ask(
        user_of(request).pk, project=project.pk, target=order.target, sets=order.sets, keep_others=order.keep_others,
        casts=_beside(project, order),
    ).said  # fmt: skip


@router.get("/outdated", response=list[OutdatedOut])
def outdated(request: HttpRequest, slug: Path[str], set: int | None = None) -> Any:
    """Targets whose newest delivery of a set differs from the set as it is now. set: only this one."""
    project = project_for(request, slug)
    titles = {name: one.get("title", name) for name, one in target_documents(project).items()}
    return [
        {
            "target": one.target, "title": titles.get(one.target, one.target), "number": one.number,
            "sets": [{"id": pk, "name": name} for pk, name in sorted(one.sets.items(), key=lambda item: item[1])],
            "destinations": sorted(one.destinations),
        }
        for one in outdated_deliveries(project, None if set is None else {set})
    ]  # fmt: skip


def _mirror(delivery: Any) -> MirrorCounts | None:
    if delivery.mirror_title is None:
        return None
    return {
        "title": delivery.mirror_title, "errors": delivery.mirror_errors, "warnings": delivery.mirror_warnings,
    }  # fmt: skip


def _out(delivery: Any) -> DeliveryOut:
    job, whole = delivery.job, delivery.whole
    return {
        "number": delivery.number,
        "target": delivery.target["name"],
        "title": delivery.target.get("title", delivery.target["name"]),
        "created": delivery.created,
        "by": name_of(delivery.by),
        "sets": len(delivery.set_ids),
        "state": "done" if whole else job.state if job else "failed",
        "job": delivery.job_id,
        "message": job.message if job else "",
        "counts": delivery.counts,
        "problems": delivery.problems,
        "folder": str(delivery.folder) if whole and delivery.gone is None else None,
        "gone": delivery.gone,
        "mirror": _mirror(delivery),
    }


def _rows(project: Project) -> QuerySet[Any]:
    """Deliveries with what is told of them; whole: whether there is a manifest, which is large and not loaded."""
    whole = ExpressionWrapper(Q(manifest__isnull=False), output_field=BooleanField())
    counts = {f"mirror_{name}": KT(f"mirror__{name}") for name in ("title", "errors", "warnings")}
    rows = project.deliveries.select_related("job", "by", "project").annotate(whole=whole, **counts)
    return rows.defer("manifest", "sets", "mirror")


@router.get("", response=list[DeliveryOut])
def list_deliveries(request: HttpRequest, slug: Path[str]) -> Any:
    return [_out(row) for row in _rows(project_for(request, slug))[:200]]


@router.post("", response=DeliveryOut)
def deliver(request: HttpRequest, slug: Path[str], order: Order) -> Any:
    """Build a delivery in a worker. It gets a number and a folder of its own; nothing is overwritten."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    places = list(project.destinations.filter(pk__in=order.destinations))
    made = order_delivery(
        project, rows_of(project, order.sets), order.target, user_of(request), keep_others=order.keep_others,
        destinations=places, casts=_beside(project, order),
    )  # fmt: skip
    return _out(_rows(project).get(pk=made.pk))


@router.post("/all", response=list[DeliveryOut])
def deliver_to_all(request: HttpRequest, slug: Path[str], order: OrderAll) -> Any:
    """Deliver sets for all their targets at once, each to that target's destinations; other sets stay as they were."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    staying = with_models(project, casts_to_deliver(project, [], True), [], True)
    staying = with_ground(project, staying, [], True)
    made = order_for_all_targets(project, rows_of(project, order.sets), user_of(request), staying)
    return [_out(row) for row in _rows(project).filter(pk__in=[one.pk for one in made])]


@router.get("/compare", response=list[ComparedFile])
def compare_two(request: HttpRequest, slug: Path[str], old: int, new: int) -> Any:
    """Two deliveries, file by file."""
    before, now = (_delivery(request, slug, number) for number in (old, new))
    if before.manifest is None or now.manifest is None:
        raise Http404("One of the two is not whole.")
    return compare(before.manifest, now.manifest)


@router.get("/{int:number}/mirror", response=ReflectionOut)
def delivery_mirror(request: HttpRequest, slug: Path[str], number: int) -> Any:
    """What the engine of its target would make of a delivery, file by file."""
    delivery = _delivery(request, slug, number)
    if delivery.mirror is None:
        raise Http404("What the engine makes of this delivery is not known.")
    return delivery.mirror


@router.get("/{int:number}/picture")
def delivered_picture(
    request: HttpRequest, slug: Path[str], number: int, path: str, side: int = 512, channel: str = "", misread: str = ""
) -> HttpResponse:
    """A PNG of a file as it was delivered; misread: as an engine takes it that reads it wrongly."""
    delivery = _delivery(request, slug, number)
    digests = {entry["path"]: entry["digest"] for entry in (delivery.manifest or {"files": ()})["files"]}
    if path not in digests:
        raise Http404("This delivery has no such file.")
    made = asked.draw_delivered.ask(
        user_of(request).pk, delivery=delivery.pk, path=path, side=max(16, min(side, 4096)), channel=channel,
        misread=misread,
    )  # fmt: skip
    return png(request, made.data, digests[path])


def _delivery(request: HttpRequest, slug: Path[str], number: int) -> Any:
    return get_object_or_404(_rows(project_for(request, slug)), number=number)


@router.get("/{int:number}", response=DeliveryDetail)
def one_delivery(request: HttpRequest, slug: Path[str], number: int) -> Any:
    delivery = _delivery(request, slug, number)
    return {**_out(delivery), "manifest": delivery.manifest}


@router.get("/{int:number}/zip")
def download(request: HttpRequest, slug: Path[str], number: int) -> FileResponse:
    delivery = _delivery(request, slug, number)
    if delivery.manifest is None or delivery.gone is not None:
        raise Http404("The files of this delivery are not there.")
    try:
        packed = zip_of(delivery)
    except FileNotFoundError:
        raise Http404("The files of this delivery are not there.") from None
    name = f"{delivery.project.slug}-{delivery.folder.name}.zip"
    return FileResponse(packed.open("rb"), as_attachment=True, filename=name)
