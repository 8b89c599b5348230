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
from studio.sets.documents import core_sets, library_of
from studio.sets.greens import remember_green
from studio.sets.models import Finding, Placement, TextureSet
from studio.sets.pictures import PRINT_SIDE, render
from texel.checks import check_sets
from texel.errors import TexelError
from texel.pictures import BASE_SIDE, View

__all__ = ["ask_to_judge", "judge_sets"]


def ask_to_judge(project: Project, set_ids: list[int], by=None) -> None:
    """Queue one job for each set, so that several workers share them and findings arrive one by one."""
    names = dict(TextureSet.objects.filter(pk__in=set_ids).values_list("pk", "name"))
    for pk in set_ids:
        if pk in names:
            enqueue(project, "judge", f"Judge {names[pk]}", by, sets=[pk])


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
        findings = check_sets(sets, library)
        _first_pictures(one, sets[0], library)
        remember_green(sets[0], library)
    placements = list(one.placements.all())
    with transaction.atomic():
        progress.hold()
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
        announce(one.project_id, "sets", id=one.pk)
    return len(findings)


def _placement_of(finding, placements: list[Placement], files: dict[str, Placement]) -> Placement | None:
    if finding.role is None or finding.file is None:
        return None
    path = files[finding.file].file.path
    for placement in sorted(placements, key=lambda p: (p.order, p.pk)):
        if placement.role == finding.role.value and placement.file.path == path:
            return placement
    return None


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
