"""Destinations: where deliveries are brought, what others changed there, and the way back to an older one."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db.models import Max
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Status

from studio.api.access import name_of, project_for, user_of
from studio.api.schemas.destinations import (
    Allowed,
    Bring,
    DestinationChange,
    DestinationOut,
    DriftOut,
    NewDestination,
    TakenIn,
    Theirs,
    TransferOut,
)  # fmt: skip
from studio.api.seen import IfMatch, newest_of, seen
from studio.deliveries import asked
from studio.deliveries.facts import ReflectionOut
from studio.deliveries.models import Destination, Transfer
from studio.deliveries.places import add_destination, change_destination, remove_destination, roots
from studio.deliveries.theirs import place_in_words, take_in
from studio.deliveries.transfers import order_transfer
from studio.projects.models import Membership, Project
from studio.rules.models import target_documents

router = Router(tags=["destinations"])
_MAX_SIDE = 4096


def _transfer(one: Transfer) -> TransferOut:
    job, result = one.job, one.result or {}
    return {
        "id": one.pk, "number": one.delivery.number, "created": one.created,
        "by": name_of(one.by),
        "state": "done" if one.result is not None else job.state if job else "failed",
        "job": one.job_id, "message": job.message if job else "", "written": result.get("written", 0),
        "removed": result.get("removed", 0), "untouched": result.get("untouched", 0), "kept": result.get("kept", []),
        "drift": sum(bool(each["asks"]) for each in one.drift),
    }  # fmt: skip


def _out(project: Project, rows: list[Destination]) -> list[DestinationOut]:
    titles = {name: one.get("title", name) for name, one in target_documents(project).items()}
    whole = project.deliveries.filter(manifest__isnull=False)
    newest = dict(whole.values_list("target__name").annotate(last=Max("number")))
    last: dict[int, Transfer] = {}
    transfers = Transfer.objects.filter(destination__in=rows).select_related("delivery", "job", "by")
    for one in transfers.order_by("destination_id", "-pk").distinct("destination_id").defer("delivery__manifest"):
        last[one.destination_id] = one
    told: list[DestinationOut] = []
    for row in rows:
        path, problem = place_in_words(row)
        told.append(
            {
                "id": row.pk, "revision": row.revision, "name": row.name, "kind": row.kind, "place": row.place,
                "path": path, "target": row.target, "title": titles.get(row.target, row.target),
                "holds": row.holds.number if row.holds else None, "newest": newest.get(row.target),
                "problem": problem, "last": _transfer(last[row.pk]) if row.pk in last else None,
            }
        )  # fmt: skip
    return told


def _rows(project: Project) -> Any:
    return project.destinations.select_related("holds", "project").defer("holds__manifest", "holds__sets")


@newest_of(Destination)
def _newest(request: HttpRequest, row: Any) -> DestinationOut:
    return _out(row.project, [row])[0]


def _destination(request: HttpRequest, slug: str, pk: int, right: str = Membership.Right.LOOK) -> Destination:
    one: Destination = get_object_or_404(_rows(project_for(request, slug, right)), pk=pk)
    return one


@router.get("", response=list[DestinationOut])
def list_destinations(request: HttpRequest, slug: Path[str]) -> Any:
    project = project_for(request, slug)
    return _out(project, list(_rows(project)))


@router.get("/allowed", response=Allowed)
def allowed(request: HttpRequest, slug: Path[str]) -> Any:
    """The folders and buckets that this server delivers to."""
    project_for(request, slug)
    return {"folders": [str(root) for root in roots()], "buckets": list(settings.DESTINATION_BUCKETS)}


@router.post("", response=DestinationOut)
def add(request: HttpRequest, slug: Path[str], given: NewDestination) -> Any:
    """Name a place that deliveries of a target go to."""
    project = project_for(request, slug, Membership.Right.RULES)
    made = add_destination(project, given.name, given.kind, given.place, given.target, user_of(request))
    return _out(project, [made])[0]


@router.patch("/{int:pk}", response=DestinationOut)
def change(request: HttpRequest, slug: Path[str], pk: int, given: DestinationChange, if_match: IfMatch = None) -> Any:
    """Another name, place or target. What lies at the former place stays there."""
    one = _destination(request, slug, pk, Membership.Right.RULES)
    changed = change_destination(one, given.name, given.place, given.target, seen(if_match))
    return _out(one.project, [changed])[0]


@router.delete("/{int:pk}", response={204: None})
def remove(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Forget a destination. Its files stay where they lie."""
    remove_destination(_destination(request, slug, pk, Membership.Right.RULES))
    return Status(204, None)


@router.get("/{int:pk}/transfers", response=list[TransferOut])
def transfers(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    rows = _destination(request, slug, pk).transfers.select_related("delivery", "job", "by")
    return [_transfer(one) for one in rows.defer("delivery__manifest", "delivery__sets")[:100]]


@router.get("/{int:pk}/drift", response=list[DriftOut])
def drift(request: HttpRequest, slug: Path[str], pk: int, delivery: int | None = None, thorough: bool = False) -> Any:
    """What others changed there since. delivery: what is going to be brought; thorough: read every file."""
    one = _destination(request, slug, pk)
    return asked.drift_of.ask(user_of(request).pk, destination=one.pk, delivery=delivery, thorough=thorough).said


@router.get("/{int:pk}/mirror", response=ReflectionOut)
def mirror(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """What the engine of the destination's target would make of what lies there now, whoever put it there."""
    one = _destination(request, slug, pk)
    return asked.mirror_at.ask(user_of(request).pk, destination=one.pk).said


@router.post("/{int:pk}/bring", response=TransferOut)
def bring(request: HttpRequest, slug: Path[str], pk: int, given: Bring) -> Any:
    """Bring a delivery there, the newest or an older one, in a worker."""
    one = _destination(request, slug, pk, Membership.Right.PREPARE)
    delivery = get_object_or_404(one.project.deliveries.select_related("project"), number=given.delivery)
    return _transfer(order_transfer(one, delivery, user_of(request), given.choices))


@router.post("/{int:pk}/take", response=TakenIn)
def take(request: HttpRequest, slug: Path[str], pk: int, given: Theirs) -> Any:
    """Take files as they lie there in as new sources."""
    one = _destination(request, slug, pk, Membership.Right.PREPARE)
    return {"intake": take_in(one, given.paths, user_of(request)).pk}


@router.get("/{int:pk}/picture")
def picture_there(
    request: HttpRequest, slug: Path[str], pk: int, path: str, side: int = 512, channel: str = ""
) -> HttpResponse:
    """A PNG of a file as it lies there now."""
    one = _destination(request, slug, pk)
    made = asked.draw_there.ask(
        user_of(request).pk, destination=one.pk, path=path, side=max(16, min(side, _MAX_SIDE)), channel=channel
    )
    return HttpResponse(made.data, content_type="image/png", headers={"Cache-Control": "no-store"})
