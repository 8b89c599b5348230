"""Destinations: named places of a project, below the roots that whoever runs the server allows."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from studio.changes.errors import Conflict, Stale
from studio.deliveries.models import Destination
from studio.jobs.announce import announce
from studio.projects.models import Project
from studio.roots import allowed_path, overlap
from studio.rules.models import target_for

__all__ = ["add_destination", "change_destination", "path_of", "remove_destination", "roots"]

_MAX_NAME = 80


def roots() -> list[Path]:
    """Folders below which projects may deliver."""
    return [Path(one) for one in settings.DESTINATION_ROOTS]


def path_of(place: str) -> Path:
    """Where a folder or zip lies. Raises Conflict outside of all roots (see studio.roots.allowed_path)."""
    return allowed_path(place, roots(), "delivers to")


def _check(project: Project, name: str, kind: str, place: str, target: str, own: int | None) -> None:
    """Raises Conflict, BadDocument for a destination that cannot be."""
    if not name or len(name) > _MAX_NAME or not name.isprintable():
        raise Conflict("a destination has a name of at most {max_name} characters", max_name=_MAX_NAME)
    if project.destinations.filter(name=name).exclude(pk=own or 0).exists():
        raise Conflict("another destination is called {name}", name=name)
    target_for(project, target)
    if kind == Destination.Kind.BUCKET:
        _check_bucket(place, own)
        return
    path = path_of(place)
    if kind == Destination.Kind.ZIP and path.suffix.lower() != ".zip":
        raise Conflict("the path of a zip ends in .zip")
    # Of all projects: two that keep one folder in step would take each other's files away.
    for other in (
        Destination.objects.exclude(kind=Destination.Kind.BUCKET).exclude(pk=own or 0).select_related("project")
    ):
        try:
            theirs = path_of(other.place)
        except Conflict:
            continue  # no longer below a root
        if overlap(path, theirs):
            whose = f"{other.name} of this project" if other.project_id == project.pk else "another project"
            raise Conflict("{place} is, or lies within, the place of {whose}", place=place, whose=whose)


def _check_bucket(place: str, own: int | None) -> None:
    bucket, _, prefix = place.partition("/")
    if bucket not in settings.DESTINATION_BUCKETS:
        told = ", ".join(settings.DESTINATION_BUCKETS) or "none"
        raise Conflict(
            "{what} is none of the buckets that this server delivers to: {told}", what=bucket or "no bucket", told=told
        )
    if not prefix.strip("/") or any(part in ("", ".", "..") for part in prefix.strip("/").split("/")):
        raise Conflict("say a bucket and a prefix in it, such as art/ferry")
    inside = prefix.strip("/") + "/"
    for other in Destination.objects.filter(kind=Destination.Kind.BUCKET).exclude(pk=own or 0):
        theirs_bucket, _, theirs = other.place.partition("/")
        theirs = theirs.strip("/") + "/"
        if theirs_bucket == bucket and (inside.startswith(theirs) or theirs.startswith(inside)):
            raise Conflict("{place} is, or lies within, the place of another destination", place=place)


def add_destination(project: Project, name: str, kind: str, place: str, target: str, by: Any) -> Destination:
    """Name a place that deliveries of a target go to. Raises Conflict, BadDocument."""
    name, place = name.strip(), place.strip()
    with transaction.atomic():
        Project.objects.select_for_update().get(pk=project.pk)
        _check(project, name, kind, place, target, None)
        made = Destination.objects.create(project=project, name=name, kind=kind, place=place, target=target, by=by)
        announce(project.pk, "destinations", id=made.pk)
    return made


def change_destination(one: Destination, name: str, place: str, target: str, seen: int | None = None) -> Destination:
    """Give a destination another name, place or target. What lies at the former place stays there.

    seen: the revision that this was meant for. Raises Stale where somebody was faster, Conflict, BadDocument.
    """
    name, place = name.strip(), place.strip()
    with transaction.atomic():
        Project.objects.select_for_update().get(pk=one.project_id)
        one.refresh_from_db()
        if seen is not None and seen != one.revision:
            raise Stale(one, "{one} was changed meanwhile by somebody else", one=one.name)
        _check(one.project, name, one.kind, place, target, one.pk)
        moved = place != one.place or target != one.target
        one.name, one.place, one.target, one.revision = name, place, target, one.revision + 1
        if moved:
            one.holds = None
        one.save(update_fields=["name", "place", "target", "holds", "revision"])
        announce(one.project_id, "destinations", id=one.pk)
    return one


def remove_destination(one: Destination) -> None:
    """Forget a destination. Its files stay where they lie."""
    with transaction.atomic():
        project, pk = one.project_id, one.pk
        one.delete()
        announce(project, "destinations", id=pk)
