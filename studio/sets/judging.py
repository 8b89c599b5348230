"""Judge sets: run the core's checks in a worker, keep findings, first pictures and measured directions."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from functools import partial
from typing import Any, NamedTuple

from django.conf import settings
from django.db import connection, transaction
from django.db.models import F

from studio import store
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.jobs.sharing import share_out
from studio.projects.locking import share_project
from studio.projects.models import Project
from studio.rules.models import table_of, target_for, wanted_of
from studio.sets.documents import core_sets, library_of
from studio.sets.greens import known_greens, remember_green
from studio.sets.models import Finding, Placement, TextureSet
from studio.sets.pictures import PRINT_SIDE, render
from studio.sets.twins import renew_twins
from texel.checks import Finding as CoreFinding
from texel.checks import Severity, Signed, Wanted, in_order, judge_set, tone_of
from texel.compression import FormatTable
from texel.delivery import Target, plan_delivery
from texel.delivery.checks import check_encodings
from texel.errors import TexelError
from texel.library import Library
from texel.messages import message_of
from texel.pictures import BASE_SIDE, View
from texel.roles import Role
from texel.sets import TextureSet as CoreSet

__all__ = ["ask_to_judge", "judge_again", "judge_sets"]


# Sets whose findings are written down in one go: of small ones, that takes longer than judging them.
_TOGETHER = 8


def ask_to_judge(project: Project, set_ids: list[int], by: Any = None) -> None:
    """Queue one job for some sets: one progress to look at, and one search for twins."""
    names = dict(TextureSet.objects.filter(pk__in=set_ids).values_list("pk", "name"))
    if names:
        what = next(iter(names.values())) if len(names) == 1 else f"{len(names)} sets"
        enqueue(project, "judge", f"Judge {what}", by, sets=sorted(names, key=lambda pk: (names[pk].lower(), pk)))


def judge_again(project: Project, by: Any = None) -> None:
    """Judge all sets of a project anew: what they are judged by has changed. Their revisions grow, so that findings by
    the old rules that a worker is about to write down are thrown away."""
    project.sets.update(revision=F("revision") + 1)
    ask_to_judge(project, list(project.sets.values_list("pk", flat=True)), by)


@job_kind("judge", minutes=240, priority=0)
def judge_sets(job: Job, progress: Progress) -> str:
    """The job "judge": sets are shared out over the cores, and findings appear set by set.

    Findings of a set that changed meanwhile are thrown away; its change asked for another job. A set whose files end
    the reader's process is told so, and the others go on.
    """
    wanted = TextureSet.objects.filter(pk__in=job.payload["sets"])
    stale = {pk for pk, judged, revision in wanted.values_list("pk", "judged", "revision") if judged != revision}
    ids = [pk for pk in job.payload["sets"] if pk in stale]
    work = partial(_judge_some, job.pk, progress.attempt, _Rules.of(job.project))
    done = share_out(_groups(ids), work, progress, settings.JUDGE_PROCESSES)
    count = done.total
    ended = [group[0] for group in done.ended if len(group) == 1]
    again = [(pk,) for group in done.ended if len(group) > 1 for pk in group]
    if again:
        # One of a group has ended its process: each alone shows which.
        alone = share_out(again, work, progress, settings.JUDGE_PROCESSES, apart=True)
        count += alone.total
        ended += [group[0] for group in alone.ended]
    for one in TextureSet.objects.filter(pk__in=ended):
        _keep([_Judged(one, [_ended(one)], [], {})], progress)
    with transaction.atomic():
        progress.hold_lease()
        Project.objects.select_for_update().get(pk=job.project_id)
        for pk in renew_twins(job.project, ids):
            announce(job.project_id, "sets", id=pk)
        announce(job.project_id, "sets")
    return f"{count} findings"


def _ended(one: TextureSet) -> CoreFinding:
    return CoreFinding("unreadable", Severity.ERROR, one.name, message_of("process_ended"))


class _Rules(NamedTuple):
    """What all sets of a project are judged by, read once for a job."""

    wanted: Wanted
    target: Target
    table: FormatTable

    @classmethod
    def of(cls, project: Project) -> _Rules:
        waiting: dict[str, list[tuple[str, frozenset[Role]]]] = defaultdict(list)
        undecided = project.placements.filter(set__isnull=True).values_list("file__path", "candidates")
        for path, candidates in undecided:
            for name in {one["set"] for one in candidates}:
                waiting[name].append((path, frozenset(Role(c["role"]) for c in candidates if c["set"] == name)))
        wanted = replace(wanted_of(project), undecided={name: tuple(files) for name, files in waiting.items()})
        return cls(wanted, target_for(project, project.target), table_of(project))


class _Judged(NamedTuple):
    """A set as it was read, and what was found in it. files: a placement for each file key of the core's set."""

    one: TextureSet
    findings: list[CoreFinding]
    signed: list[Signed]
    files: dict[str, Placement]


