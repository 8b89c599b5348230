"""Sort an intake: the core decides, this writes down what it decided; once more when something was taught."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from django.conf import settings
from django.db import transaction

from studio import store
from studio.changes.engine import Doing, change
from studio.intake.kinds import line_key
from studio.intake.models import Intake, IntakeFile, SourceFile
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.registry import job as job_kind
from studio.projects.models import Project
from studio.sets.documents import probe_of
from studio.sets.editing import drop_empty
from studio.sets.kinds import free_name
from studio.sets.licences import licences_to_carry
from studio.sets.models import Placement, TextureSet
from texel.document_types import HabitLineDocument
from texel.library import Library
from texel.sets import MapRef
from texel.sorting import Habit, Sorted, Undecided, habit_document, parse_habit, sort_files
from texel.sorting.habit import SURE, line_of
from texel.sorting.looks import Look
from texel.wording import reason_fields

__all__ = [
    "changed_lines",
    "failed_intake",
    "known_habit",
    "sort_again",
    "sort_intake",
    "sort_more",
    "taught_habit",
    "write_down",
]


def taught_habit(project: Project, lines: list[Any] | None = None) -> Habit:
    """What was taught in a project, or other lines of that kind, as the core reads it. Raises BadDocument."""
    kept = project.habit if lines is None else lines
    return parse_habit({"format": "fair-texel/habit", "version": 1, "lines": kept}, "the project's habit")


def known_habit(project: Project) -> Habit:
    """What the suffixes of a project's files mean by now: found by sorting, or taught."""
    lines = [line_of(line) for lines in project.intakes.values_list("habit", flat=True) for line in lines]
    return Habit(tuple(lines))


def failed_intake(job: Job) -> None:
    """An intake whose sorting did not come to its end says so; it can be sorted again."""
    Intake.objects.filter(pk=job.payload["intake"]).update(state=Intake.State.FAILED)
    announce(job.project_id, "intake")


@job_kind("sort", minutes=120, on_loss=failed_intake)
def sort_intake(job: Job, progress: Progress) -> str:
    """The job "sort". All sets of an intake appear at once, or none."""
    intake = Intake.objects.select_related("project").get(pk=job.payload["intake"])
    files = {entry.path: entry for entry in intake.files.select_related("source")}

    def on_file(seen: int, file: str) -> None:
        progress.report(seen, len(files), file)

    sorted_files = _sorted(intake, files, taught_habit(intake.project), on_file)
    with transaction.atomic(), change(intake.project, job.by, f"Sort {intake.name}") as doing:
        progress.hold_lease()
        # Taken back, it is open again: more files can be added, and it can be sorted once more.
        Intake.objects.filter(pk=intake.pk).update(state=Intake.State.OPEN)
        doing.update(doing.row(Intake, intake.pk), state=Intake.State.SORTED, habit=_lines(sorted_files))
        sets = write_down(doing, intake, files, sorted_files)
    return f"{len(sets)} sets, {len(sorted_files.undecided)} undecided"


def sort_more(
    intake: Intake, by: Any, label: str, progress: Progress, then: Callable[[Doing], None] | None = None
) -> None:
    """Sort an intake that files were added to. What stands in its sets stays there, with its steps; what was decided by
    hand is not touched. The first time all sets appear at once. then: what belongs to the same change."""
    project = intake.project
    while True:
        files = {entry.path: entry for entry in intake.files.select_related("source")}
        habit = Project.objects.values_list("habit", flat=True).get(pk=project.pk)

        def on_file(seen: int, file: str, total: int = len(files)) -> None:
            progress.report(seen, total, file)

        sorted_files = _sorted(intake, files, taught_habit(project, habit), on_file)
        with transaction.atomic(), change(project, by, label) as doing:
            progress.hold_lease()
            project.refresh_from_db()
            names = dict(intake.files.values_list("pk", "path"))
            if project.habit != habit or names != {entry.pk: path for path, entry in files.items()}:
                # Somebody taught something else or renamed a file meanwhile. What files look like is known by now.
                continue
            rows = Placement.objects.filter(intake=intake)
            if rows.exists():
                held = set(rows.exclude(set=None).values_list("set", flat=True))
                _Resort(intake, files, doing).apply(sorted_files)
                drop_empty(doing, held)
            else:
                write_down(doing, intake, files, sorted_files)
            doing.update(doing.row(Intake, intake.pk), state=Intake.State.SORTED, habit=_lines(sorted_files))
            if then is not None:
                then(doing)
            return


def _lines(found: Sorted) -> list[Any]:
    return list(habit_document(found.habit.lines)["lines"])


