"""What waits in projects: counted for the overview of one, and for the list of all."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from datetime import datetime

from django.contrib.postgres.aggregates import BoolOr
from django.db.models import Count, F, Q, Window
from django.db.models.functions import RowNumber
from typing_extensions import TypedDict

from studio.projects.models import Change, Membership, Project
from studio.sets.models import Finding, Placement, TextureSet, Waiver
from studio.sets.rows import set_rows
from texel.checks.titles import title_of

__all__ = ["Line", "Standing", "Waits", "last_changes", "people_in", "standing_of", "waits_in"]

_SHOWN_CHANGES = 12
_HARM = {"warning": 1, "error": 2}


class Line(TypedDict):
    label: str
    by: str | None
    at: datetime


class Waits(TypedDict):
    errors: int
    warnings: int
    unchecked: int
    undecided: int


class CheckSets(TypedDict):
    check: str
    title: str
    severity: str
    sets: int


class Standing(TypedDict):
    """How a project's sets stand: what waits, and which checks found something in how many of them."""

    waiting: Waits
    sets: int
    checks: list[CheckSets]


def _undecided(projects: Collection[int]) -> dict[int, int]:
    rows = Placement.objects.filter(project__in=projects, set__isnull=True)
    return dict(rows.values_list("project").annotate(count=Count("pk")))


def _set_aside(projects: Collection[int]) -> list[int]:
    """Sets that somebody waived something of: what counts of their findings is told row by row."""
    rows = Waiver.objects.filter(set__project__in=projects, revoked=False)
    return list(rows.values_list("set", flat=True).distinct())


def waits_in(projects: Collection[int]) -> dict[int, Waits]:
    """What waits in each of several projects; counted by the database, but for sets with waivers."""
    open_files = _undecided(projects)
    waits: dict[int, Waits] = {
        pk: {"errors": 0, "warnings": 0, "unchecked": 0, "undecided": open_files.get(pk, 0)} for pk in projects
    }
    aside = _set_aside(projects)
    found = Finding.objects.filter(severity__in=_HARM).order_by()
    worst = found.values("set").annotate(error=BoolOr(Q(severity="error"))).values("set", "error")
    rows = TextureSet.objects.filter(project__in=projects).exclude(pk__in=aside)
    unchecked = rows.exclude(judged=F("revision")).values_list("project").annotate(count=Count("pk")).order_by()
    for project, count in unchecked:
        waits[project]["unchecked"] += count
    checked = worst.filter(set__project__in=projects, set__judged=F("set__revision")).exclude(set__in=aside)
    for project, error in checked.values_list("set__project", "error"):
        waits[project]["errors" if error else "warnings"] += 1
    for row in set_rows(TextureSet.objects.filter(pk__in=aside)):
        harms = {finding.severity for finding in row.open_findings() if finding.severity in _HARM}
        if row.set.judged != row.set.revision:
            waits[row.set.project_id]["unchecked"] += 1
        elif harms:
            waits[row.set.project_id]["errors" if "error" in harms else "warnings"] += 1
    return waits


def _harms(project: Project) -> Iterable[tuple[int, str, str]]:
    """Set, check and severity of each finding that counts. Only sets with waivers are read row by row."""
    waived = _set_aside([project.pk])
    rows = Finding.objects.filter(set__project=project, severity__in=_HARM).exclude(set__in=waived)
    yield from rows.order_by("rank").values_list("set", "document__check", "severity")
    for row in set_rows(project.sets.filter(pk__in=waived)):
        for finding in row.open_findings():
            if finding.severity in _HARM:
                yield row.set.pk, finding.document["check"], finding.severity


def standing_of(project: Project) -> Standing:
    """What waits in a project, the checks that found most harm first."""
    checks: dict[str, tuple[int, set[int]]] = {}
    for pk, check, severity in _harms(project):
        harm, sets = checks.setdefault(check, (0, set()))
        sets.add(pk)
        checks[check] = (max(harm, _HARM[severity]), sets)
    words = {harm: severity for severity, harm in _HARM.items()}
    rows: list[CheckSets] = [
        {"check": check, "title": title_of(check), "severity": words[harm], "sets": len(sets)}
        for check, (harm, sets) in checks.items()
    ]
    rows.sort(key=lambda row: (-_HARM[row["severity"]], -row["sets"], row["title"]))
    return {"waiting": waits_in([project.pk])[project.pk], "sets": project.sets.count(), "checks": rows}


def last_changes(projects: Collection[int], each: int = _SHOWN_CHANGES) -> dict[int, list[Line]]:
    """The last changes of each project that were not undone, the newest first."""
    rank = Window(RowNumber(), partition_by=F("project"), order_by=F("id").desc())
    rows = Change.objects.filter(project__in=projects, undone=False).annotate(rank=rank).filter(rank__lte=each)
    lines: dict[int, list[Line]] = {pk: [] for pk in projects}
    for project, label, by, at in rows.order_by("-id").values_list("project", "label", "by__username", "at"):
        lines[project].append({"label": label, "by": by, "at": at})
    return lines


def people_in(projects: Collection[int]) -> dict[int, list[str]]:
    """Names of the members of each project."""
    rows = Membership.objects.filter(project__in=projects).order_by("user__username")
    names: dict[int, list[str]] = {pk: [] for pk in projects}
    for pk, name in rows.values_list("project", "user__username"):
        names[pk].append(name)
    return names
