"""The job that takes settled files of a watched folder in: new ones are sorted, those exported again replace theirs."""

from __future__ import annotations

import os
import shutil
import tempfile
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from django.conf import settings
from django.core.files.base import File
from django.db import transaction

from studio.changes.engine import Doing, change
from studio.intake.models import Intake, IntakeFile
from studio.intake.uploads import Arrived, add_arrived, arrive, free_path
from studio.intake.versions import replace
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.registry import job as job_kind
from studio.sorting.intakes import sort_more
from studio.watched.folders import path_of
from studio.watched.models import WatchedFile, WatchedFolder
from texel.errors import TexelError
from texel.files import read
from texel.settling import Stamp

__all__ = ["take_settled"]

_State = WatchedFile.State
_LONGEST = 300


@dataclass(frozen=True)
class _Copied:
    """A file of the folder as it was copied. problem: why it is not taken in."""

    path: str
    stamp: Stamp
    arrived: Arrived | None
    problem: str = ""


def _stamp_of(path: Path) -> Stamp:
    told = path.stat()
    return Stamp(told.st_size, told.st_mtime_ns)


def _lost(job: Job) -> None:
    """A file that ended the process that read it would do so again: it is tried anew when it changes."""
    rows = WatchedFile.objects.filter(folder=job.payload["folder"], state=_State.ARRIVING)
    stamps = {name: Stamp(*stamp) for name, *stamp in job.payload["files"]}
    problem = "" if job.state == Job.State.CANCELLED else job.message[:_LONGEST]
    for row in rows.filter(path__in=stamps):
        row.bytes, row.changed = stamps[row.path]
        row.state, row.problem = _State.REFUSED, problem or "taking it in was cancelled"
        row.save()
    Intake.objects.filter(watched=job.payload["folder"], state=Intake.State.SORTING).update(state=Intake.State.FAILED)
    announce(job.project_id, "watched", id=job.payload["folder"])


@job_kind("watched", minutes=60, on_loss=_lost)
def take_settled(job: Job, progress: Progress) -> str:
    """The job "watched". What changes while it is copied is left for another time.

    payload: folder; files: path, bytes and time of each, as it stood still.
    """
    folder = WatchedFolder.objects.select_related("project", "intake").filter(pk=job.payload["folder"]).first()
    if folder is None:
        return "this folder is not watched any more"
    root = path_of(folder.place)
    intake = folder.intake or _new_intake(folder)
    wanted = [(name, Stamp(*stamp)) for name, *stamp in job.payload["files"]]
    with tempfile.TemporaryDirectory(prefix="texel-watched-") as copies, ExitStack() as stack:
        copied = []
        for number, (name, stamp) in enumerate(wanted):
            progress.report(number, len(wanted), name)
            one = _copied(intake, root, name, stamp, Path(copies) / str(number), stack)
            if one is not None:
                copied.append(one)
        new, replaced = _write_down(folder, intake, copied, progress)
    # What an attempt before this one took and did not sort is sorted now.
    if new or intake.files.filter(problem="", placements=None).exists():
        sort_more(intake, None, f"Sort what came from {folder.name}", progress)
    with transaction.atomic():
        announce(folder.project_id, "watched", id=folder.pk)
    refused = sum(1 for one in copied if one.problem)
    return f"{new} new, {replaced} exported again" + (f", {refused} cannot be read" if refused else "")


def _new_intake(folder: WatchedFolder) -> Intake:
    with transaction.atomic():
        intake = Intake.objects.create(
            project=folder.project, name=folder.name, by=folder.by, state=Intake.State.SORTING
        )
        WatchedFolder.objects.filter(pk=folder.pk).update(intake=intake)
        announce(folder.project_id, "intake")
    return intake


def _copied(intake: Intake, root: Path, name: str, stamp: Stamp, folder: Path, stack: ExitStack) -> _Copied | None:
    """A file copied and read to its end; None for one that has changed since or meanwhile."""
    if stamp.bytes > settings.MAX_UPLOAD_BYTES:
        limit = settings.MAX_UPLOAD_BYTES >> 20
        return _Copied(name, stamp, None, f"{name}: larger than the {limit} MB that a file may have"[:_LONGEST])
    folder.mkdir()
    copy = folder / PurePosixPath(name).name
    try:
        if _stamp_of(root / name) != stamp or (root / name).resolve() != (root.resolve() / name):
            return None
        shutil.copyfile(root / name, copy)
        if _stamp_of(root / name) != stamp or copy.stat().st_size != stamp.bytes:
            return None
    except FileNotFoundError:
        return None
    except OSError as error:
        return _Copied(name, stamp, None, f"{copy.name}: cannot be copied ({error.strerror or os.strerror(5)})")
    try:
        # Its header may be whole while the rest is still to come.
        read(copy, settings.PICTURE_LIMITS)
        arrived = arrive(intake, name, stack.enter_context(File(copy.open("rb"), name=str(copy))))
    except TexelError as error:
        return _Copied(name, stamp, None, str(error)[:_LONGEST])
    return _Copied(name, stamp, arrived, arrived.problem)


def _write_down(folder: WatchedFolder, intake: Intake, copied: list[_Copied], progress: Progress) -> tuple[int, int]:
    """Files that are new, and those that have another content now, as one change; the latter counted as well."""
    new = replaced = 0
    names = [one.path for one in copied if one.arrived]
    what = names[0] if len(names) == 1 else f"{len(names)} files"
    with transaction.atomic(), change(folder.project, None, f"{what} from {folder.name}") as doing:
        progress.hold_lease()
        rows = {row.path: row for row in folder.files.select_related("file").select_for_update(of=("self",))}
        for one in copied:
            row = rows.get(one.path) or WatchedFile(folder=folder, path=one.path)
            row.bytes, row.changed = one.stamp
            row.state, row.problem = (_State.REFUSED, one.problem) if one.problem else (_State.TAKEN, "")
            if one.arrived is not None and not one.problem:
                if row.file is None and (moved := _moved(doing, intake, rows, one)):
                    # Its new name may say another role.
                    row.file, new = moved, new + 1
                if row.file is None:
                    row.file = intake.files.filter(came_as=one.path).first()
                if row.file is None:
                    row.file = add_arrived(intake, one.arrived)
                    new += 1
                elif replace(doing, row.file, one.arrived, f"exported again in {folder.name}"):
                    replaced += 1
            row.save()
    return new, replaced


def _moved(doing: Doing, intake: Intake, rows: dict[str, WatchedFile], one: _Copied) -> IntakeFile | None:
    """The file of this content that has gone from its former name: it was renamed, and keeps its steps."""
    if one.arrived is None:
        return None
    for row in rows.values():
        if row.state == _State.MISSING and row.file is not None and row.file.source_id == one.arrived.digest:
            file, row.file = row.file, None
            row.delete()
            doing.update(file, path=free_path(intake, one.path), came_as=one.path)
            return file
    return None
