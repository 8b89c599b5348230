"""Twins between sets of a project: found again for sets that were judged, and told on both sides."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable

from django.db.models import Max, Q, QuerySet

from studio.projects.models import Project
from studio.sets.models import Finding, Placement
from texel.checks import TONE_APART, Signed, twin_finding, twins_across
from texel.checks.twins import Twin
from texel.roles import Role

__all__ = ["renew_twins"]

_CHECK = "twin_across_project"
# For fewer maps than this, others of their tones are asked for one by one; for more, all of the project's.
_FEW = 200


def _signed_rows(project: Project) -> QuerySet[Placement]:
    """Maps with a signature: only those in use have one."""
    rows = Placement.objects.filter(project=project, set__isnull=False, signature__isnull=False)
    return rows.select_related("set", "file").order_by("order", "pk")


def _of_tones(project: Project, mine: Collection[Placement]) -> Iterable[Placement]:
    rows = _signed_rows(project)
    if len(mine) > _FEW:
        return rows
    wanted = Q()
    for row in mine:
        if row.tone is not None:
            apart = TONE_APART + 0.1
            wanted |= Q(tone__range=(row.tone - apart, row.tone + apart))
            wanted |= Q(tone__range=(255 - row.tone - apart, 255 - row.tone + apart))
    # Signed before tones were kept: their sets are judged again sooner or later.
    return rows.filter(wanted | Q(tone__isnull=True)) if mine else []


def _signed(rows: Iterable[Placement]) -> dict[Signed, Placement]:
    # The file's number, so that a file that two sets share is not taken for its own twin.
    return {
        Signed(str(row.set_id), Role(row.role), str(row.file_id), bytes(row.signature or b"")): row for row in rows
    }  # fmt: skip


def renew_twins(project: Project, sets: Collection[int]) -> set[int]:
    """Findings about twins that some sets are part of, on both sides. Call it in a transaction that holds the project.

    Returns the other sets whose findings changed.
    """
    mine = list(_signed_rows(project).filter(set__in=sets))
    before = Finding.objects.filter(set__project=project, document__check=_CHECK)
    gone = before.filter(Q(set__in=sets) | Q(document__other__in=list(sets)))
    touched = set(gone.values_list("set_id", flat=True))
    gone.delete()
    some, others = _signed(mine), _signed(_of_tones(project, mine))
    rows = {**others, **some}
    told: dict[int, list[Finding]] = defaultdict(list)
    seen: set[tuple[int, int]] = set()
    for twin in twins_across(some, others):
        for first, second in ((twin.first, twin.second), (twin.second, twin.first)):
            pair = rows[first].pk, rows[second].pk
            if pair not in seen:
                seen.add(pair)
                told[int(first.set)].append(_finding(Twin(first, second, twin.measure, twin.inverted), rows))
    last = dict(Finding.objects.filter(set__in=told).values_list("set").annotate(last=Max("rank")))
    for set_id, findings in told.items():
        for rank, finding in enumerate(findings, last.get(set_id, -1) + 1):
            finding.rank = rank
    Finding.objects.bulk_create([finding for findings in told.values() for finding in findings])
    return (touched | set(told)) - set(sets)


def _finding(twin: Twin, rows: dict[Signed, Placement]) -> Finding:
    row, other = rows[twin.first], rows[twin.second]
    assert row.set is not None, "signed maps are in sets"
    assert other.set is not None, "signed maps are in sets"
    named = twin._replace(
        first=twin.first._replace(set=row.set.name, file=row.file.path),
        second=twin.second._replace(set=other.set.name, file=other.file.path),
    )
    finding = twin_finding(named)
    document = finding.document() | {"other": other.set_id}
    return Finding(set=row.set, placement=row, rank=0, severity=finding.severity.value, document=document)
