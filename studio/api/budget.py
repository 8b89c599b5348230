"""Budgets: memory and texel density of what a target makes of a project, advice on formats, what to shrink first."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router

from studio.api.access import project_for, user_of
from studio.api.schemas.jobs import Queued
from studio.deliveries import asked
from studio.deliveries.advice import ask_to_advise
from studio.deliveries.facts import BudgetOut, MemoryOut
from studio.projects.models import Membership
from studio.rules.models import target_documents

router = Router(tags=["budget"])


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
