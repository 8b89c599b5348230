"""Sort an intake: the core decides, this writes down what it decided."""

from __future__ import annotations

from django.conf import settings
from django.db import transaction

from studio import store
from studio.intake.models import Intake, IntakeFile
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.sets.documents import probe_of
from studio.sets.editing import free_name
from studio.sets.judging import ask_to_judge
from studio.sets.licences import carry_licences
from studio.sets.models import Placement, TextureSet
from texel.library import Library
from texel.sorting import Sorted, sort_files

__all__ = ["sort_intake"]


def sort_intake(job: Job, progress: Progress) -> str:
    """The job "sort". All sets of an intake appear at once, or none."""
    intake = Intake.objects.get(pk=job.payload["intake"])
    files = {entry.path: entry for entry in intake.files.select_related("source")}
    with store.local_copies() as copies:
        sources = {path: entry.source for path, entry in files.items() if entry.source is not None}
        digests = {path: source.pk for path, source in sources.items()}
        probes = {path: probe_of(source) for path, source in sources.items() if source.probe}
        library = Library(store.Fetched(digests, copies), settings.PICTURE_LIMITS, digests, probes)
        seen = 0

        def on_file(file: str) -> None:
            nonlocal seen
            seen += 1
            progress.report(seen, len(digests), file)

        found = sort_files(library, intake.name, on_file)
    with transaction.atomic():
        progress.hold()
        sets = _write_down(intake, files, found)
        carry_licences(sets)
        Intake.objects.filter(pk=intake.pk).update(state=Intake.State.SORTED)
        ask_to_judge(intake.project, [one.pk for one in sets], job.by)
        announce(intake.project_id, "intake", id=intake.pk)
        announce(intake.project_id, "sets")
    return f"{len(sets)} sets, {len(found.undecided)} undecided"


def _write_down(intake: Intake, files: dict[str, IntakeFile], found: Sorted) -> list[TextureSet]:
    sets = []
    for one in found.sets:
        made = TextureSet.objects.create(project=intake.project, name=free_name(intake.project, one.name))
        Placement.objects.bulk_create(
            Placement(
                project=intake.project,
                intake=intake,
                file=files[ref.file],
                set=made,
                role=ref.role.value,
                channel=ref.channel or "",
                layer=ref.layer or "",
                order=order,
                confidence=ref.confidence,
                why=ref.why[:400],
            )
            for order, ref in enumerate(one.maps)
        )
        sets.append(made)
    Placement.objects.bulk_create(
        Placement(
            project=intake.project,
            intake=intake,
            file=files[left.file],
            why=left.why[:400],
            candidates=list(left.candidates),
        )
        for left in found.undecided
    )
    return sets
