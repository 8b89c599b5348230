"""Take surfaces of a scan library in, or their newer revisions: fetched in a job that goes on where it broke off."""

from __future__ import annotations

import shutil
from collections.abc import Sequence
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files.base import File
from django.db import transaction

from studio.changes.engine import Doing, change
from studio.changes.errors import Conflict
from studio.intake.models import Intake, IntakeFile
from studio.intake.uploads import Arrived, UploadRejected, add_arrived, arrive, room_for
from studio.intake.versions import replace
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.projects.models import Project
from studio.rules.models import licences_of
from studio.scans.accounts import library_of
from studio.scans.client import Library
from studio.scans.models import Scan, ScanFile
from studio.sets.models import TextureSet
from studio.sorting.intakes import sort_more
from texel.document_types import ScanLicence, ScanResolution, ScanSurfaceDocument
from texel.errors import BadDocument, TexelError
from texel.licences import Licence, Objection, objection

__all__ = [
    "ask_for_newer",
    "look_for_newer",
    "objection_to",
    "order_newer",
    "order_scan",
    "resume",
    "sets_of",
    "take_scan",
]


def objection_to(project: Project, licence: ScanLicence) -> Objection | None:
    """What the project's rules have against the terms of a surface."""
    return objection(Licence(licence["name"], licence.get("credit", "")), licences_of(project))


def _must_be_allowed(project: Project, surface: ScanSurfaceDocument) -> None:
    """Raises Conflict for a surface that the project may not use."""
    told = objection_to(project, surface["licence"])
    if told is not None and told.refuses:
        raise Conflict("{title} is not taken in: {message}", title=surface["title"], message=told.message)


def _resolution(surface: ScanSurfaceDocument, pixels: int) -> ScanResolution:
    """Raises BadDocument for one that the surface does not come in."""
    for one in surface["resolutions"]:
        if one["pixels"] == pixels:
            for key in ("map", "name"):
                if len({file[key].lower() for file in one["files"]}) < len(one["files"]):
                    raise BadDocument(
                        "{title} has two files of one {key} at {pixels} pixels",
                        title=surface["title"],
                        key=key,
                        pixels=pixels,
                    )
            return one
    offered = ", ".join(str(one["pixels"]) for one in surface["resolutions"])
    raise BadDocument(
        "{title} comes {offered} pixels wide, not {pixels}", title=surface["title"], offered=offered, pixels=pixels
    )


def order_scan(project: Project, library: str, surface: ScanSurfaceDocument, pixels: int, by: Any) -> Scan:
    """Queue taking a surface in. Raises Conflict where the licence forbids it or it is in already, BadDocument."""
    _must_be_allowed(project, surface)
    _resolution(surface, pixels)
    with transaction.atomic():
        Project.objects.select_for_update(no_key=True).get(pk=project.pk)
        one, made = Scan.objects.get_or_create(
            project=project, library=library, surface=surface["id"], defaults={"title": surface["title"], "by": by}
        )
        if not made and one.revision and one.intake is not None:
            raise Conflict(
                "{title} is in this project already; take its newer revision or another resolution", title=one.title
            )
        Scan.objects.filter(pk=one.pk).update(by=by, title=surface["title"])
        _queue(one, pixels, by)
    return one


def order_newer(one: Scan, pixels: int | None, by: Any) -> Scan:
    """Queue taking in the newest revision, or another resolution, in place of what is there. Raises Conflict."""
    if not one.revision:
        raise Conflict("{title} was not taken in yet", title=one.title)
    with transaction.atomic():
        _queue(one, pixels or one.pixels, by)
    return one


def resume(one: Scan, by: Any) -> Scan:
    """Go on with what broke off; what came is not fetched again. Raises Conflict where nothing did."""
    if one.job is None or one.job.state not in (Job.State.FAILED, Job.State.CANCELLED):
        raise Conflict("{title}: there is nothing to go on with", title=one.title)
    with transaction.atomic():
        _queue(one, int(one.job.payload["pixels"]), by)
    return one