def _sorted(intake: Intake, files: dict[str, IntakeFile], habit: Habit, on_file: Callable[[int, str], None]) -> Sorted:
    """Sort the files of an intake. What they look like is kept with their sources, so that the next time is quick."""
    sources = {path: entry.source for path, entry in files.items() if entry.source is not None}
    known: dict[str, Look | None] = {}
    for path, source in sources.items():
        look = Look.of(source.look) if source.look else None
        if look is not None:
            known[path] = look
    before = set(known)
    seen = 0

    def count(file: str) -> None:
        nonlocal seen
        seen += 1
        on_file(seen, file)

    with store.local_copies() as copies:
        digests = {path: source.pk for path, source in sources.items()}
        probes = {path: probe_of(source) for path, source in sources.items() if source.probe}
        library = Library(store.Fetched(digests, copies), settings.PICTURE_LIMITS, digests, probes)
        sorted_files = sort_files(library, intake.name, count, habit, known)
    fresh = {}
    for path, look in known.items():
        if path not in before and look is not None:
            sources[path].look = look.document()
            fresh[sources[path].pk] = sources[path]
    SourceFile.objects.bulk_update(fresh.values(), ["look"], batch_size=500)
    return sorted_files


def _placed(intake: Intake, file: IntakeFile, made: TextureSet | None, ref: MapRef, order: int) -> Placement:
    return Placement(
        project=intake.project, intake=intake, file=file, set=made, role=ref.role.value, channel=ref.channel or "",
        layer=ref.layer or "", order=order, confidence=ref.confidence,
        **reason_fields(ref.why, 400),
    )  # fmt: skip


def _left(intake: Intake, file: IntakeFile, left: Undecided) -> Placement:
    return Placement(
        project=intake.project, intake=intake, file=file, candidates=list(left.candidates), suffix=left.suffix[:120],
        **reason_fields(left.why, 400),
    )  # fmt: skip


def write_down(doing: Doing, intake: Intake, files: dict[str, IntakeFile], found: Sorted) -> list[TextureSet]:
    """Make the sets that were found, and list what is undecided. files: of the intake, by path."""
    taken = set(intake.project.sets.values_list("name", flat=True))
    sets = []
    for one in found.sets:
        name = free_name(intake.project, one.name, taken)
        taken.add(name)
        sources = {source for ref in one.maps if (source := files[ref.file].source_id)}
        sets.append((TextureSet(project=intake.project, name=name), sources))
    made_sets = [one for one, _ in sets]
    for row, (licence, credit) in licences_to_carry(sets):
        row.licence, row.credit = licence, credit
    doing.create_many(made_sets)
    doing.create_many(
        [
            *(
                _placed(intake, files[ref.file], made, ref, order)
                for made, one in zip(made_sets, found.sets, strict=True)
                for order, ref in enumerate(one.maps)
            ),
            *(_left(intake, files[left.file], left) for left in found.undecided),
        ]
    )
    return made_sets


@job_kind("resort", minutes=120)
def sort_again(job: Job, progress: Progress) -> str:
    """The job "resort": sort intakes anew by what is taught now. One change, undone as one; nothing that was decided by
    hand is touched, and steps stay on maps that keep their role.

    payload: label; teach: lines that are added or replaced; forget: lines that are taken out; all: whether ``teach``
    stands in place of everything that was taught.
    """
    project = job.project
    while True:
        before = Project.objects.values_list("habit", flat=True).get(pk=project.pk)
        lines = changed_lines(before, job.payload)
        sorted_files = _sort_all(project, taught_habit(project, lines), progress)
        with transaction.atomic():
            progress.hold_lease()
            if Project.objects.select_for_update().get(pk=project.pk).habit != before:
                # Somebody taught something else meanwhile: both shall hold. What files look like is known by now.
                continue
            _apply(job, lines, sorted_files)
        made: str = job.payload["label"]
        return made


def changed_lines(before: list[HabitLineDocument], change: Mapping[str, Any]) -> list[HabitLineDocument]:
    """Taught lines after a change, as in sort_again's payload."""
    teach, forget = change.get("teach", []), change.get("forget", [])
    gone = {line_key(line) for line in [*teach, *forget]}
    kept = [] if change.get("all") else [line for line in before if line_key(line) not in gone]
    return [*kept, *teach]


_Found = list[tuple[Intake, dict[str, IntakeFile], Sorted]]


