"""Waivers: reasons to live with findings. One holds while its map stays what it was, up to its last day."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date
from typing import Any

from django.http import Http404
from django.utils import timezone

from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.projects.models import Project
from studio.sets.models import Finding, Waiver
from studio.sets.pictures import map_digest
from texel.licences import licence_key

__all__ = ["Key", "revoke", "waive", "waiver_for", "waivers_in_force"]

_LONGEST_REASON = 500
_ABOUT_LICENCES = ("licence_unknown", "licence_refused", "credit_missing")
Key = tuple[str, str, str]


def waivers_in_force(waivers: Iterable[Waiver]) -> dict[Key, Waiver]:
    """Those of a set that hold today, by check, role and digest of the map."""
    today = timezone.localdate()
    return {(row.check_name, row.role, row.map_digest): row for row in waivers if row.holds_on(today)}


def _key(finding: Finding) -> Key:
    if finding.document["check"] in _ABOUT_LICENCES:
        return finding.document["check"], "", licence_key(finding.set.licence)
    # A finding about a file to be delivered holds until anything that goes into the file changes.
    map_ = finding.document.get("output") or (map_digest(finding.placement) if finding.placement else "")
    return finding.document["check"], finding.document["role"] or "", map_


def waiver_for(finding: Finding, in_force: Mapping[Key, Waiver]) -> Waiver | None:
    return in_force.get(_key(finding)) if in_force else None


def waive(project: Project, finding_pk: int, reason: str, until: date | None, by: Any) -> Waiver:
    """Live with a finding, for a reason; can be undone. Raises Conflict without one, or for a day that has passed."""
    reason = " ".join(reason.split())
    if not reason:
        raise Conflict("a waiver needs a reason")
    if len(reason) > _LONGEST_REASON:
        raise Conflict("a reason has at most {longest_reason} characters", longest_reason=_LONGEST_REASON)
    if until is not None and until < timezone.localdate():
        raise Conflict("{day} has passed", day=until.isoformat())
    with change(project, by, "") as doing:
        rows = Finding.objects.select_related("set", "placement__file").filter(set__project=project)
        finding = rows.filter(pk=finding_pk).first()
        if finding is None:
            raise Http404("There is no such finding any more; the set was judged again.")
        check, role, digest = _key(finding)
        doing.label = f"Waive {check.replace('_', ' ')} of {finding.set.name}"
        return doing.create(
            Waiver, set=finding.set, check_name=check, role=role, map_digest=digest, reason=reason, until=until, by=by
        )


def revoke(project: Project, pk: int, by: Any) -> None:
    """Take a waiver back; it is kept as history. Can be undone."""
    with change(project, by, "") as doing:
        waiver = doing.row(Waiver, pk)
        doing.label = f"Take back the waiver for {waiver.set.name}"
        doing.update(waiver, revoked=True)
