"""Budgets: memory and texel density of what a target makes of a project, advice on formats, what to shrink first."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router, Schema

from studio.api.access import project_for, user_of
from studio.deliveries import asked
from studio.deliveries.advice import ask_to_advise
from studio.projects.models import Membership
from studio.rules.models import target_documents

router = Router(tags=["budget"])


class Caution(Schema):
    caution: str
    message: str
    cost: float
    unit: str


class TrialRow(Schema):
    """memory: bytes with mips; error: numbers by name, by the kind of map."""

    format: str
    label: str
    bits_per_texel: float
    memory: int
    size: int | None
    error: dict[str, Any]


class AdviceOut(Schema):
    """advised: the cheapest format within the limits, None when there is none. spared: bytes, against the current."""

    sort: str
    advised: str | None
    reason: str
    current: TrialRow
    trials: list[TrialRow]
    spared: int | None
    cautions: list[Caution]
    halving: dict[str, Any]


class BudgetFile(Schema):
    """halved: bytes at half the size. roles: bytes by role. advice: None while it was not measured."""

    path: str
    output: str
    memory: int
    halved: int
    width: int
    height: int
    format: str | None
    roles: dict[str, int]
    advice: AdviceOut | None


class BudgetSet(Schema):
    """metres: of surface that the texture's width covers. density: texels per metre."""

    id: int
    name: str
    memory: int
    width: int
    metres: float | None
    density: float | None
    files: list[BudgetFile]


class Limits(Schema):
    memory_mib: float | None
    set_mib: float | None
    density: float | None


class Shrunk(Schema):
    path: str
    spared: int
    error: dict[str, Any]
    left: int


class BudgetOut(Schema):
    """measured: of ``files`` how many have advice. shrink: files to halve, in order, to get under the budget."""

    target: str
    memory: int
    budget: Limits
    sets: list[BudgetSet]
    measured: int
    files: int
    shrink: list[Shrunk]
    shrunk: int
    problems: list[str]


class MemoryOut(Schema):
    """memory: bytes. memory_mib: the target's budget, None where it has none. problems: why sets are not in it."""

    slug: str
    project: str
    target: str
    title: str
    memory: int
    memory_mib: float | None
    problems: list[str]


class Queued(Schema):
    job: int


@router.get("", response=BudgetOut)
def show(request: HttpRequest, slug: Path[str], target: str = "") -> Any:
    project = project_for(request, slug)
    return asked.figure_budget.ask(user_of(request).pk, project=project.pk, target=target or project.target).said


@router.get("/targets", response=list[MemoryOut])
def by_target(request: HttpRequest, slug: Path[str]) -> Any:
    """What the project would take for each target that it may deliver to."""
    project = project_for(request, slug)
    names = list(target_documents(project))
    return asked.figure_memory.ask(user_of(request).pk, project=project.pk, targets=names).said


@router.get("/projects", response=list[MemoryOut])
def by_project(request: HttpRequest, slug: Path[str]) -> Any:
    """What each project that one may look at takes for its own target."""
    project_for(request, slug)
    memberships = Membership.objects.filter(user=user_of(request)).select_related("project").order_by("project__name")
    return [
        memory
        for one in memberships
        for memory in asked.figure_memory.ask(
            user_of(request).pk, project=one.project_id, targets=[one.project.target]
        ).said
    ]


@router.post("/measure", response=Queued)
def measure(request: HttpRequest, slug: Path[str], target: str = "") -> Any:
    """Measure formats for every file of a target, in a worker."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    return {"job": ask_to_advise(project, target or project.target, user_of(request)).pk}
