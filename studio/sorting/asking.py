"""Ask for sorting: of an intake, of the sample folder, of everything again by what was taught."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.db import transaction

from studio.intake.models import Intake
from studio.intake.uploads import must_be_open
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.projects.models import Project
from studio.sorting.intakes import changed_lines, taught_habit
from texel.document_types import HabitLineDocument
from texel.errors import BadDocument
from texel.sorting import HabitLine
from texel.sorting.habit import line_of

__all__ = ["ask_for_sample", "ask_to_sort", "ask_to_sort_again", "ask_to_teach", "lines_of"]

_MAX_LINES = 500


def ask_for_sample(project: Project, by: Any) -> Intake:
    """Queue the job that takes in the sample folder."""
    with transaction.atomic():
        intake = Intake.objects.create(project=project, name="Sample folder", by=by, state=Intake.State.SORTING)
        enqueue(project, "sample", "Sample folder", by, intake=intake.pk)
    return intake


def ask_to_sort(intake: Intake, by: Any) -> None:
    """Close an intake and queue its sorting; once more when that failed.

    Raises Conflict for one that is closed, BadDocument for one without files.
    """
    with transaction.atomic():
        must_be_open(intake, Intake.State.FAILED)
        if not intake.files.exists():
            raise BadDocument("the intake is empty: no file was taken, so there is nothing to sort")
        claimed = Intake.objects.filter(pk=intake.pk, state=intake.state).update(state=Intake.State.SORTING)
        if claimed:
            enqueue(intake.project, "sort", f"Sort {intake.name}", by, intake=intake.pk)
    intake.refresh_from_db()


def ask_to_sort_again(project: Project, by: Any) -> Job:
    """Queue the sorting of all intakes by what is taught now."""
    return _ask(project, "Sort again", by, project.habit)


def ask_to_teach(
    project: Project, label: str, by: Any, teach: Sequence[HabitLineDocument] = (),
    forget: Sequence[HabitLineDocument] = (), instead: bool = False,
) -> Job:  # fmt: skip
    """Queue the sorting of all intakes after a change of what is taught, as one change called ``label``.

    forget: lines that are about the same suffixes. instead: ``teach`` stands in place of everything taught so far.
    Raises BadDocument for nothing, too much, or lines that say nothing sound.
    """
    if not teach and not forget:
        raise BadDocument("say at least one suffix")
    change = {"teach": list(teach), "forget": list(forget), "all": instead}
    return _ask(project, label, by, changed_lines(project.habit, change), **change)


def _ask(project: Project, label: str, by: Any, lines: Sequence[HabitLineDocument], **change: object) -> Job:
    if len(lines) > _MAX_LINES:
        raise BadDocument("at most {max_lines} suffixes can be taught in a project", max_lines=_MAX_LINES)
    taught_habit(project, list(lines))
    with transaction.atomic():
        return enqueue(project, "resort", label, by, label=label, **change)


def lines_of(project: Project) -> list[tuple[HabitLine, list[tuple[int, str]]]]:
    """Lines of all intakes put together by suffix and folder, most files first, with their examples: the intake's id
    and the file's path."""
    merged: dict[tuple[Any, ...], tuple[HabitLine, list[tuple[int, str]]]] = {}
    for pk, lines in project.intakes.values_list("pk", "habit"):
        for line in map(line_of, lines):
            key = (line.affix, line.folder, line.meant if line.decided else None)
            examples = [(pk, file) for file in line.examples]
            if key in merged:
                known, more = merged[key]
                line = known.joined(line)
                examples = [*more, *examples][:3]
            merged[key] = (line, examples)
    return sorted(merged.values(), key=lambda one: (-one[0].files, one[0].affix))
