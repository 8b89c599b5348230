"""Projects, their targets, undo and redo."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db.models import Count, F, Window
from django.db.models.functions import RowNumber
from django.http import HttpRequest
from ninja import Body, Router
from ninja.errors import HttpError

from studio import overview
from studio.api.access import project_for, user_of
from studio.api.documents import Sets, Target
from studio.api.schemas.projects import (
    Keeping,
    NewProject,
    Overview,
    PrintOut,
    ProjectChange,
    ProjectOut,
    Step,
    TargetOut,
    TargetOutput,
)
from studio.api.seen import IfMatch, newest_of, seen
from studio.beginning import begin_project
from studio.changes import restoring
from studio.deliveries.archive import keep_for
from studio.deliveries.outdated import since_delivery
from studio.projects.models import Membership, Project
from studio.rules.models import add_version, choose_target, own_rules, target_documents
from studio.sets.documents import core_sets
from studio.sets.models import Placement
from studio.sets.pictures import map_digest
from texel.document_types import OutputDocument
from texel.roles import Role
from texel.sets import sets_document

router = Router(tags=["projects"])
_PRINTS = 8


def _prints(projects: list[int]) -> dict[int, list[PrintOut]]:
    """The first few base colours of each project."""
    rows = Placement.objects.filter(set__project__in=projects, role=Role.BASE_COLOR, file__source__probe__isnull=False)
    rank = Window(RowNumber(), partition_by=F("project"), order_by=[F("set__name"), F("order")])
    prints: dict[int, list[PrintOut]] = {pk: [] for pk in projects}
    for row in rows.select_related("file", "set").annotate(rank=rank).filter(rank__lte=_PRINTS).order_by("rank"):
        prints[row.project_id].append(
            {"id": row.pk, "digest": map_digest(row), "source": row.file.source_id or "", "role": row.role}
        )
    return prints


def _outs(memberships: list[Membership], sets: Mapping[int, int]) -> list[ProjectOut]:
    """Projects with what waits in them, in as many queries however many they are."""
    ids = [row.project_id for row in memberships]
    prints, waits = _prints(ids), overview.waits_in(ids)
    people, changes = overview.people_in(ids), overview.last_changes(ids, 1)
    return [
        {
            "slug": row.project.slug, "name": row.project.name, "target": row.project.target, "right": row.right,
            "keep_days": row.project.keep_days, "approval": row.project.approval,
            "revision": row.project.revision, "sets": sets[row.project_id], "prints": prints[row.project_id],
            "people": people[row.project_id], "waiting": waits[row.project_id],
            "last_change": changes[row.project_id][0] if changes[row.project_id] else None,
        }
        for row in memberships
    ]  # fmt: skip


def _out(membership: Membership) -> ProjectOut:
    project = membership.project
    return _outs([membership], {project.pk: project.sets.count()})[0]


@newest_of(Project)
def _newest(request: HttpRequest, row: Project) -> ProjectOut:
    made: ProjectOut = one_project(request, row.slug)
    return made


@router.get("", response=list[ProjectOut])
def list_projects(request: HttpRequest) -> Any:
    rows = Membership.objects.filter(user=user_of(request)).select_related("project")
    rows = rows.annotate(sets=Count("project__sets")).order_by("project__name")
    return _outs(list(rows), {row.project_id: row.sets for row in rows})


@router.post("", response=ProjectOut)
def make_project(request: HttpRequest, given: NewProject) -> Any:
    """A new project, which may begin from a target, another project's rules, or the sample folder; whoever makes it may
    set its rules."""
    other = project_for(request, given.rules_from) if given.rules_from else None
    return _out(begin_project(given.name, user_of(request), given.target, other, given.sample))


@router.get("/{slug}", response=ProjectOut)
def one_project(request: HttpRequest, slug: str) -> Any:
    project = project_for(request, slug)
    membership = Membership.objects.select_related("project").get(project=project, user=user_of(request))
    return _out(membership)


@router.get("/{slug}/overview", response=Overview)
def project_overview(request: HttpRequest, slug: str) -> Any:
    """What waits in the project: sets by what was found, sets that changed since their delivery, the last changes."""
    project = project_for(request, slug)
    changed, undelivered = since_delivery(project)
    changes = overview.last_changes([project.pk])[project.pk]
    return {
        **overview.standing_of(project), "changed": changed, "undelivered": undelivered, "changes": changes,
    }  # fmt: skip


@router.patch("/{slug}", response=ProjectOut)
def change_project(request: HttpRequest, slug: str, given: ProjectChange, if_match: IfMatch = None) -> Any:
    """Choose the target that the project delivers to by default. Can be undone."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    choose_target(project, given.target, user_of(request), seen(if_match))
    return one_project(request, slug)


