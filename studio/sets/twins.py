"""Twins between sets of a project: found again for one set each time it is judged, and told on both sides."""

from __future__ import annotations

from collections.abc import Iterable

from django.db.models import Max

from studio.sets.models import Finding, Placement, TextureSet
from texel.checks import Signed, twin_finding, twins_across
from texel.checks.twins import Twin
from texel.roles import Role

__all__ = ["renew_twins"]

_CHECK = "twin_across_project"


def _in_use(project_id: int) -> dict[tuple[int, str], Placement]:
    """The signed maps in use, by set and role."""
    rows = Placement.objects.filter(project_id=project_id, set__isnull=False).select_related("set", "file")
    found: dict[tuple[int, str], Placement] = {}
    for row in rows.order_by("order", "pk"):
        found.setdefault((row.set_id or 0, row.role), row)
    return {key: row for key, row in found.items() if row.signature is not None}


def _signed(rows: Iterable[Placement]) -> dict[Signed, Placement]:
    return {
        Signed(str(row.set_id), Role(row.role), row.file.path, bytes(row.signature or b"")): row for row in rows
    }  # fmt: skip


def renew_twins(one: TextureSet) -> set[int]:
    """Findings about twins that one set is part of, on both sides. Call it in a transaction that holds the project.

    Returns the other sets whose findings changed.
    """
    rows = _in_use(one.project_id).values()
    mine, theirs = (_signed(r for r in rows if (r.set_id == one.pk) is side) for side in (True, False))
    before = Finding.objects.filter(set__project_id=one.project_id, document__check=_CHECK)
    gone = before.filter(set=one) | before.filter(document__other=one.pk)
    touched = set(gone.values_list("set_id", flat=True))
    gone.delete()
    for twin in twins_across(mine, theirs):
        for first, second in ((twin.first, twin.second), (twin.second, twin.first)):
            _tell(Twin(first, second, twin.measure, twin.inverted), {**mine, **theirs})
            touched.add(int(first.set))
    return touched - {one.pk}


def _tell(twin: Twin, rows: dict[Signed, Placement]) -> None:
    row, other = rows[twin.first], rows[twin.second]
    assert row.set is not None, "signed maps are in sets"
    assert other.set is not None, "signed maps are in sets"
    named = twin._replace(first=twin.first._replace(set=row.set.name), second=twin.second._replace(set=other.set.name))
    finding = twin_finding(named)
    rank = (row.set.findings.aggregate(last=Max("rank"))["last"] or 0) + 1
    document = finding.document() | {"other": other.set_id}
    Finding.objects.create(
        set=row.set, placement=row, rank=rank, severity=finding.severity.value, document=document
    )  # fmt: skip
