"""Judge sets: run the core's checks in a worker, keep findings, first pictures and measured directions."""

from __future__ import annotations

from functools import partial

from django.db import transaction
from django.db.models import F

from studio import store
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.projects.models import Project
from studio.rules.models import table_of, target_for, wanted_of
from studio.sets.documents import core_sets, library_of
from studio.sets.greens import known_greens, remember_green
from studio.sets.models import Finding, Placement, TextureSet
from studio.sets.pictures import PRINT_SIDE, render
from studio.sets.twins import renew_twins
from texel.checks import Finding as CoreFinding
from texel.checks import Signed, in_order, judge_set
from texel.delivery import plan_delivery
from texel.delivery.checks import check_encodings
from texel.errors import TexelError
from texel.library import Library
from texel.pictures import BASE_SIDE, View
from texel.roles import Role
from texel.sets import TextureSet as CoreSet

__all__ = ["ask_to_judge", "judge_again", "judge_sets"]


def ask_to_judge(project: Project, set_ids: list[int], by=None) -> None:
    """Queue one job for each set, so that several workers share them and findings arrive one by one."""
    names = dict(TextureSet.objects.filter(pk__in=set_ids).values_list("pk", "name"))
    for pk in set_ids:
        if pk in names:
            enqueue(project, "judge", f"Judge {names[pk]}", by, sets=[pk])


def judge_again(project: Project, by=None) -> None:
    """Judge all sets of a project anew: what they are judged by has changed."""
    project.sets.update(judged=0)
    ask_to_judge(project, list(project.sets.values_list("pk", flat=True)), by)


def judge_sets(job: Job, progress: Progress) -> str:
    """The job "judge". Findings of a set that changed meanwhile are thrown away; its change asked for another job."""
    ids = job.payload["sets"]
    total = 0
    for index, pk in enumerate(ids):
        one = TextureSet.objects.filter(pk=pk).prefetch_related("placements__file__source").first()
        if one is not None and one.judged != one.revision:
            progress.report(index, len(ids), one.name)
            total += _judge(one, progress)
    return f"{total} findings"


def _judge(one: TextureSet, progress: Progress) -> int:
    sets, files = core_sets([one])
    with store.local_copies() as copies:
        library = library_of(files, copies)
        judged = judge_set(sets[0], library, wanted_of(one.project))
        _first_pictures(one, sets[0], library)
        remember_green(sets[0], library)
        findings = in_order([*judged.findings, *_of_delivery(one.project, sets[0], library)])
    placements = list(one.placements.all())
    with transaction.atomic():
        progress.hold()
        Project.objects.select_for_update().get(pk=one.project_id)
        unchanged = TextureSet.objects.select_for_update().filter(pk=one.pk, revision=one.revision)
        if not unchanged.update(judged=F("revision")):
            return 0
        one.findings.all().delete()
        Finding.objects.bulk_create(
            Finding(
                set=one,
                placement=_placement_of(finding, placements, files),
                rank=rank,
                severity=finding.severity.value,
                document=finding.document(),
            )
            for rank, finding in enumerate(findings)
        )
        _sign(placements, judged.signed, files)
        for pk in (one.pk, *renew_twins(one)):
            announce(one.project_id, "sets", id=pk)
    return len(findings)


def _of_delivery(project: Project, one: CoreSet, library: Library) -> list[CoreFinding]:
    """What the project's target would get wrong in delivering the set, by the project's table of formats."""
    try:
        plan = plan_delivery([one], library, target_for(project, project.target), None, known_greens([one], library))
        return check_encodings(plan, library, table_of(project))
    except (TexelError, OSError):
        return []  # the checks have said why it cannot be delivered


def _placement_of(finding, placements: list[Placement], files: dict[str, Placement]) -> Placement | None:
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


def _sign(placements: list[Placement], signed: list[Signed], files: dict[str, Placement]) -> None:
    """Keep the signatures of the maps in use; those that were in use before lose theirs."""
    found = {}
    for one in signed:
        row = _first(placements, one.role, files[one.file].file.path)
        if row is not None:
            found[row.pk] = one.signature
    for row in placements:
        row.signature = found.get(row.pk)
    Placement.objects.bulk_update(placements, ["signature"])


def _first_pictures(one: TextureSet, core, library) -> None:
    """The roll's prints and the first look at large maps, made here so that the page finds them ready."""
    for placement, ref in zip(sorted(one.placements.all(), key=lambda p: (p.order, p.pk)), core.maps, strict=True):
        try:
            render(placement, View(side=PRINT_SIDE), partial(library.map, ref))
            shape = library.shape(ref)
            if max(shape.width, shape.height) > BASE_SIDE:
                render(placement, View(side=BASE_SIDE), partial(library.map, ref))
        except (TexelError, OSError):
            continue  # the checks have said so
