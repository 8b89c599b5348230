"""Maps: their place, their recipe, their picture, their stored values."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router

from studio import store
from studio.api.access import project_for, user_of
from studio.api.answers import map_out
from studio.api.caching import picture_headers, png
from studio.api.schemas.jobs import Queued, queued
from studio.api.schemas.maps import (
    AlphaRole,
    ChannelCounts,
    Copied,
    CopyTo,
    DerivedMap,
    LayerIn,
    Place,
    RecipeIn,
    ShareIn,
    TrialsIn,
)
from studio.api.schemas.shared import MapOut
from studio.api.seen import IfMatch, newest_of, seen
from studio.projects.models import Membership
from studio.sets import asked, editing
from studio.sets.facts import ChainsOut, MisreadOut, TrialsOut
from studio.sets.many import ask_to_change_many
from studio.sets.mips import chain_digests
from studio.sets.models import Placement
from studio.sets.pictures import map_digest, view_key
from studio.sets.previews import PREVIEW_SIDE
from studio.sets.trials import ask_to_try
from texel.errors import BadDocument
from texel.pictures import View
from texel.recipes import step_label
from texel.roles import role_named
from texel.schemas import load_json

router = Router(tags=["maps"])
_MAX_VALUES = 2048 * 2048
# Larger pictures are looked at by tiles.
_LARGEST = 4096
_PREPARE = Membership.Right.PREPARE


def _map(request: HttpRequest, slug: Path[str], pk: int, right: str = Membership.Right.LOOK) -> Placement:
    rows = Placement.objects.select_related("file__source", "set", "project")
    return get_object_or_404(rows, pk=pk, project=project_for(request, slug, right))


def _made(request: HttpRequest, slug: str, pk: int) -> MapOut:
    return map_out(_map(request, slug, pk), True)


@newest_of(Placement)
def _newest(request: HttpRequest, row: Placement) -> MapOut:
    return map_out(Placement.objects.select_related("file__source").get(pk=row.pk), True)


@router.post("/{int:pk}/place", response=MapOut)
def place(request: HttpRequest, slug: Path[str], pk: int, given: Place, if_match: IfMatch = None) -> Any:
    """Give a map a role in a set (an existing one, or a new one by name), or none."""
    project, by = project_for(request, slug, _PREPARE), user_of(request)
    if given.new_set is not None:
        editing.move_to_new(project, pk, given.new_set, given.role, by, seen(if_match))
    else:
        role = given.role if given.set is not None else ""
        editing.move(project, pk, given.set, role, by, seen(if_match))
    return _made(request, slug, pk)


@router.post("/{int:pk}/share", response=MapOut)
def share(request: HttpRequest, slug: Path[str], pk: int, given: ShareIn, if_match: IfMatch = None) -> Any:
    """Let another set use a map as well, in the same role."""
    project = project_for(request, slug, _PREPARE)
    return _made(request, slug, editing.share(project, pk, given.set, user_of(request), seen(if_match)))


@router.put("/{int:pk}/recipe", response=MapOut)
def put_recipe(request: HttpRequest, slug: Path[str], pk: int, given: RecipeIn, if_match: IfMatch = None) -> Any:
    """Replace the steps of a map. The source stays as it is."""
    project = project_for(request, slug, _PREPARE)
    label = given.label or ", ".join(step_label(step) for step in given.recipe) or "Remove all steps"
    editing.set_recipe(project, pk, given.recipe, label, user_of(request), seen(if_match))
    return _made(request, slug, pk)


@router.post("/{int:pk}/alpha", response=MapOut)
def use_alpha(request: HttpRequest, slug: Path[str], pk: int, given: AlphaRole, if_match: IfMatch = None) -> Any:
    """Give the file's alpha channel a role of its own in the same set."""
    project = project_for(request, slug, _PREPARE)
    made = editing.add_alpha_map(project, pk, given.role, user_of(request), seen(if_match))
    return _made(request, slug, made)


@router.post("/{int:pk}/layer", response=MapOut)
def use_layer(request: HttpRequest, slug: Path[str], pk: int, given: LayerIn, if_match: IfMatch = None) -> Any:
    """Choose another picture of a file that holds several, by its name."""
    project = project_for(request, slug, _PREPARE)
    editing.set_layer(project, pk, given.layer, user_of(request), seen(if_match))
    return _made(request, slug, pk)


