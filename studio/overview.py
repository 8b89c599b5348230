"""What waits in projects: counted for the overview of one, and for the list of all."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from datetime import datetime

from django.db.models import Count, Exists, F, OuterRef, Window
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


def _severities(projects: Collection[int]) -> Iterable[tuple[int, bool, set[str]]]:
    """Of each set its project, whether its findings speak of it as it is, and how bad those are that count.

    Only sets that somebody waived something of are read row by row.
    """
    rows = TextureSet.objects.filter(project__in=projects)
    of = Finding.objects.filter(set=OuterRef("pk"))
    rows = rows.annotate(
        error=Exists(of.filter(severity="error")), warning=Exists(of.filter(severity="warning")),
        waived=Exists(Waiver.objects.filter(set=OuterRef("pk"), revoked=False)),
    )  # fmt: skip
    apart = []
    for pk, project, judged, revision, error, warning, waived in rows.values_list(
        "pk", "project", "judged", "revision", "error", "warning", "waived"
    ):
        if waived:
            apart.append(pk)
        else:
            yield (
                project,
                judged == revision,
                {harm for harm, there in (("error", error), ("warning", warning)) if there},
            )
    for row in set_rows(TextureSet.objects.filter(pk__in=apart)):
        harms = {finding.severity for finding in row.open_findings() if finding.severity in _HARM}
        yield row.set.project_id, row.set.judged == row.set.revision, harms


def waits_in(projects: Collection[int]) -> dict[int, Waits]:
    """What waits in each of several projects."""
    open_files = _undecided(projects)
    waits: dict[int, Waits] = {
        pk: {"errors": 0, "warnings": 0, "unchecked": 0, "undecided": open_files.get(pk, 0)} for pk in projects
    }
    for project, is_checked, harms in _severities(projects):
        if not is_checked:
            waits[project]["unchecked"] += 1
        elif "error" in harms:
            waits[project]["errors"] += 1
        elif harms:
            waits[project]["warnings"] += 1
    return waits


def _harms(project: Project) -> Iterable[tuple[int, str, str]]:
    """Set, check and severity of each finding that counts. Only sets with waivers are read row by row."""
    waived = list(Waiver.objects.filter(set__project=project, revoked=False).values_list("set", flat=True).distinct())
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
