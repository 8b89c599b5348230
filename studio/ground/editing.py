"""Changes to a project's ground; each can be undone, strokes one by one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, cast

from django.core.files.base import File
from django.db import transaction
from django.db.models import Sum

from studio import store
from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.changes.kinds import free_name_in
from studio.ground.asked import check_height
from studio.ground.documents import document_of
from studio.ground.models import Ground, GroundStroke, LayerRow
from studio.intake.uploads import Arrived, room_in, safe_path, stored
from studio.projects.models import Project
from texel.errors import BadDocument
from texel.ground.painting import stroke_reach
from texel.ground.patch import parse_patch

__all__ = [
    "add_stroke", "change_ground", "clear_strokes", "create_ground", "delete_ground", "kept_layers", "must_be_sound",
    "take_height",
]  # fmt: skip

_MAX_STROKES = 20_000
# Texels that laying down one stroke, and all of a patch, may look at: a second and ten, of the time that one picture
# may take.
_MAX_TEXELS, _MAX_OF_ALL = 200_000_000, 4_000_000_000
_NEW_SHAPE = {
    "kind": "made", "low": -1.0, "high": 3.0, "seed": 1, "feature": 40.0, "rough": 0.4, "creeks": 0.4,
}  # fmt: skip
_FIELDS = ("name", "metres", "side", "far", "each", "bits", "shape", "layers")


def _new_layer(key: str, name: str, **more: Any) -> LayerRow:
    layer: LayerRow = {
        "key": key, "name": name, "wears": None, "tile": 2.0, "turn": 0.0, "repeat": "plain", "edge": 0.0, "rule": [],
    }  # fmt: skip
    return cast(LayerRow, {**layer, **more})


def create_ground(project: Project, name: str, by: Any, given: Mapping[str, Any] | None = None) -> Ground:
    """A new patch with one layer that wears nothing, or as ``given`` says. Raises BadDocument."""
    with change(project, by, "") as doing:
        called = free_name_in(project.grounds, name, "Ground")
        values = {"shape": _NEW_SHAPE, "layers": [{"name": "Ground"}], **(given or {}), "name": called}
        values["layers"] = kept_layers(project, values["layers"], ())
        doing.label = f"New ground {called}"
        ground = doing.create(Ground, project=project, by=by, **{key: values[key] for key in values if key in _FIELDS})
        must_be_sound(ground)
    return ground


def must_be_sound(ground: Ground) -> None:
    """Raises BadDocument for a patch that the core would refuse."""
    parse_patch(document_of(ground, strokes=False), ground.name)


def kept_layers(project: Project, layers: Iterable[Mapping[str, Any]], known: Iterable[str]) -> list[LayerRow]:
    """Layers with a key each, new ones with one that is not ``known``; what they wear is there. Raises Conflict."""
    given = list(layers)
    used = [*known, *(one["key"] for one in given if one.get("key"))]
    number = max((int(key[1:]) for key in used if key[1:].isdigit()), default=0)
    made: list[LayerRow] = []
    for one in given:
        key = one.get("key") or ""
        if not key:
            number += 1
            key = f"l{number}"
        if any(key == other["key"] for other in made):
            raise Conflict("two layers have the key {key}", key=key)
        wears = one.get("wears")
        if wears is not None:
            rows = project.casts if wears["kind"] == "cast" else project.sets
            if not rows.filter(pk=wears["id"]).exists():
                raise Conflict("there is no such {kind} any more", kind=wears["kind"])
        made.append(_new_layer(key, **{name: value for name, value in one.items() if name != "key"}))
    return made


def change_ground(
    project: Project, pk: int, values: Mapping[str, Any], by: Any, seen: int | None = None, label: str = ""
) -> Ground:
    """Change some of name, metres, side, far, each, bits, shape and layers. Raises BadDocument, Conflict."""
    with change(project, by, "") as doing:
        ground = doing.row(Ground, pk, seen)
        given = dict(values)
        if "name" in given:
            given["name"] = " ".join(given["name"].split())
            if project.grounds.filter(name=given["name"]).exclude(pk=pk).exists():
                raise Conflict("there is ground called {name} already", name=given["name"])
        if "layers" in given:
            painted = ground.strokes.values_list("stroke__layer", flat=True).distinct()
            given["layers"] = kept_layers(project, given["layers"], [*(one["key"] for one in ground.layers), *painted])
        if given.get("shape", {}).get("kind") == "map":
            given["shape"] = {**given["shape"], "map": ground.shape.get("map", "")}
            if ground.height_id is None:
                raise Conflict("{ground} has no height map yet", ground=ground.name)
        doing.label = label[:150] or f"Change {ground.name}"
        doing.update(ground, **given)
        must_be_sound(ground)
        if _texels_of_strokes(ground) > _MAX_OF_ALL:
            raise Conflict(
                "{ground} is painted too much for so fine a raster; clear some of the painting first",
                ground=ground.name,
            )
    return ground


def _texels_of_strokes(ground: Ground) -> float:
    """Texels that laying down all strokes looks at, on the raster that the patch has now."""
    reach: float = ground.strokes.aggregate(sum=Sum("reach"))["sum"] or 0.0
    return reach * (ground.side / ground.metres) ** 2


def take_height(
    project: Project, pk: int, name: str, file: File[Any], heights: tuple[float, float], by: Any,
    seen: int | None = None,
) -> Ground:  # fmt: skip
    """Shape a patch by a height map. heights: metres of its 0 and of its full scale. Raises UploadRejected, TexelError
    for what cannot be read."""
    called = safe_path(name).rpartition("/")[2]
    if heights[1] < heights[0]:
        raise BadDocument("the highest place is lower than the lowest")
    room_in(project, by.pk if by else 0, file.size or 0)
    path = file.temporary_file_path() if hasattr(file, "temporary_file_path") else str(file.name)
    check_height.ask(by.pk if by else 0, name=called, path=path)
    with transaction.atomic(), change(project, by, "") as doing:
        ground = doing.row(Ground, pk, seen)
        shape = {"kind": "map", "low": heights[0], "high": heights[1], "map": called}
        with stored(Arrived(called, file, store.digest_of(file), None, "")) as source:
            doing.label = f"Height map of {ground.name}"
            doing.update(ground, shape={**ground.shape, **shape}, height_id=source.pk)
        must_be_sound(ground)
    return ground


def add_stroke(project: Project, pk: int, stroke: Mapping[str, Any], by: Any) -> Ground:
    """Lay a stroke onto a layer, by its key. Raises Conflict where there is no such layer, BadDocument."""
    with change(project, by, "") as doing:
        ground = doing.row(Ground, pk)
        layer = next((one for one in ground.layers if one["key"] == stroke.get("layer")), None)
        if layer is None:
            raise Conflict("{ground} has no such layer any more", ground=ground.name)
        if ground.strokes.count() >= _MAX_STROKES:
            raise Conflict(
                "{ground} has {max_strokes} strokes, which is all it can hold",
                ground=ground.name,
                max_strokes=_MAX_STROKES,
            )
        document = document_of(ground, strokes=False)
        document["strokes"] = [cast(Any, {**stroke, "layer": layer["name"]})]
        patch = parse_patch(document, ground.name)
        reach = stroke_reach(patch.strokes[0], patch.metres, patch.side)
        if reach > _MAX_TEXELS * patch.texel**2 or _texels_of_strokes(ground) + reach / patch.texel**2 > _MAX_OF_ALL:
            raise Conflict("this stroke is too long for its radius; paint it in shorter ones, or with a smaller brush")
        takes_away = stroke["strength"] < 0
        doing.label = f"Take {layer['name']} away" if takes_away else f"Paint {layer['name']}"
        doing.create(GroundStroke, ground=ground, stroke=dict(stroke), reach=reach)
    return ground


def clear_strokes(project: Project, pk: int, layer: str | None, by: Any) -> Ground:
    """Take what was painted off a layer, by its key, or off all."""
    with change(project, by, "") as doing:
        ground = doing.row(Ground, pk)
        rows = ground.strokes.filter(stroke__layer=layer) if layer else ground.strokes.all()
        doing.label = f"Clear painting of {ground.name}"
        doing.delete_many(list(rows))
    return ground


def delete_ground(project: Project, pk: int, by: Any, seen: int | None = None) -> None:
    """Take a patch out; undo brings it back with what was painted."""
    with change(project, by, "") as doing:
        ground = doing.row(Ground, pk, seen)
        doing.label = f"Delete {ground.name}"
        doing.delete_many(list(ground.strokes.all()))
        doing.delete(ground)