def _sort_all(project: Project, habit: Habit, progress: Progress) -> _Found:
    sorted_files: _Found = []
    for intake in project.intakes.filter(state=Intake.State.SORTED):
        files = {entry.path: entry for entry in intake.files.select_related("source")}

        def on_file(seen: int, file: str, total: int = len(files)) -> None:
            progress.report(seen, total, file)

        sorted_files.append((intake, files, _sorted(intake, files, habit, on_file)))
    return sorted_files


def _apply(job: Job, lines: list[Any], found: _Found) -> None:
    rows = Placement.objects.filter(intake__in=[intake for intake, _, _ in found])
    held = set(rows.exclude(set=None).values_list("set", flat=True))
    with change(job.project, job.by, job.payload["label"]) as doing:
        doing.update(doing.row(Project, job.project_id), habit=lines)
        for intake, files, result in found:
            _Resort(intake, files, doing).apply(result)
            doing.update(doing.row(Intake, intake.pk), habit=_lines(result))
        drop_empty(doing, held)


class _Resort:
    """Brings the placements of one intake to what a new sorting says, with as few changes as there can be."""

    def __init__(self, intake: Intake, files: dict[str, IntakeFile], doing: Doing):
        self.intake, self.files, self.doing = intake, files, doing
        rows = list(Placement.objects.filter(intake=intake).select_related("set"))
        by_file: dict[int, list[Placement]] = defaultdict(list)
        for row in rows:
            by_file[row.file_id].append(row)
        # A file of which a person decided anything is theirs, and stays as it is.
        self.fixed = {pk for pk, some in by_file.items() if any(row.by_hand for row in some)}
        self.rows = {pk: some for pk, some in by_file.items() if pk not in self.fixed}
        self.taken = set(intake.project.sets.values_list("name", flat=True))
        self.claimed: set[int] = set()

    def apply(self, found: Sorted) -> None:
        for one in found.sets:
            refs = [ref for ref in one.maps if self.files[ref.file].pk not in self.fixed]
            if refs:
                target = self._target(one.name, [self.files[ref.file].pk for ref in one.maps])
                for order, ref in enumerate(refs):
                    self._place(target, ref, order)
        for left in found.undecided:
            file = self.files[left.file]
            if file.pk not in self.fixed:
                self._leave(file, left)
        # What no longer stands anywhere.
        for row in (row for some in self.rows.values() for row in some):
            self.doing.delete(row)

    def _target(self, name: str, files: Iterable[int]) -> TextureSet:
        """The set that holds most of these files already, unless another has it; else a new one."""
        held = Placement.objects.filter(file__in=list(files), set__isnull=False).exclude(set__in=self.claimed)
        counts = Counter(held.values_list("set", flat=True))
        if counts:
            best = max(counts, key=lambda pk: (counts[pk], -pk))
            self.claimed.add(best)
            return TextureSet.objects.get(pk=best)
        name = free_name(self.intake.project, name, self.taken)
        made = self.doing.create(TextureSet, project=self.intake.project, name=name)
        self.taken.add(name)
        self.claimed.add(made.pk)
        return made

    def _place(self, target: TextureSet, ref: MapRef, order: int) -> None:
        file = self.files[ref.file]
        rows = self.rows.get(file.pk, [])
        wanted = (ref.role.value, ref.channel or "", ref.layer or "")
        same = [row for row in rows if (row.role, row.channel, row.layer) == wanted]
        row = next((row for row in same if row.set_id == target.pk), None)
        if row is None:
            # One that stood elsewhere, before a new one is made; its steps go with it while its role is the same.
            row = next(iter(same), None) or next((row for row in rows if row.set_id is None), None)
        if row is None:
            self.doing.create_many([_placed(self.intake, file, target, ref, order)])
            return
        rows.remove(row)
        stays = row.set_id == target.pk and (row.role, row.channel, row.layer) == wanted
        if stays and (row.confidence >= SURE) == (ref.confidence >= SURE):
            return  # nothing that anybody sees has changed; its set need not be judged again
        role, channel, layer = wanted
        self.doing.update(
            row, set_id=target.pk, role=role, channel=channel, layer=layer, order=order, confidence=ref.confidence,
            **reason_fields(ref.why, 400), suffix="", candidates=[],
        )  # fmt: skip

    def _leave(self, file: IntakeFile, left: Undecided) -> None:
        rows = self.rows.get(file.pk, [])
        row = next((row for row in rows if row.set_id is None), None)
        if row is None:
            self.doing.create_many([_left(self.intake, file, left)])
            return
        rows.remove(row)
        self.doing.update(
            row, **reason_fields(left.why, 400), candidates=list(left.candidates), suffix=left.suffix[:120]
        )  # fmt: skip
