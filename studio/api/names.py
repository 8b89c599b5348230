"""File names: judged by the house's rules, tried out live, put right as one change."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router

from studio.api.access import project_for, user_of
from studio.api.schemas.jobs import Queued, queued
from studio.api.schemas.names import Learn, LearntOut, NamesOut, RenamedOut, RenameOut, Renames, Trial, TrialOut
from studio.projects.models import Membership
from studio.rules.models import names_of
from studio.sets.many import ask_to_change_many
from studio.sets.naming import judged_files, planned_renames, rename_files
from studio.sorting.intakes import known_habit
from texel.errors import BadDocument
from texel.naming.judging import Named, judge_names
from texel.naming.rules import parse_names
from texel.sorting.learning import learn_rules

router = Router(tags=["names"])
_MAX_NAMES = 5000


@router.get("", response=NamesOut)
def list_names(request: HttpRequest, slug: Path[str]) -> Any:
    """Every file that serves in a set, judged by the project's rules."""
    project = project_for(request, slug)
    rules = names_of(project)
    files = [
        {"file": one.file, "came_as": one.came_as, "sets": one.sets, **one.verdict.document()}
        for one in judged_files(project, rules)
    ]
    return {"shape": rules.shape, "files": files}


@router.post("/try", response=TrialOut)
def try_names(request: HttpRequest, slug: Path[str], given: Trial) -> Any:
    """Judge any names, by rules that need not be kept."""
    project = project_for(request, slug)
    if len(given.names) > _MAX_NAMES:
        raise BadDocument("at most {max_names} names at a time", max_names=_MAX_NAMES)
    rules = names_of(project) if given.rules is None else parse_names(given.rules)
    names = [name.strip() for name in given.names if name.strip()]
    return {"shape": rules.shape, "names": [v.document() for v in judge_names(map(Named, names), rules)]}


@router.post("/learn", response=LearntOut)
def learn(request: HttpRequest, slug: Path[str], given: Learn) -> Any:
    """Rules that most names follow. Nothing is kept."""
    project = project_for(request, slug)
    names = given.names
    if names is None:
        names = [one.verdict.path for one in judged_files(project)]
    learnt = learn_rules(names, known_habit(project))
    if learnt is None:
        raise BadDocument("no name tells a role, so there is nothing to learn from")
    return {"rules": learnt.document, "share": learnt.share, "others": learnt.others}


@router.post("/plan", response=list[RenameOut])
def plan(request: HttpRequest, slug: Path[str], given: Renames) -> Any:
    """What renaming would do, and what stands in its way. Nothing is changed."""
    renames = planned_renames(project_for(request, slug), {one.file: one.path for one in given.changes})
    return [{"file": f.pk, "old": one.old, "new": one.new, "problem": one.problem} for f, one in renames]


@router.post("/rename", response={200: RenamedOut, 202: Queued})
def rename(request: HttpRequest, slug: Path[str], given: Renames, later: bool = False) -> Any:
    """Rename files as one change, which is undone as one. All or nothing. later: as a job, with progress."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    if later:
        return queued(ask_to_change_many(project, "file names", given.model_dump(mode="json"), user_of(request)))
    saw = {one.file: one.seen for one in given.changes if one.seen is not None}
    return {"files": rename_files(project, {one.file: one.path for one in given.changes}, user_of(request), saw)}
