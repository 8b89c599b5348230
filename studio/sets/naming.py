"""File names by the house's rules: all of a project judged, and put right as one change."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Any, NamedTuple

from studio.changes.engine import change, names_may_trade_places
from studio.changes.errors import Conflict
from studio.intake.models import FileName, IntakeFile
from studio.intake.uploads import safe_path
from studio.projects.models import Project
from studio.rules.models import names_of
from texel.naming.judging import Named, Verdict, judge_names
from texel.naming.renaming import Rename, plan_renames
from texel.naming.rules import Rules
from texel.roles import Role

__all__ = ["FileVerdict", "judged_files", "planned_renames", "rename_files"]

_CHANNELS = "rgba"
_ANY: Mapping[int, str] = {}


class PlacedFile(NamedTuple):
    """What is asked of a map's row to judge the name of its file; a project has tens of thousands."""

    file: int
    path: str
    came_as: str
    intake: int
    set: str
    role: str
    channel: str
    made: bool
    width: int | None
    height: int | None


@dataclass(frozen=True)
class FileVerdict:
    """file: its id. came_as: what it was called when it came. sets: those that it serves in."""

    file: int
    came_as: str
    sets: list[str]
    verdict: Verdict


def _placed(project: Project) -> dict[int, list[PlacedFile]]:
    """The maps in sets of every file, by the file's id."""
    rows = project.placements.filter(set__isnull=False).order_by("file__path", "order", "pk")
    columns = rows.values_list(
        "file_id", "file__path", "file__came_as", "intake_id", "set__name", "role", "channel", "recipe",
        "file__source__probe__width", "file__source__probe__height",
    )  # fmt: skip
    placed: dict[int, list[PlacedFile]] = defaultdict(list)
    for file, path, came_as, intake, name, role, channel, recipe, width, height in columns:
        placed[file].append(PlacedFile(file, path, came_as, intake, name, role, channel, bool(recipe), width, height))
    return placed


def _named(rows: list[PlacedFile]) -> Named:
    """What is known of a file: the role that it has, or those of its channels; its set; its size."""
    whole = [row for row in rows if not row.channel and not row.made] or [row for row in rows if not row.channel]
    if whole:
        roles: tuple[Role, ...] = (Role(whole[0].role),)
    else:
        roles = tuple(Role(row.role) for row in sorted(rows, key=lambda row: _CHANNELS.index(row.channel)))
    side = max(rows[0].width or 0, rows[0].height or 0) or None
    return Named(rows[0].path, roles, rows[0].set, side)


def judged_files(project: Project, rules: Rules | None = None) -> list[FileVerdict]:
    """A verdict on every file that serves in a set. Names are compared within their intake."""
    wanted = rules or names_of(project)
    by_intake: dict[int, list[list[PlacedFile]]] = defaultdict(list)
    for rows in _placed(project).values():
        by_intake[rows[0].intake].append(rows)
    judged = []
    for groups in by_intake.values():
        verdicts = judge_names([_named(rows) for rows in groups], wanted)
        for rows, verdict in zip(groups, verdicts, strict=True):
            judged.append(FileVerdict(rows[0].file, rows[0].came_as, sorted({row.set for row in rows}), verdict))
    return judged


def planned_renames(project: Project, wanted: dict[int, str]) -> list[tuple[IntakeFile, Rename]]:
    """What giving files new paths, by id, comes to; nothing is changed. Raises Conflict for a path that is none."""
    files = {row.pk: row for row in IntakeFile.objects.filter(pk__in=wanted, intake__project=project)}
    if len(files) < len(wanted):
        raise Conflict("one of the files is not in this project")
    by_intake: dict[int, dict[str, str]] = defaultdict(dict)
    for pk, path in wanted.items():
        if PurePosixPath(path).suffix.lower() != PurePosixPath(files[pk].path).suffix.lower():
            raise Conflict(
                "{path}: a name keeps its ending, {suffix}",
                path=files[pk].path,
                suffix=PurePosixPath(files[pk].path).suffix,
            )
        by_intake[files[pk].intake_id][files[pk].path] = safe_path(path)
    renames = []
    for intake, changes in by_intake.items():
        existing = IntakeFile.objects.filter(intake=intake).values_list("path", flat=True)
        by_path = {row.path: row for row in files.values() if row.intake_id == intake}
        renames += [(by_path[one.old], one) for one in plan_renames(changes, existing)]
    return renames


def rename_files(project: Project, wanted: dict[int, str], by: Any, seen: Mapping[int, str] = _ANY) -> int:
    """Give files new paths, by id, as one change; returns how many. seen: the paths that they were seen to have.

    Raises Conflict, with nothing changed, when one cannot be done, or is called otherwise by now.
    """
    with change(project, by, "") as doing:
        plan = planned_renames(project, wanted)
        for file, one in plan:
            if seen.get(file.pk, one.old) != one.old:
                raise Conflict(
                    "{seen} was renamed meanwhile, to {old}. Nothing was renamed", seen=seen[file.pk], old=one.old
                )
            if one.problem:
                raise Conflict(
                    "{old} cannot become {new}: {problem}. Nothing was renamed",
                    old=one.old,
                    new=one.new,
                    problem=one.problem,
                )
        if not plan:
            return 0
        many = len(plan) > 1
        doing.label = f"Rename {len(plan)} files" if many else f"Rename {plan[0][1].old} to {plan[0][1].new}"
        FileName.objects.bulk_create(FileName(file=file, path=one.old, by=by) for file, one in plan)
        with names_may_trade_places():
            doing.update_each((file, {"path": one.new}) for file, one in plan)
    return len(plan)