def _queue(one: Scan, pixels: int, by: Any) -> None:
    """Call it in a transaction."""
    # Two people may have seen the same state: the second is told.
    one.job = Scan.objects.select_for_update(of=("self",)).select_related("job").get(pk=one.pk).job
    if one.job is not None and one.job.state not in Job.ENDED:
        raise Conflict("{title} is being fetched already", title=one.title)
    one.job = enqueue(one.project, "scan", f"Fetch {one.title} from {one.library}", by, scan=one.pk, pixels=pixels)
    one.save(update_fields=["job"])
    announce(one.project_id, "scans", id=one.pk)


def _lost(job: Job) -> None:
    Intake.objects.filter(scan=job.payload["scan"], state=Intake.State.SORTING).update(state=Intake.State.FAILED)
    announce(job.project_id, "scans", id=job.payload["scan"])


@job_kind("scan", minutes=240, on_loss=_lost)
def take_scan(job: Job, progress: Progress) -> str:
    """The job "scan": fetch the files of a surface, then take all of them in at once.

    payload: scan; pixels: the resolution.
    """
    one = Scan.objects.select_related("project", "intake").get(pk=job.payload["scan"])
    library = library_of(job.by_id, one.library)
    surface = library.surface(one.surface)
    _must_be_allowed(one.project, surface)
    resolution = _resolution(surface, int(job.payload["pixels"]))
    # Kept over interruptions, on the machine that began.
    folder = Path(settings.HOME) / "scans" / f"{one.pk}-{surface['revision']}-{resolution['pixels']}"
    folder.mkdir(parents=True, exist_ok=True)
    _fetch(library, surface, resolution, folder, one, progress)
    with ExitStack() as stack:
        intake = one.intake or _new_intake(one, job)
        new = _take_in(one, intake, surface, resolution, folder, stack, progress, job.by)
    # What an attempt before this one took and did not sort is sorted now.
    if new or intake.files.filter(problem="", placements=None).exists():
        label = f"Take in {one.title}"
        sort_more(intake, job.by, label, progress, lambda doing: _say_terms(doing, intake, surface))
    with transaction.atomic():
        progress.hold_lease()
        Scan.objects.filter(pk=one.pk).update(
            revision=surface["revision"], newest=surface["revision"], pixels=resolution["pixels"]
        )
        announce(one.project_id, "scans", id=one.pk)
    shutil.rmtree(folder, ignore_errors=True)
    return f"revision {surface['revision']}, {resolution['pixels']} pixels wide"


def _fetch(
    library: Library, surface: ScanSurfaceDocument, resolution: ScanResolution, folder: Path, one: Scan,
    progress: Progress,
) -> None:  # fmt: skip
    total = sum(file["bytes"] for file in resolution["files"])
    if total > settings.MAX_UNPACKED_BYTES:
        raise BadDocument(
            "{title} is larger than the {most} MB that are taken",
            title=one.title,
            most=settings.MAX_UNPACKED_BYTES >> 20,
        )
    room_for(one.intake or Intake(project=one.project, by=one.by), total)
    done = 0
    for file in resolution["files"]:
        # Names are the library's, and could be anything.
        path = folder / file["sha256"]

        def on_bytes(have: int, before: int = done, name: str = file["name"]) -> None:
            progress.report(before + have, total, name)

        if not path.exists() or path.stat().st_size != file["bytes"]:
            library.fetch(one.surface, resolution["pixels"], file, path, on_bytes)
        done += file["bytes"]


def _new_intake(one: Scan, job: Job) -> Intake:
    with transaction.atomic():
        intake = Intake.objects.create(project=one.project, name=one.title, by=job.by, state=Intake.State.SORTING)
        Scan.objects.filter(pk=one.pk).update(intake=intake)
        announce(one.project_id, "intake")
    return intake


