"""Waivers: reasons to live with findings."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router, Status

from studio.api.access import name_of, project_for, user_of
from studio.api.schemas.waivers import WaiverIn, WaiverRow
from studio.projects.models import Membership
from studio.sets import waivers
from studio.sets.models import Waiver

router = Router(tags=["waivers"])


def _row(waiver: Waiver) -> WaiverRow:
    return {
        "id": waiver.pk, "set": waiver.set.name, "check": waiver.check_name, "role": waiver.role,
        "reason": waiver.reason, "until": waiver.until, "by": name_of(waiver.by),
        "created": waiver.created, "revoked": waiver.revoked,
    }  # fmt: skip


@router.get("", response=list[WaiverRow])
def list_waivers(request: HttpRequest, slug: Path[str]) -> Any:
    """All waivers of the project, the newest first, revoked ones too."""
    project = project_for(request, slug)
    rows = Waiver.objects.filter(set__project=project).select_related("set", "by").order_by("-pk")
    return [_row(row) for row in rows]


@router.post("", response=WaiverRow)
def waive(request: HttpRequest, slug: Path[str], given: WaiverIn) -> Any:
    """Live with a finding until its map changes, or until a day. Needs the right to set rules."""
    project = project_for(request, slug, Membership.Right.RULES)
    return _row(waivers.waive(project, given.finding, given.reason, given.until, user_of(request)))


@router.delete("/{int:pk}", response={204: None})
def revoke(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """Take a waiver back; the finding counts again."""
    project = project_for(request, slug, Membership.Right.RULES)
    waivers.revoke(project, pk, user_of(request))
    return Status(204, None)
