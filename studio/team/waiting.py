"""What waits for one person, over all projects they are in."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Exists, OuterRef
from django.db.models.functions import Coalesce

from studio.projects.models import Membership
from studio.sets.models import TextureSet
from studio.team.comments import path_of
from studio.team.models import Comment, ReviewStep
from studio.team.reviews import steps_now

__all__ = ["Waits", "waits_for"]

_MOST = 200


@dataclass(frozen=True)
class Waits:
    """kind: approve, sent_back, mention. path: of the page."""

    kind: str
    project: str
    text: str
    path: str
    by: str | None
    at: datetime


def waits_for(person: Any) -> list[Waits]:
    """The newest first: sets to approve, one's own sets that were sent back, open comments that mention one."""
    found = [*_reviews(person), *_mentions(person)]
    return sorted(found, key=lambda one: one.at, reverse=True)[:_MOST]


def _reviews(person: Any) -> list[Waits]:
    memberships = {row.project_id: row for row in Membership.objects.filter(user=person)}
    rows = steps_now(TextureSet.objects.filter(project__in=memberships)).filter(
        state__in=[ReviewStep.State.READY, ReviewStep.State.SENT_BACK]
    )
    mine = set(
        ReviewStep.objects.filter(by=person, state=ReviewStep.State.READY).values_list("set", flat=True).distinct()
    )
    found = []
    for row in rows.order_by("-pk")[: 2 * _MOST]:
        ready = row.state == ReviewStep.State.READY
        may = memberships[row.set.project_id].may(Membership.Right.RULES)
        if (ready and may and row.by_id != person.pk) or (not ready and row.set_id in mine):
            found.append(
                Waits(
                    "approve" if ready else "sent_back", row.set.project.name,
                    row.set.name if ready else f"{row.set.name}: {row.reason}",
                    f"/p/{row.set.project.slug}/set/{row.set_id}", row.by.get_username() if row.by else None, row.at,
                )
            )  # fmt: skip
    return found


def _mentions(person: Any) -> list[Waits]:
    """A comment waits while it is open and the person has not answered after it."""
    rows = Comment.objects.filter(mentions=person, project__members__user=person).exclude(by=person)
    first = Coalesce(OuterRef("parent"), OuterRef("pk"))
    answers = Comment.objects.filter(parent=first, by=person, pk__gt=OuterRef("pk"))
    rows = rows.annotate(answered=Exists(answers)).filter(answered=False, closed=None, parent__closed=None)
    return [
        Waits(
            "mention", row.project.name, row.text, f"/p/{row.project.slug}{path_of(row)}",
            row.by.get_username() if row.by else None, row.created,
        )
        for row in rows.select_related("project", "by", "parent").order_by("-pk")[:_MOST]
    ]  # fmt: skip