def _take_in(
    one: Scan, intake: Intake, surface: ScanSurfaceDocument, resolution: ScanResolution, folder: Path,
    stack: ExitStack, progress: Progress, by: Any,
) -> bool:  # fmt: skip
    """The fetched files as contents of the intake's; whether any is new. One change."""
    arrived: list[tuple[str, Arrived]] = []
    for file in resolution["files"]:
        path = folder / file["sha256"]
        got = arrive(intake, file["name"], stack.enter_context(File(path.open("rb"), name=str(path))))
        if got.problem:
            raise UploadRejected("{problem}", problem=got.problem)
        arrived.append((file["map"], got))
    label = f"{one.title}, revision {surface['revision']}"
    new = False
    with transaction.atomic(), change(one.project, by, label) as doing:
        progress.hold_lease()
        known = {row.map: row.file for row in one.files.select_related("file")}
        for word, got in arrived:
            if word in known:
                _renew(doing, known[word], got, f"revision {surface['revision']} in {one.library}")
            else:
                ScanFile.objects.create(scan=one, map=word, file=add_arrived(intake, got))
                new = True
        if not new:
            _say_terms(doing, intake, surface)
    return new


def _renew(doing: Doing, entry: IntakeFile, got: Arrived, origin: str) -> None:
    replace(doing, entry, got, origin)
    # Its name says the resolution; one that a person gave it stays.
    if entry.path == entry.came_as != got.path and not entry.intake.files.filter(path=got.path).exists():
        doing.update(entry, path=got.path, came_as=got.path)


def _say_terms(doing: Doing, intake: Intake, surface: ScanSurfaceDocument) -> None:
    """The sets of a surface get its size and licence; a size that somebody gave stays."""
    licence = surface["licence"]
    for pk in intake.placements.exclude(set=None).values_list("set", flat=True).distinct():
        row = doing.row(TextureSet, pk)
        doing.update(row, licence=licence["name"], credit=licence.get("credit", ""))
        if row.metres is None:
            doing.update(row, metres=surface["metres"])


@job_kind("scan-look", minutes=30, priority=0)
def look_for_newer(job: Job, progress: Progress) -> str:
    """The job "scan-look": ask the libraries which revisions they have of a project's surfaces by now."""
    rows = list(Scan.objects.filter(project=job.project, revision__gt=0).order_by("library", "surface"))
    newer = 0
    not_asked: list[str] = []
    for number, one in enumerate(rows):
        progress.report(number, len(rows), one.title)
        try:
            newest = library_of(job.by_id or one.by_id, one.library).surface(one.surface)["revision"]
        except (Conflict, TexelError) as error:
            # One library that is away, or one lost key, keeps the others from nothing.
            not_asked.append(f"{one.title}: {error}")
            continue
        Scan.objects.filter(pk=one.pk).update(newest=newest)
        newer += newest > one.revision
    with transaction.atomic():
        announce(job.project_id, "scans")
    told = f"{newer} of {len(rows)} have a newer revision"
    return told + (f"; {len(not_asked)} could not be asked for ({not_asked[0]})" if not_asked else "")


def ask_for_newer() -> int:
    """Queue looking for newer revisions in every project that has surfaces of libraries. Returns in how many."""
    count = 0
    for project in Project.objects.filter(scans__revision__gt=0).distinct():
        if not Job.objects.filter(project=project, kind="scan-look").exclude(state__in=Job.ENDED).exists():
            enqueue(project, "scan-look", "Look for newer scans")
            count += 1
    return count


def sets_of(rows: Sequence[Scan]) -> dict[int, list[tuple[int, str]]]:
    """The sets that surfaces came to, by the surface's id here."""
    found = TextureSet.objects.filter(placements__intake__scan__in=rows).values_list(
        "placements__intake__scan", "pk", "name"
    )
    sets: dict[int, list[tuple[int, str]]] = {}
    for scan, pk, name in found.distinct().order_by("name"):
        sets.setdefault(scan, []).append((pk, name))
    return sets
