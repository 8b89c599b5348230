"""Pictures and figures of maps, as the page asks for them. Made apart; what is kept is found without (see ``kept``)."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from django.http import Http404

from studio import store
from studio.apart import Made, apart
from studio.intake.models import FileVersion
from studio.sets.mips import chains_document, level_picture
from studio.sets.models import Placement
from studio.sets.pictures import picture_key, render
from studio.sets.previews import preview
from studio.sets.reading import read_map
from studio.sets.trials import trial_picture, trials_document
from texel.document_types import StepDocument
from texel.image import Texels
from texel.misread import misread, misread_figures
from texel.pictures import View, histogram, picture, stored_values, tile
from texel.recipes.tileable import Tileable, patches_for, without_tileable
from texel.roles import Role

__all__ = [
    "draw_level", "draw_map", "draw_misread", "draw_preview", "draw_tile", "draw_trial", "draw_version",
    "figure_chains", "figure_histogram", "figure_misreadings", "figure_trials", "misread_key", "plan_tileable",
    "read_values",
    "tile_key",
]  # fmt: skip


def _map(pk: int) -> Placement:
    placement = Placement.objects.select_related("file__source", "set", "project").filter(pk=pk).first()
    if placement is None:
        raise Http404("There is no such map any more.")
    return placement


def _in_role(placement: Placement) -> Texels:
    texels = read_map(placement)
    return texels if texels.role is not None or not placement.role else texels.as_role(Role(placement.role))


def _view(side: int | None, channel: str, box: list[int] | None = None, pack: bool = True) -> View:
    return View(side, channel or None, (box[0], box[1], box[2], box[3]) if box else None, pack)


@apart
def draw_map(map: int, side: int | None, channel: str, box: list[int] | None, source: bool) -> Made:
    """The PNG of a map, kept."""
    placement = _map(map)
    return Made(render(placement, _view(side, channel, box), lambda: read_map(placement, not source), not source))


@apart
def draw_version(version: int, of: str, map: int, side: int | None, channel: str) -> Made:
    """The PNG of a map with its steps, drawn from the content before a version of its file, or from that after."""
    one, placement, view = FileVersion.objects.get(pk=version), _map(map), _view(side, channel)
    source = one.before if of == "before" else one.after
    if source is None:
        raise Http404("There was nothing readable before.")
    placement.file.source = source
    return Made(render(placement, view, lambda: read_map(placement)))


def tile_key(placement: Placement, level: int, column: int, row: int, channel: str, source: bool) -> str:
    return picture_key(placement, not source, tile=[level, column, row], channel=channel)


@apart
def draw_tile(map: int, level: int, column: int, row: int, channel: str, source: bool) -> Made:
    """The PNG of one cell of a map, kept."""
    placement = _map(map)
    key = tile_key(placement, level, column, row, channel, source)
    whole = read_map(placement, not source)
    return Made(store.cached("picture", key, lambda: tile(whole, level, column, row, channel or None)))


@apart
def draw_preview(map: int, recipe: list[StepDocument], role: str, side: int, channel: str) -> Made:
    """The PNG of a map as a recipe would leave it, and what the whole map would be. Nothing is kept of it."""
    placement = _map(map)
    if role:
        placement.role = role
    data, shape, seams = preview(placement, recipe, _view(side, channel, pack=False))
    whole = {"Width": shape.width, "Height": shape.height, "Channels": shape.channels, "Bits": shape.bits}
    return Made(data, {**whole, "Seam-X": seams["x"], "Seam-Y": seams["y"]})


@apart
def plan_tileable(map: int, order: Mapping[str, Any]) -> Made:
    """What is laid where along a set's borders, as a map decides it without its own steps for that."""
    placement = _map(map)
    placement.recipe = without_tileable(placement.recipe)  # never saved
    return Made(said=patches_for(Tileable(**order).checked(), _in_role(placement)))


@apart
def figure_histogram(map: int, source: bool) -> Made:
    return Made(said=histogram(read_map(_map(map), not source)))


@apart
def read_values(map: int, x: int, y: int, width: int, height: int, source: bool) -> Made:
    """The stored numbers of a rectangle, and what they are."""
    return Made(*stored_values(read_map(_map(map), not source), x, y, width, height))


@apart
def figure_trials(map: int, quality: str) -> Made:
    return Made(said=trials_document(_map(map), quality))


@apart
def draw_trial(map: int, format: str, quality: str, what: str, side: int | None, channel: str) -> Made:
    return Made(trial_picture(_map(map), format, quality, what, _view(side, channel)))


@apart
def figure_misreadings(map: int) -> Made:
    return Made(said=json.loads(json.dumps(misread_figures(_in_role(_map(map))))))


def misread_key(placement: Placement, key: str, view: View) -> str:
    return picture_key(placement, misread=key, side=view.side, channel=view.channel)


@apart
def draw_misread(map: int, key: str, side: int | None, channel: str) -> Made:
    """The PNG of a map as a misreading leaves it, kept."""
    placement, view = _map(map), _view(side, channel)
    made = misread_key(placement, key, view)
    return Made(store.cached("picture", made, lambda: picture(misread(_in_role(placement), key), view)))


@apart
def figure_chains(map: int) -> Made:
    return Made(said=chains_document(_map(map)))


@apart
def draw_level(map: int, level: int, naive: bool, channel: str) -> Made:
    return Made(level_picture(_map(map), level, naive, channel or None))