@router.post("/{int:pk}/derive", response=MapOut)
def derive(request: HttpRequest, slug: Path[str], pk: int, given: DerivedMap, if_match: IfMatch = None) -> Any:
    """A new map of the set in another role, made from this map's file by steps."""
    project = project_for(request, slug, _PREPARE)
    made = editing.derive_map(project, pk, given.role, given.recipe, user_of(request), seen(if_match))
    return _made(request, slug, made)


@router.post("/{int:pk}/copy-recipe", response={200: Copied, 202: Queued})
def copy_recipe(
    request: HttpRequest, slug: Path[str], pk: int, given: CopyTo, if_match: IfMatch = None, later: bool = False
) -> Any:
    """Give the maps of the same role in other sets this map's steps, as one change. later: as a job, with progress."""
    project = project_for(request, slug, _PREPARE)
    if later:
        asked = {"map": pk, "sets": given.sets, "seen": seen(if_match)}
        return queued(ask_to_change_many(project, "copied steps", asked, user_of(request)))
    return {"maps": editing.copy_recipe(project, pk, given.sets, user_of(request), seen(if_match))}


@router.get("/{int:pk}/preview")
def try_out(
    request: HttpRequest,
    slug: Path[str],
    pk: int,
    recipe: str,
    role: str = "",
    side: int = PREVIEW_SIDE,
    channel: str = "",
) -> HttpResponse:
    """A PNG of the map as a recipe (JSON) would leave it, at screen resolution. Nothing is kept.

    role: read the map's file in another role, to try a derived map out. The headers X-Texel-Seam-X and -Y say how much
    the step across the borders exceeds those inside.
    """
    placement = _map(request, slug, pk)
    steps = load_json(recipe, "the recipe")
    if not isinstance(steps, list) or not all(isinstance(step, dict) for step in steps):
        raise BadDocument("a recipe is a list of steps")
    role = role_named(role).value if role else ""
    made = asked.draw_preview.ask(
        user_of(request).pk, f"small {placement.file.source_id}", map=pk, recipe=steps, role=role,
        side=max(16, min(side, PREVIEW_SIDE)), channel=channel,
    )  # fmt: skip
    headers = {f"X-Texel-{key}": str(value) for key, value in made.said.items()}
    return HttpResponse(made.data, content_type="image/png", headers={"Cache-Control": "no-store", **headers})


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


def _side(side: int) -> int:
    """The longest side of a picture: what was asked for, or the largest that there is."""
    return max(1, min(side, _LARGEST)) if side else _LARGEST


def _near(request: HttpRequest, placement: Placement, source: bool = False) -> tuple[int, str]:
    """Who asks, and which map a child may still hold."""
    return user_of(request).pk, f"{_shown(placement, source)} {placement.role}"


def _shown(placement: Placement, source: bool) -> str:
    """The digest of what a picture shows: the file, or the map with its steps."""
    return (placement.file.source_id or "") if source else map_digest(placement)


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
    """A PNG of the map. side: longest side, 0 for the largest that there is (4096); source: without its recipe.

    Add the digest as v.
    """
    placement = _map(request, slug, pk)
    if placement.file.source is None or not placement.file.source.probe:
        raise Http404("This file holds no picture.")
    view = View(_side(side), channel or None, _box(box))
    data = (
        store.read_bytes("picture", view_key(placement, view, not source))
        or asked.draw_map.ask(
            *_near(request, placement, source), map=pk, side=view.side, channel=channel, box=view.box, source=source
        ).data
    )
    return png(request, data, _shown(placement, source), role=placement.role)


@router.get("/{int:pk}/tile/{int:level}/{int:column}/{int:row}")
def show_tile(
    request: HttpRequest, slug: Path[str], pk: int, level: int, column: int, row: int, channel: str = "",
    source: bool = False,
) -> HttpResponse:  # fmt: skip
    """A PNG of one cell of 512 pixels a side; each pixel the mean of 2^level texels a side. Add the digest as v."""
    placement = _map(request, slug, pk)
    key = asked.tile_key(placement, level, column, row, channel, source)
    data = (
        store.read_bytes("picture", key)
        or asked.draw_tile.ask(
            *_near(request, placement, source),
            map=pk,
            level=level,
            column=column,
            row=row,
            channel=channel,
            source=source,
        ).data
    )
    return png(request, data, _shown(placement, source), role=placement.role)