def _groups(ids: list[int]) -> list[tuple[int, ...]]:
    """Sets that are read and written down together: few enough that findings appear soon, and every process has some
    to do to the end."""
    size = min(_TOGETHER, max(1, len(ids) // (4 * max(1, settings.JUDGE_PROCESSES))))
    return [tuple(ids[at : at + size]) for at in range(0, len(ids), size)]


def _judge_some(job_id: int, attempt: int, rules: _Rules, ids: tuple[int, ...]) -> int:
    """Judge some sets and keep what was found; returns how many findings. Raises LeaseLost."""
    rows = TextureSet.objects.filter(pk__in=ids).exclude(judged=F("revision")).order_by("pk")
    judged = [_judge(one, rules) for one in rows.prefetch_related("placements__file__source")]
    return _keep(judged, Progress(Job(pk=job_id), attempt))


def _judge(one: TextureSet, rules: _Rules) -> _Judged:
    sets, files = core_sets([one])
    with store.local_copies() as copies:
        library = library_of(files, copies)
        judged = judge_set(sets[0], library, rules.wanted)
        _first_pictures(one, sets[0], library)
        remember_green(sets[0], library)
        findings = in_order([*judged.findings, *_of_delivery(rules, sets[0], library)])
    return _Judged(one, findings, judged.signed, files)


def _keep(judged: list[_Judged], progress: Progress) -> int:
    """Write down the findings of sets, but for those that have changed since they were read. Returns how many
    findings. Raises LeaseLost."""
    with transaction.atomic():
        for project in {one.one.project_id for one in judged}:
            share_project(project)
        rows = TextureSet.objects.select_for_update(of=("self",)).filter(pk__in=[one.one.pk for one in judged])
        now = dict(rows.order_by("pk").values_list("pk", "revision"))
        kept = [one for one in judged if now.get(one.one.pk) == one.one.revision]
        TextureSet.objects.filter(pk__in=[one.one.pk for one in kept]).update(judged=F("revision"))
        Finding.objects.filter(set__in=[one.one.pk for one in kept]).delete()
        Finding.objects.bulk_create(row for one in kept for row in _rows_of(one))
        _sign(kept)
        for one in kept:
            announce(one.one.project_id, "sets", id=one.one.pk)
        # Last, so that those who share the work wait shortly for each other; LeaseLost takes all of it back.
        progress.hold_lease()
    return sum(len(one.findings) for one in kept)


def _rows_of(judged: _Judged) -> list[Finding]:
    placements = list(judged.one.placements.all())
    return [
        Finding(
            set=judged.one,
            placement=_placement_of(finding, placements, judged.files),
            rank=rank,
            severity=finding.severity.value,
            document=finding.document(),
        )
        for rank, finding in enumerate(judged.findings)
    ]


def _of_delivery(rules: _Rules, one: CoreSet, library: Library) -> list[CoreFinding]:
    """What the project's target would get wrong in delivering the set, by the project's table of formats."""
    try:
        plan = plan_delivery([one], library, rules.target, None, known_greens([one], library))
        return check_encodings(plan, library, rules.table)
    except (TexelError, OSError):
        return []  # the checks have said why it cannot be delivered


def _placement_of(finding: CoreFinding, placements: list[Placement], files: dict[str, Placement]) -> Placement | None:
    if finding.role is None or finding.file is None:
        return None
    if finding.output is not None:
        # Told of a file to be delivered: shown on the map that goes into it.
        return next((p for p in sorted(placements, key=lambda p: (p.order, p.pk)) if p.role == finding.role), None)
    path = files[finding.file].file.path
    return _first(placements, finding.role, path)


def _first(placements: list[Placement], role: Role, path: str) -> Placement | None:
    ordered = sorted(placements, key=lambda p: (p.order, p.pk))
    return next((p for p in ordered if p.role == role.value and p.file.path == path), None)


def _sign(judged: list[_Judged]) -> None:
    """Keep the signatures of the maps in use; those that were in use before lose theirs."""
    changed: list[tuple[bytes | None, float | None, int]] = []
    for one in judged:
        placements = list(one.one.placements.all())
        signatures = {}
        for signed in one.signed:
            row = _first(placements, signed.role, one.files[signed.file].file.path)
            if row is not None:
                signatures[row.pk] = signed.signature
        changed += [
            (signature, tone_of(signature) if signature else None, row.pk)
            for row in placements
            if (signature := signatures.get(row.pk)) != (bytes(row.signature) if row.signature else None)
        ]
    # One statement for each row, sent together: ten times as quick as one that tells rows apart by case.
    with connection.cursor() as cursor:
        cursor.executemany("UPDATE sets_placement SET signature = %s, tone = %s WHERE id = %s", changed)


def _first_pictures(one: TextureSet, core: CoreSet, library: Library) -> None:
    """The small pictures of the list and the first look at large maps, made here so that the page finds them ready."""
    for placement, ref in zip(sorted(one.placements.all(), key=lambda p: (p.order, p.pk)), core.maps, strict=True):
        try:
            render(placement, View(side=PRINT_SIDE), partial(library.map, ref))
            shape = library.shape(ref)
            if max(shape.width, shape.height) > BASE_SIDE:
                render(placement, View(side=BASE_SIDE), partial(library.map, ref))
        except (TexelError, OSError):
            continue  # the checks have said so
