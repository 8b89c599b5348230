"""A set made to repeat, all its maps alike: tried out, and done."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Path, Query, Router

from studio.api.access import project_for, user_of
from studio.api.schemas.maps import Copied
from studio.api.schemas.sets import TileableIn
from studio.api.seen import IfMatch, seen
from studio.projects.models import Membership
from studio.sets import asked, tileable
from studio.sets.previews import PREVIEW_SIDE
from texel.recipes.tileable import Tileable
from texel.tiling import SEAM

router = Router(tags=["sets"])


def _order(given: TileableIn) -> Tileable:
    return Tileable(**given.dict(exclude={"guide"}))


@router.post("", response=Copied)
def make_tileable(
    request: HttpRequest, slug: Path[str], pk: Path[int], given: TileableIn, if_match: IfMatch = None
) -> Any:
    """Give every map of a set the same steps to repeat, as one change: crop, even light, borders. What an earlier one
    put there is replaced."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    return {"maps": tileable.make_tileable(project, pk, given.guide, _order(given), user_of(request), seen(if_match))}


@router.get("/preview")
def preview_tileable(request: HttpRequest, slug: Path[str], pk: Path[int], given: Query[TileableIn]) -> HttpResponse:
    """A PNG of the guide as it would become, at screen resolution. Nothing is kept. Headers as a map's preview has
    them; X-Texel-Seam-Limit: above this a seam shows."""
    project = project_for(request, slug)
    row, steps = tileable.tried_steps(project, pk, given.guide, _order(given))
    made = asked.draw_preview.ask(
        user_of(request).pk, f"small {row.file.source_id}", map=row.pk, recipe=steps, role="", side=PREVIEW_SIDE,
        channel="",
    )  # fmt: skip
    headers = {f"X-Texel-{key}": str(value) for key, value in {**made.said, "Seam-Limit": SEAM}.items()}
    return HttpResponse(made.data, content_type="image/png", headers={"Cache-Control": "no-store", **headers})