@router.get("/{int:pk}/histogram", response=dict[str, ChannelCounts])
def show_histogram(request: HttpRequest, slug: Path[str], pk: int, source: bool = False) -> Any:
    """By channel letter, from every texel of the map."""
    placement = _map(request, slug, pk)
    return asked.figure_histogram.ask(*_near(request, placement, source), map=pk, source=source).said


@router.get("/{int:pk}/values")
def values(
    request: HttpRequest, slug: Path[str], pk: int, x: int = 0, y: int = 0, width: int = 256, height: int = 256,
    source: bool = False,
) -> HttpResponse:  # fmt: skip
    """Stored numbers of a rectangle, little-endian; the headers X-Texel-* say what they are."""
    placement = _map(request, slug, pk)
    if width < 1 or height < 1 or width * height > _MAX_VALUES:
        raise BadDocument("ask for 1 to {max_values} texels at a time", max_values=_MAX_VALUES)
    made = asked.read_values.ask(
        *_near(request, placement, source), map=pk, x=x, y=y, width=width, height=height, source=source
    )
    headers = {f"X-Texel-{key.title()}": value for key, value in made.said.items()}
    kept = picture_headers(request, _shown(placement, source), role=placement.role)
    return HttpResponse(made.data, content_type="application/octet-stream", headers={**kept, **headers})


@router.get("/{int:pk}/trials", response=TrialsOut)
def show_trials(request: HttpRequest, slug: Path[str], pk: int, quality: str = "normal") -> Any:
    """What was tried on the map so far."""
    placement = _map(request, slug, pk)
    return asked.figure_trials.ask(*_near(request, placement), map=pk, quality=quality).said


@router.post("/{int:pk}/trials", response=Queued)
def try_on(request: HttpRequest, slug: Path[str], pk: int, given: TrialsIn) -> Any:
    """Try formats on the whole map, in a worker. Nothing about the map changes."""
    placement = _map(request, slug, pk, Membership.Right.PREPARE)
    return {"job": ask_to_try(placement, given.formats, given.quality, user_of(request)).pk}


@router.get("/{int:pk}/trials/{format}/{what}")
def show_trial(
    request: HttpRequest, slug: Path[str], pk: int, format: str, what: str, quality: str = "normal", side: int = 0,
    channel: str = "",
) -> HttpResponse:  # fmt: skip
    """A PNG of a trial. what: decoded, or error (where it lies, white for 10 CIEDE2000, 10 degrees, a step of 0.1)."""
    placement = _map(request, slug, pk)
    made = asked.draw_trial.ask(
        *_near(request, placement), map=pk, format=format, quality=quality, what=what, side=_side(side), channel=channel
    )
    return png(request, made.data, map_digest(placement), role=placement.role)


@router.get("/{int:pk}/misread", response=list[MisreadOut])
def show_misreadings(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """What happens when a target reads the map wrongly, in figures."""
    placement = _map(request, slug, pk)
    return asked.figure_misreadings.ask(*_near(request, placement), map=pk).said


@router.get("/{int:pk}/misread/{key}")
def show_misread(
    request: HttpRequest, slug: Path[str], pk: int, key: str, side: int = 0, channel: str = ""
) -> HttpResponse:
    """A PNG of the map as that misreading leaves it. Add the digest as v."""
    placement = _map(request, slug, pk)
    known = asked.misread_key(placement, key, View(_side(side), channel or None))
    data = (
        store.read_bytes("picture", known)
        or asked.draw_misread.ask(*_near(request, placement), map=pk, key=key, side=_side(side), channel=channel).data
    )
    return png(request, data, map_digest(placement), role=placement.role)


@router.get("/{int:pk}/mips", response=ChainsOut)
def show_mips(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """The map's mip chain beside plain averaging, level by level, in numbers."""
    placement = _map(request, slug, pk)
    return asked.figure_chains.ask(*_near(request, placement), map=pk).said


@router.get("/{int:pk}/mips/{int:level}")
def show_level(
    request: HttpRequest, slug: Path[str], pk: int, level: int, naive: bool = False, channel: str = ""
) -> HttpResponse:
    """A PNG of one level, at its own size. naive: as plain averaging of the stored numbers makes it.

    Add the digests of the map and of the normal map as v.
    """
    placement = _map(request, slug, pk)
    made = asked.draw_level.ask(*_near(request, placement), map=pk, level=level, naive=naive, channel=channel)
    return png(request, made.data, *chain_digests(placement), role=placement.role)