@router.put("/{slug}/keeping", response=ProjectOut)
def put_keeping(request: HttpRequest, slug: str, given: Keeping, if_match: IfMatch = None) -> Any:
    """Say how long the files of past deliveries are kept. Can be undone; what was taken away does not come back."""
    project = project_for(request, slug, Membership.Right.RULES)
    keep_for(project, given.days, user_of(request), seen(if_match))
    return one_project(request, slug)


def _output(one: OutputDocument) -> TargetOutput:
    return {
        "output": one["output"], "container": one["container"], "bits": one.get("bits"), "format": one.get("format"),
        "colour_space": one["colour_space"], "channels": one["channels"],
    }  # fmt: skip


def _target(name: str, document: Target, own: bool) -> TargetOut:
    return {
        "name": name, "title": document.get("title", name), "green": document["green"], "own": own,
        "outputs": [_output(one) for one in document["outputs"]],
    }  # fmt: skip


@router.get("/{slug}/targets", response=list[TargetOut])
def list_targets(request: HttpRequest, slug: str) -> Any:
    project = project_for(request, slug)
    own = set(own_rules(project, "target").values_list("name", flat=True))
    return [_target(name, document, name in own) for name, document in target_documents(project).items()]


@router.get("/{slug}/targets/{name}", response=Target)
def one_target(request: HttpRequest, slug: str, name: str) -> Any:
    """The target's document, as the command line reads it."""
    document = target_documents(project_for(request, slug)).get(name)
    if document is None:
        raise HttpError(404, f"There is no target {name}.")
    return document


@router.put("/{slug}/targets/{name}", response=TargetOut)
def put_target(request: HttpRequest, slug: str, name: str, document: Body[Target], if_match: IfMatch = None) -> Any:
    """A new version of a target of the project's own. Deliveries made before keep theirs."""
    project = project_for(request, slug, Membership.Right.RULES)
    add_version(project, "target", name, document, user_of(request), seen=seen(if_match))
    return _target(name, document, True)


@router.get("/{slug}/sets.json", response=Sets)
def export_sets(request: HttpRequest, slug: str) -> Any:
    """All sets with their recipes, as `texel deliver --sets` and `texel check --sets` read them."""
    project = project_for(request, slug)
    return sets_document(core_sets(project.sets.prefetch_related("placements__file__source"))[0])


@router.post("/{slug}/undo", response=Step)
def undo(request: HttpRequest, slug: str) -> Any:
    """Take back one's own last change; what others changed since stays, and is told."""
    restored = restoring.undo(project_for(request, slug, Membership.Right.PREPARE), user_of(request))
    return {"label": restored.label, "said": restored.said} if restored else {"label": None}


@router.post("/{slug}/redo", response=Step)
def redo(request: HttpRequest, slug: str) -> Any:
    """Make one's own change that was taken back last once more."""
    restored = restoring.redo(project_for(request, slug, Membership.Right.PREPARE), user_of(request))
    return {"label": restored.label, "said": restored.said} if restored else {"label": None}
