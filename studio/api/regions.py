"""Regions of a set: cells of an atlas or strips of a trim sheet, and the way back into sets."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router

from studio.api.access import project_for, user_of
from studio.api.answers import set_out
from studio.api.schemas.atlases import CutIn, RegionsIn
from studio.api.schemas.shared import SetOut
from studio.api.seen import IfMatch, seen
from studio.meshes.regions import set_regions
from studio.projects.models import Membership, Project
from studio.sets.regions import cut_regions
from studio.sets.rows import set_rows

router = Router(tags=["sets"])
_PREPARE = Membership.Right.PREPARE


def _sets(project: Project, ids: list[int]) -> list[SetOut]:
    return [set_out(one) for one in set_rows(project.sets.filter(pk__in=ids))]


@router.put("/regions", response=SetOut)
def put_regions(
    request: HttpRequest, slug: Path[str], pk: Path[int], given: RegionsIn, if_match: IfMatch = None
) -> Any:
    """Say which regions a set's maps have; slots that wear one of them follow."""
    project = project_for(request, slug, _PREPARE)
    set_regions(project, pk, given.regions, user_of(request), seen(if_match))
    return _sets(project, [pk])[0]


@router.post("/cut", response=list[SetOut])
def cut_set(request: HttpRequest, slug: Path[str], pk: Path[int], given: CutIn, if_match: IfMatch = None) -> Any:
    """Make a set of each region: the same files, with a step that cuts it out."""
    project = project_for(request, slug, _PREPARE)
    return _sets(project, cut_regions(project, pk, given.regions, user_of(request), seen(if_match)))
