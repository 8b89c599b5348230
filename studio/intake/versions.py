"""Other contents for files that were taken in: exported again, or newer in a library. Their steps and places stay."""

from __future__ import annotations

from typing import Any

from django.core.files.base import File

from studio.changes.engine import Doing, change
from studio.changes.errors import Conflict
from studio.intake.models import FileVersion, Intake, IntakeFile
from studio.intake.uploads import Arrived, UploadRejected, arrive, stored
from studio.projects.models import Project

__all__ = ["bring_back", "replace", "replace_by_upload"]


def replace(doing: Doing, entry: IntakeFile, new: Arrived, origin: str) -> FileVersion | None:
    """Give a file another content. None where it has that already. origin: where it came from, in words.

    Sets that use the file keep its role and steps, and are judged anew.
    """
    if entry.source_id == new.digest:
        return None
    with stored(new) as source:
        made = FileVersion.objects.create(
            file=entry, before=entry.source, after=source, origin=origin[:200], by=doing.by
        )
        doing.update(entry, source_id=source.pk, problem=new.problem)
    return made


def replace_by_upload(project: Project, pk: int, file: File[Any], by: Any) -> FileVersion:
    """Give a file another content by hand. Raises Http404, UploadRejected for one that cannot be read, Conflict where
    it is the same."""
    entry = IntakeFile.objects.select_related("intake").filter(intake__project=project, pk=pk).first()
    intake = entry.intake if entry else Intake(project=project)
    new = arrive(intake, entry.path if entry else file.name or "unnamed", file)
    if new.problem:
        raise UploadRejected("{problem}", problem=new.problem)
    with change(project, by, f"New version of {new.path}") as doing:
        made = replace(doing, doing.row(IntakeFile, pk), new, "uploaded")
    if made is None:
        raise Conflict("{path} has exactly this content already", path=new.path)
    return made


def bring_back(version: FileVersion, by: Any) -> None:
    """Give a file the content again that it had before a version. Raises Conflict where there was none, or where it has
    that now."""
    if version.before is None:
        raise Conflict("there was no readable content before")
    project = version.file.intake.project
    with change(project, by, f"Former version of {version.file.path}") as doing:
        entry = doing.row(IntakeFile, version.file_id)
        if entry.source_id == version.before_id:
            raise Conflict("{path} has this content now", path=entry.path)
        FileVersion.objects.create(
            file=entry, before=entry.source, after=version.before, origin="the former version", by=by
        )
        doing.update(entry, source_id=version.before_id, problem="")
