"""What waits in projects: counted for the overview of one, and for the list of all."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from datetime import datetime
from typing import Any, NamedTuple

from django.db.models import Count, Exists, F, OuterRef, QuerySet, Window
from django.db.models.functions import RowNumber
from typing_extensions import TypedDict

from studio.deliveries.models import Delivery
from studio.projects.models import Change, Membership, Project
from studio.sets.documents import core_sets
from studio.sets.models import Finding, Placement, TextureSet, Waiver
from studio.sets.waivers import waiver_for, waivers_in_force
from texel.checks.titles import title_of

__all__ = ["Line", "Standing", "Waits", "last_changes", "people_in", "since_delivery", "standing_of", "waits_in"]

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


class _WithFindings(NamedTuple):
    """A set, with those of its findings that count."""

    set: TextureSet
    findings: list[Finding]


def _each_with_findings(sets: Iterable[TextureSet]) -> Iterable[_WithFindings]:
    """Each set with its findings that count. Prefetch findings__placement__file and waivers__by first."""
    for one in sets:
        in_force = waivers_in_force(one)
        counting = [f for f in one.findings.all() if f.severity in _HARM and waiver_for(f, in_force) is None]
        yield _WithFindings(one, counting)


def _read(rows: QuerySet[TextureSet]) -> QuerySet[TextureSet]:
    return rows.prefetch_related("findings__placement__file", "placements__file", "waivers__by")


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
    for one, findings in _each_with_findings(_read(TextureSet.objects.filter(pk__in=apart))):
        yield one.project_id, one.judged == one.revision, {finding.severity for finding in findings}


def waits_in(projects: Collection[int]) -> dict[int, Waits]:
    """What waits in each of several projects."""
    open_files = _undecided(projects)
    found: dict[int, Waits] = {
        pk: {"errors": 0, "warnings": 0, "unchecked": 0, "undecided": open_files.get(pk, 0)} for pk in projects
    }
    for project, is_checked, harms in _severities(projects):
        if not is_checked:
            found[project]["unchecked"] += 1
        elif "error" in harms:
            found[project]["errors"] += 1
        elif harms:
            found[project]["warnings"] += 1
    return found


def standing_of(project: Project) -> Standing:
    """What waits in a project, the checks that found most harm first."""
    checks: dict[str, tuple[int, set[int]]] = {}
    count = 0
    for one, findings in _each_with_findings(_read(project.sets.all())):
        count += 1
        for finding in findings:
            harm, sets = checks.setdefault(finding.document["check"], (0, set()))
            sets.add(one.pk)
            checks[finding.document["check"]] = (max(harm, _HARM[finding.severity]), sets)
    words = {harm: severity for severity, harm in _HARM.items()}
    rows: list[CheckSets] = [
        {"check": check, "title": title_of(check), "severity": words[harm], "sets": len(sets)}
        for check, (harm, sets) in checks.items()
    ]
    rows.sort(key=lambda row: (-_HARM[row["severity"]], -row["sets"], row["title"]))
    return {"waiting": waits_in([project.pk])[project.pk], "sets": count, "checks": rows}


def _made_of(entry: Mapping[str, Any], sources: Mapping[str, str | None]) -> object:
    """What a delivery of a set depends on: of each map its source, what it is, and its steps."""
    maps = [
        (m["role"], sources.get(m["file"]), m.get("channel"), m.get("layer"), m.get("recipe", []))
        for m in entry["maps"]
    ]
    return entry["name"], maps, entry.get("licence")


def since_delivery(project: Project) -> tuple[list[int], list[int]]:
    """Ids of sets that differ from what was last delivered of them, and of those that were never delivered.

    A set differs where its name, its maps, their sources, their steps or its licence are others than in the newest
    whole delivery that holds it.
    """
    rows = list(project.sets.prefetch_related("placements__file__source"))
    left = {one.pk for one in rows}
    delivered: dict[int, object] = {}
    for delivery in Delivery.objects.filter(project=project, manifest__isnull=False).order_by("-number"):
        if not left:
            break
        for pk, entry in zip(delivery.set_ids, delivery.sets.get("sets", ()), strict=False):
            if pk in left:
                delivered[pk] = _made_of(entry, delivery.sets.get("files", {}))
                left.discard(pk)
    cores, files = core_sets(rows)
    sources = {key: placement.file.source_id for key, placement in files.items()}
    changed = [
        row.pk
        for row, core in zip(rows, cores, strict=True)
        if row.pk in delivered and delivered[row.pk] != _made_of(core.document(), sources)
    ]
    return changed, [row.pk for row in rows if row.pk not in delivered]


def last_changes(projects: Collection[int], each: int = _SHOWN_CHANGES) -> dict[int, list[Line]]:
    """The last changes of each project that were not undone, the newest first."""
    rank = Window(RowNumber(), partition_by=F("project"), order_by=F("id").desc())
    rows = Change.objects.filter(project__in=projects, undone=False).annotate(rank=rank).filter(rank__lte=each)
    found: dict[int, list[Line]] = {pk: [] for pk in projects}
    for project, label, by, at in rows.order_by("-id").values_list("project", "label", "by__username", "at"):
        found[project].append({"label": label, "by": by, "at": at})
    return found


def people_in(projects: Collection[int]) -> dict[int, list[str]]:
    """Names of the members of each project."""
    rows = Membership.objects.filter(project__in=projects).order_by("user__username")
    found: dict[int, list[str]] = {pk: [] for pk in projects}
    for pk, name in rows.values_list("project", "user__username"):
        found[pk].append(name)
    return found
