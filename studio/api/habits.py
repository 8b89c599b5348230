"""The habit of a project's folders: which suffix means which role, seen, taught and taken along."""

from __future__ import annotations

from typing import Any, cast

from django.http import HttpRequest
from ninja import Body, Path, Router

from studio.api.access import project_for, user_of
from studio.api.answers import map_out
from studio.api.documents import Habit
from studio.api.schemas.habits import CopyHabit, HabitLineOut, HabitOut, TaughtLine, Teach
from studio.api.schemas.jobs import JobOut
from studio.projects.models import Membership, Project
from studio.sets.models import Placement
from studio.sorting.asking import ask_to_sort_again, ask_to_teach, lines_of
from studio.sorting.intakes import taught_habit
from texel.document_types import HabitLineDocument
from texel.errors import BadDocument
from texel.messages import message_of
from texel.sorting import HabitLine, habit_document, parse_habit
from texel.sorting.habit import SURE
from texel.wording import reason_fields

router = Router(tags=["habit"])


def _examples(project: Project, wanted: list[tuple[int, str]]) -> dict[tuple[int, str], Placement]:
    """The first placement of each named file."""
    rows = (
        project.placements.filter(file__path__in={path for _, path in wanted})
        .select_related("file__source")
        .prefetch_related("file__old_names")
    )
    examples: dict[tuple[int, str], Placement] = {}
    for row in rows:
        examples.setdefault((row.intake_id, row.file.path), row)
    return examples


def _out(line: HabitLine, examples: list[Placement]) -> HabitLineOut:
    document = line.document()
    return {
        "suffix": document["suffix"], "where": document["where"], "folder": document["folder"],
        "written": document["written"], "role": document["role"], "files": document["files"],
        "confidence": document["confidence"],
        "channels": document.get("channels", {}), "meaning": line.meaning_in_words,
        "why": document["why"], "said": document["said"],
        "taught": line.taught, "decided": line.decided, "certain": line.decided and line.confidence >= SURE,
        "examples": [map_out(row, True) for row in examples],
    }  # fmt: skip


@router.get("", response=HabitOut)
def habit(request: HttpRequest, slug: Path[str]) -> Any:
    """What the suffixes of the project's files were taken for, with three pictures each."""
    project = project_for(request, slug)
    merged = lines_of(project)
    rows = _examples(project, [one for _, examples in merged for one in examples])
    lines = [_out(line, [rows[one] for one in examples if one in rows]) for line, examples in merged]
    return {"lines": lines, "taught": len(project.habit)}


@router.get("/document", response=Habit)
def document(request: HttpRequest, slug: Path[str]) -> Any:
    """What was taught, as a habit document that the command line reads."""
    return habit_document(taught_habit(project_for(request, slug)).lines)


@router.post("/teach", response=JobOut)
def teach(request: HttpRequest, slug: Path[str], given: Teach) -> Any:
    """Say what suffixes mean. All files that have them are sorted again, in a worker, as one change."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    return ask_to_teach(
        project, _label(given), user_of(request), [_taught(one) for one in given.teach],
        [{"suffix": one.suffix, "where": one.where, "folder": one.folder, "role": "none"} for one in given.forget],
    )  # fmt: skip


@router.put("/document", response=JobOut)
def put_document(request: HttpRequest, slug: Path[str], given: Body[Habit]) -> Any:
    """Take a habit document in place of what was taught so far."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    lines = cast(list[HabitLineDocument], [line.document() for line in parse_habit(given).lines])
    return ask_to_teach(project, f"Teach {len(lines)} suffixes", user_of(request), lines, instead=True)


@router.post("/copy", response=JobOut)
def copy(request: HttpRequest, slug: Path[str], given: CopyHabit) -> Any:
    """Take over what was taught in another project, beside what was taught here."""
    other = project_for(request, given.project)
    if not other.habit:
        raise BadDocument("nothing was taught in {other} yet", other=other.name)
    project = project_for(request, slug, Membership.Right.PREPARE)
    return ask_to_teach(project, f"Take over the habit of {other.name}", user_of(request), other.habit)


@router.post("/sort-again", response=JobOut)
def sort_again(request: HttpRequest, slug: Path[str]) -> Any:
    """Sort everything that was taken in once more, by what is taught now. What was decided by hand stays."""
    return ask_to_sort_again(project_for(request, slug, Membership.Right.PREPARE), user_of(request))


def _taught(one: TaughtLine) -> HabitLineDocument:
    line = one.dict() | {"taught": True, **reason_fields(message_of("why_taught"))}
    return cast(HabitLineDocument, {key: value for key, value in line.items() if key != "channels" or value})


def _label(given: Teach) -> str:
    if len(given.teach) == 1 and not given.forget:
        one = given.teach[0]
        role = "no map" if one.role == "none" else one.role.replace("_", " ")
        return f"Teach that {one.suffix or 'a name without suffix'} means {role}"
    if not given.teach and len(given.forget) == 1:
        return f"Forget what {given.forget[0].suffix or 'a name without suffix'} means"
    return f"Teach {len(given.teach) + len(given.forget)} suffixes"
