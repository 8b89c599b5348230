"""Sets with all that is said of them, read in a handful of queries however many they are."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.db.models import Exists, OuterRef, Prefetch, QuerySet

from studio.intake.models import FileName
from studio.projects.models import Project
from studio.sets.models import Finding, Placement, TextureSet, Waiver
from studio.sets.waivers import Key, waiver_for, waivers_in_force

__all__ = ["MAPS", "SetRow", "first_of", "set_rows", "sets_with"]

_MOST_WORDS = 6


_Sets = QuerySet[TextureSet]
# Maps with files and sources: for prefetch_related, in one query in place of three, without what only lists show.
MAPS = Prefetch("placements", Placement.objects.select_related("file__source").defer("signature", "candidates"))


@dataclass(frozen=True, slots=True)
class SetRow:
    """A set, its maps in their order, its findings by rank, the waivers that hold, former names by file id."""

    set: TextureSet
    maps: Sequence[Placement]
    findings: Sequence[Finding]
    in_force: Mapping[Key, Waiver]
    old_names: Mapping[int, Sequence[str]]

    def open_findings(self) -> list[Finding]:
        """Those that no waiver covers."""
        return [one for one in self.findings if waiver_for(one, self.in_force) is None]


def sets_with(project: Project, words: str = "", severity: str | None = None) -> _Sets:
    """Sets of a project that have all of the words in their name, and a finding of a severity, where one is asked for.
    By an index of parts of names (PostgreSQL, pg_trgm)."""
    rows: _Sets = project.sets.all()
    for word in words.split()[:_MOST_WORDS]:
        rows = rows.filter(name__iregex=re.escape(word))
    if severity:
        rows = rows.filter(Exists(Finding.objects.filter(set=OuterRef("pk"), severity=severity)))
    return rows


def first_of(rows: _Sets, count: int) -> _Sets:
    """The first of some sets, as rows that can be asked further."""
    ids = list(rows.values_list("pk", flat=True)[: max(1, count)])
    return TextureSet.objects.filter(pk__in=ids)


def _old_names(rows: QuerySet[TextureSet]) -> dict[int, list[str]]:
    names: dict[int, list[str]] = defaultdict(list)
    for file, path in (
        FileName.objects.filter(file__placements__set__in=rows.order_by().values("pk"))
        .distinct()
        .order_by("id")
        .values_list("file", "path")
    ):
        names[file].append(path)
    return names


def set_rows(rows: _Sets) -> list[SetRow]:
    """The sets in the order of ``rows``, with all that is said of each; five queries however many they are.

    Rows are put together here: Django's own way takes several times as long for hundreds of sets.

        set_rows(project.sets.all())[0].open_findings()
    """
    sets = list(rows)
    ids = rows.order_by().values("pk")
    maps: dict[int, list[Placement]] = defaultdict(list)
    placements = Placement.objects.filter(set__in=ids).select_related("file__source").defer("signature", "candidates")
    for placement in placements.order_by("order", "pk"):
        maps[placement.set_id or 0].append(placement)
    findings: dict[int, list[Finding]] = defaultdict(list)
    for finding in Finding.objects.filter(set__in=ids).order_by("rank"):
        findings[finding.set_id].append(finding)
    waivers: dict[int, list[Waiver]] = defaultdict(list)
    for waiver in Waiver.objects.filter(set__in=ids, revoked=False).select_related("by"):
        waivers[waiver.set_id].append(waiver)
    old_names = _old_names(rows)
    read = []
    for one in sets:
        in_force = waivers_in_force(waivers[one.pk])
        if in_force:  # what they hold for depends on each finding's map
            by_pk = {placement.pk: placement for placement in maps[one.pk]}
            for finding in findings[one.pk]:
                finding.set = one
                if finding.placement_id in by_pk:
                    finding.placement = by_pk[finding.placement_id]
        read.append(SetRow(one, maps[one.pk], findings[one.pk], in_force, old_names))
    return read
