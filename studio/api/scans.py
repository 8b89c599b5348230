"""Scan libraries: accounts, searching by what the camera sees, taking in, newer revisions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Status

from studio.api.access import project_for, user_of
from studio.api.schemas.jobs import Queued
from studio.api.schemas.scans import KeyIn, LibraryOut, ListedOut, ListingOut, NewerIn, NewScan, ScanOut
from studio.jobs.queue import enqueue
from studio.projects.models import Membership, Project
from studio.rules.models import target_documents
from studio.scans import asked
from studio.scans.accounts import forget_account, keep_account
from studio.scans.client import library_names
from studio.scans.models import Scan
from studio.scans.taking import objection_to, order_newer, order_scan, resume, sets_of
from texel.density import Seen, fits
from texel.document_types import ScanListed

router = Router(tags=["scan libraries"])
_PREPARE = Membership.Right.PREPARE
_MAX_SIDE = 1024


@router.get("/libraries", response=list[LibraryOut])
def libraries(request: HttpRequest, slug: Path[str]) -> Any:
    """The libraries that this server knows, and whether the person asking has an account with them."""
    project_for(request, slug)
    accounts = dict(user_of(request).scan_accounts.values_list("library", "title"))
    return [{"name": name, "account": accounts.get(name)} for name in library_names()]


@router.put("/libraries/{library}/account", response=LibraryOut)
def put_account(request: HttpRequest, slug: Path[str], library: str, given: KeyIn) -> Any:
    """Enter the key of one's own account; it is tried first."""
    project_for(request, slug, _PREPARE)
    user = user_of(request)
    title = asked.try_key.ask(user.pk, library=library, key=given.key.strip()).said
    kept = keep_account(user, library, given.key.strip(), title)
    return {"name": library, "account": kept.title}


@router.delete("/libraries/{library}/account", response={204: None})
def delete_account(request: HttpRequest, slug: Path[str], library: str) -> Any:
    """Forget one's own key."""
    project_for(request, slug)
    forget_account(user_of(request), library)
    return Status(204, None)


def _listed(project: Project, one: ScanListed, seen: Seen, is_own_size: bool, taken: dict[str, int]) -> ListedOut:
    told = objection_to(project, one["licence"])
    covered = seen._replace(metres=one["metres"]) if is_own_size else seen
    return {
        "id": one["id"], "title": one["title"], "tags": one.get("tags", []), "metres": one["metres"],
        "revision": one["revision"], "licence": one["licence"]["name"], "credit": one["licence"].get("credit", ""),
        "problem": told.message if told else "", "refused": bool(told and told.refuses),
        "fits": [fit._asdict() for fit in fits(one["pixels"], covered)],  # type: ignore[misc]
        "taken": taken.get(one["id"]),
    }  # fmt: skip


@router.get("/libraries/{library}/surfaces", response=ListingOut)
def search(
    request: HttpRequest, slug: Path[str], library: str, search: str = "", page: int = 1, distance: float = 2.0,
    height: int = 1080, angle: float = 60.0, metres: float | None = None,
) -> Any:  # fmt: skip
    """Surfaces of a library, and which resolution of each is enough.

    distance: metres, of the nearest camera; height: of the screen, in pixels; angle: vertical field of view in
    degrees. metres: that the width of the texture shall cover; each surface's own size when left out.
    """
    project, user = project_for(request, slug), user_of(request)
    seen = Seen(distance, height, angle, metres if metres is not None else 1.0)
    fits([1], seen)
    listing = asked.surfaces_of.ask(user.pk, user=user.pk, library=library, search=search, page=page).said
    taken = dict(project.scans.filter(library=library, revision__gt=0).values_list("surface", "pk"))
    target = target_documents(project).get(project.target)
    budget = target.get("budget") if target else None
    return {
        "title": listing["title"], "account": listing["account"], "next": listing.get("next"),
        "standard": budget.get("density") if budget else None,
        "surfaces": [_listed(project, one, seen, metres is None, taken) for one in listing["surfaces"]],
    }  # fmt: skip


@router.get("/libraries/{library}/surfaces/{surface}/preview")
def preview(request: HttpRequest, slug: Path[str], library: str, surface: str, side: int = 256) -> HttpResponse:
    """A PNG of a surface, as its library shows it."""
    project_for(request, slug)
    user = user_of(request)
    made = asked.draw_preview_of.ask(
        user.pk, user=user.pk, library=library, surface=surface, side=max(16, min(side, _MAX_SIDE))
    )
    # Another revision looks otherwise under the same address.
    headers = {"Cache-Control": "private, max-age=600"}
    return HttpResponse(made.data, content_type="image/png", headers=headers)


def _out(rows: Sequence[Scan]) -> list[ScanOut]:
    sets = sets_of(rows)
    return [
        {
            "id": one.pk, "library": one.library, "surface": one.surface, "title": one.title, "pixels": one.pixels,
            "revision": one.revision, "newest": one.newest, "update_available": one.newest > one.revision > 0,
            "state": one.job.state if one.job else "done", "job": one.job_id,
            "message": one.job.message if one.job else "", "intake": one.intake_id,
            "sets": [{"id": pk, "name": name} for pk, name in sets.get(one.pk, ())],
        }
        for one in rows
    ]  # fmt: skip


def _scan(request: HttpRequest, slug: str, pk: int) -> Scan:
    rows = project_for(request, slug, _PREPARE).scans.select_related("job", "project", "intake")
    return get_object_or_404(rows, pk=pk)


@router.get("", response=list[ScanOut])
def list_scans(request: HttpRequest, slug: Path[str], set: int | None = None) -> Any:
    """What was taken in from scan libraries, the newest first. set: only where this set came from."""
    rows = project_for(request, slug).scans.select_related("job")
    if set is not None:
        rows = rows.filter(intake__placements__set=set).distinct()
    return _out(list(rows))


@router.post("", response=ScanOut)
def take(request: HttpRequest, slug: Path[str], given: NewScan) -> Any:
    """Take a surface in, in a worker. Refused where the project's rules forbid its licence."""
    project, user = project_for(request, slug, _PREPARE), user_of(request)
    surface = asked.surface_of.ask(user.pk, user=user.pk, library=given.library, surface=given.surface).said
    return _out([order_scan(project, given.library, surface, given.pixels, user)])[0]


@router.post("/look", response=Queued)
def look(request: HttpRequest, slug: Path[str]) -> Any:
    """Ask the libraries for newer revisions, in a worker."""
    project = project_for(request, slug, _PREPARE)
    return {"job": enqueue(project, "scan-look", "Look for newer scans", user_of(request)).pk}


@router.post("/{int:pk}/resume", response=ScanOut)
def go_on(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Go on with what broke off; what came is not fetched again."""
    return _out([resume(_scan(request, slug, pk), user_of(request))])[0]


@router.post("/{int:pk}/update", response=ScanOut)
def update(request: HttpRequest, slug: Path[str], pk: int, given: NewerIn) -> Any:
    """Take the newest revision, or another resolution, in place of what is there. Steps stay."""
    return _out([order_newer(_scan(request, slug, pk), given.pixels, user_of(request))])[0]
