"""Maps: their place, their recipe, their picture, their stored values."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema

from studio.api.access import project_for, user_of
from studio.api.shapes import MapOut, map_out
from studio.projects.models import Membership
from studio.sets import editing
from studio.sets.models import Placement
from studio.sets.pictures import render
from studio.sets.reading import read_map
from texel.errors import BadDocument
from texel.pictures import View, stored_values
from texel.recipes import step_label
from texel.roles import Role

router = Router(tags=["maps"])
_KEEP = {"Cache-Control": "private, max-age=31536000, immutable"}
_MOST_VALUES = 2048 * 2048


class Place(Schema):
    """set None makes the map undecided."""

    set: int | None = None
    new_set: str | None = None
    role: str = ""


class RecipeIn(Schema):
    recipe: list[dict[str, Any]]
    label: str = ""


class AlphaRole(Schema):
    role: str


def _map(request: HttpRequest, slug: Path[str], pk: int, right: str = Membership.Right.LOOK) -> Placement:
    rows = Placement.objects.select_related("file__source", "set", "project")
    return get_object_or_404(rows, pk=pk, project=project_for(request, slug, right))


def _role(word: str) -> str:
    try:
        return Role(word).value
    except ValueError:
        raise BadDocument(f"{word!r} is not a role; roles are {', '.join(r.value for r in Role)}") from None


@router.post("/{int:pk}/place", response=MapOut)
def place(request: HttpRequest, slug: Path[str], pk: int, given: Place):
    """Give a map a role in a set (an existing one, or a new one by name), or none."""
    placement = _map(request, slug, pk, Membership.Right.PREPARE)
    if given.new_set is not None:
        editing.move_to_new(placement, given.new_set, _role(given.role), user_of(request))
    else:
        to = get_object_or_404(placement.project.sets, pk=given.set) if given.set is not None else None
        editing.move(placement, to, _role(given.role) if to else "", user_of(request))
    return map_out(_map(request, slug, pk), True)


@router.put("/{int:pk}/recipe", response=MapOut)
def put_recipe(request: HttpRequest, slug: Path[str], pk: int, given: RecipeIn):
    """Replace the steps of a map. The source stays as it is."""
    placement = _map(request, slug, pk, Membership.Right.PREPARE)
    label = given.label or ", ".join(step_label(step) for step in given.recipe) or "Remove all steps"
    editing.set_recipe(placement, given.recipe, f"{label}: {placement.file.path}", user_of(request))
    return map_out(_map(request, slug, pk), True)


@router.post("/{int:pk}/alpha", response=MapOut)
def use_alpha(request: HttpRequest, slug: Path[str], pk: int, given: AlphaRole):
    """Give the file's alpha channel a role of its own in the same set."""
    placement = _map(request, slug, pk, Membership.Right.PREPARE)
    made = editing.add_alpha_map(placement, _role(given.role), user_of(request))
    return map_out(_map(request, slug, made.pk), True)


def _box(text: str) -> tuple[int, int, int, int] | None:
    if not text:
        return None
    try:
        x, y, width, height = (int(part) for part in text.split(","))
    except ValueError:
        raise BadDocument("box is x,y,width,height in texels") from None
    if width < 1 or height < 1:
        raise BadDocument("box needs a width and a height of at least 1")
    return x, y, width, height


@router.get("/{int:pk}/picture")
def show(
    request: HttpRequest,
    slug: Path[str],
    pk: int,
    side: int = 0,
    channel: str = "",
    box: str = "",
    source: bool = False,
) -> HttpResponse:
    """A PNG of the map. side: longest side, 0 for full size; source: without its recipe. Add the digest as v."""
    placement = _map(request, slug, pk)
    if placement.file.source is None or not placement.file.source.probe:
        raise Http404("This file holds no picture.")
    view = View(side=max(1, min(side, 16384)) if side else None, channel=channel or None, box=_box(box))
    data = render(placement, view, lambda: read_map(placement, not source), not source)
    return HttpResponse(data, content_type="image/png", headers=_KEEP)


@router.get("/{int:pk}/values")
def values(
    request: HttpRequest, slug: Path[str], pk: int, x: int = 0, y: int = 0, width: int = 256, height: int = 256,
    source: bool = False,
) -> HttpResponse:  # fmt: skip
    """Stored numbers of a rectangle, little-endian; the headers X-Texel-* say what they are."""
    placement = _map(request, slug, pk)
    if width < 1 or height < 1 or width * height > _MOST_VALUES:
        raise BadDocument(f"ask for 1 to {_MOST_VALUES} texels at a time")
    data, said = stored_values(read_map(placement, not source), x, y, width, height)
    headers = {f"X-Texel-{key.title()}": value for key, value in said.items()}
    return HttpResponse(data, content_type="application/octet-stream", headers={**_KEEP, **headers})
