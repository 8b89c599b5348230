"""Which sets the house's rules keep out of a delivery: by their licence, by what was found about them, or
because nobody approved them."""

from __future__ import annotations

from collections.abc import Sequence

from studio.sets.licences import refused
from studio.sets.models import TextureSet
from studio.sets.rows import set_rows
from studio.team.reviews import unapproved
from texel.checks.finding import Severity, refusal_by_findings
from texel.delivery import Target

__all__ = ["kept_out"]


def kept_out(rows: Sequence[TextureSet], target: Target) -> dict[str, str]:
    """Why sets may not be delivered for a target, by their names. Findings that are waived do not count."""
    reasons: dict[str, str] = {}
    if target.refuses and rows:
        for row in set_rows(TextureSet.objects.filter(pk__in=[one.pk for one in rows])):
            if row.set.judged != row.set.revision:
                reasons[row.set.name] = "it is not checked yet, and this target takes checked sets only"
                continue
            told = [(Severity(one.severity), one.document["message"]) for one in row.open_findings()]
            reason = refusal_by_findings(told, Severity(target.refuses))
            if reason:
                reasons[row.set.name] = reason
    waiting = unapproved(rows[0].project, rows) if rows else {}
    return reasons | waiting | refused(rows)
