"""Who has what open: each window says so every few seconds, and is forgotten when it does not."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Any

from django.db.models import QuerySet
from django.utils import timezone

from studio.jobs.announce import announce
from studio.projects.models import Project
from studio.team.models import Presence
from texel.errors import BadDocument

__all__ = ["ALIVE_SECONDS", "here", "leave", "others_at"]

ALIVE_SECONDS = 45
_ABOUT = re.compile(r"[a-z_]{1,20}:[\w.-]{1,38}")
_TAB = re.compile(r"[\w-]{1,40}")


def here(project: Project, person: Any, tab: str, about: str, editing: bool) -> None:
    """Somebody has something open. about: "sets:12". Others hear of it when it is new. Raises BadDocument."""
    if not _ABOUT.fullmatch(about) or not _TAB.fullmatch(tab):
        raise BadDocument("a window says what it has open as kind:key, such as sets:12")
    was = Presence.objects.filter(person=person, tab=tab).first()
    Presence.objects.update_or_create(
        person=person, tab=tab, defaults={"project": project, "about": about, "editing": editing}
    )
    if was is None or (was.about, was.editing, was.project_id) != (about, editing, project.pk):
        Presence.objects.filter(seen__lt=timezone.now() - timedelta(hours=1)).delete()
        announce(project.pk, "presence", about=about)


def leave(project: Project, person: Any, tab: str) -> None:
    """A window has closed."""
    gone, _ = Presence.objects.filter(person=person, tab=tab, project=project).delete()
    if gone:
        announce(project.pk, "presence")


def others_at(project: Project, person: Any, about: str = "") -> QuerySet[Presence]:
    """Who else has something open now. about: only this."""
    since = timezone.now() - timedelta(seconds=ALIVE_SECONDS)
    rows = project.presences.filter(seen__gt=since).exclude(person=person).select_related("person")
    return (rows.filter(about=about) if about else rows).order_by("person__username", "-editing")
