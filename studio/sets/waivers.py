"""Waivers: reasons to live with findings. One holds while its map stays what it was, up to its last day."""

from __future__ import annotations

from datetime import date

from django.utils import timezone

from studio.jobs.announce import announce
from studio.sets.editing import Conflict
from studio.sets.licences import licence_key
from studio.sets.models import Finding, TextureSet, Waiver
from studio.sets.pictures import map_digest

__all__ = ["revoke", "waive", "waiver_for", "waivers_in_force"]

_LONGEST_REASON = 500
_ABOUT_LICENCES = ("licence_unknown", "licence_refused", "credit_missing")
Key = tuple[str, str, str]


def waivers_in_force(one: TextureSet) -> dict[Key, Waiver]:
    """By check, role and digest of the map. Prefetch waivers__by first."""
    today = timezone.localdate()
    return {(row.check_name, row.role, row.map_digest): row for row in one.waivers.all() if row.holds_on(today)}


def _key(finding: Finding) -> Key:
    if finding.document["check"] in _ABOUT_LICENCES:
        return finding.document["check"], "", licence_key(finding.set)
    # A finding about a file to be delivered holds until anything that goes into the file changes.
    map_ = finding.document.get("output") or (map_digest(finding.placement) if finding.placement else "")
    return finding.document["check"], finding.document["role"] or "", map_


def waiver_for(finding: Finding, in_force: dict[Key, Waiver]) -> Waiver | None:
    return in_force.get(_key(finding)) if in_force else None


def waive(finding: Finding, reason: str, until: date | None, by) -> Waiver:
    """Live with a finding, for a reason. Raises Conflict without one, or for a day that has passed."""
    reason = " ".join(reason.split())
    if not reason:
        raise Conflict("a waiver needs a reason")
    if len(reason) > _LONGEST_REASON:
        raise Conflict(f"a reason has at most {_LONGEST_REASON} characters")
    if until is not None and until < timezone.localdate():
        raise Conflict(f"{until.isoformat()} has passed")
    check, role, digest = _key(finding)
    made = Waiver.objects.create(
        set=finding.set, check_name=check, role=role, map_digest=digest, reason=reason, until=until, by=by
    )
    announce(finding.set.project_id, "sets", id=finding.set_id)
    return made


def revoke(waiver: Waiver) -> None:
    """Take a waiver back; it is kept as history."""
    Waiver.objects.filter(pk=waiver.pk).update(revoked=True)
    announce(waiver.set.project_id, "sets", id=waiver.set_id)
