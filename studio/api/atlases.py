"""Atlases: several sets on one, planned and made."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router

from studio.api.access import project_for, user_of
from studio.api.schemas.atlases import AtlasIn
from studio.api.schemas.jobs import JobOut
from studio.changes.errors import Conflict
from studio.meshes.asked import AtlasPlanned, plan_of_atlas
from studio.meshes.atlas import AtlasOrder, ask_for_atlas
from studio.projects.models import Membership

router = Router(tags=["sets"])
_PREPARE = Membership.Right.PREPARE


def _order(given: AtlasIn) -> AtlasOrder:
    if given.side is not None and len(given.side) != 2:
        raise Conflict("the side of an atlas is its width and its height")
    return {
        "name": given.name, "sets": given.sets, "models": given.models, "padding": given.padding, "side": given.side,
        "by_density": given.by_density, "density": given.density,
    }  # fmt: skip


@router.post("/plan", response=AtlasPlanned)
def plan_atlas(request: HttpRequest, slug: Path[str], given: AtlasIn) -> Any:
    """Where sets would lie on an atlas, and what would come to wear it. Nothing is kept."""
    project = project_for(request, slug)
    person = user_of(request).pk
    return plan_of_atlas.ask(person, near=f"atlas {project.pk}", project=project.pk, order=_order(given)).said


@router.post("", response=JobOut)
def make_atlas(request: HttpRequest, slug: Path[str], given: AtlasIn) -> Any:
    """Put sets onto one atlas, all their maps alike, as a set with a region for each cell; slots of the models wear
    their cells, with UVs moved there. One change, which can be undone."""
    project = project_for(request, slug, _PREPARE)
    return ask_for_atlas(project, _order(given), user_of(request))
