"""Ground: patches of land with layers, painting over their rules, and how strongly tiles are seen to repeat."""

from __future__ import annotations

from collections import Counter
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, Path, Router, Status
from ninja.files import UploadedFile

from studio.api.access import project_for, user_of
from studio.api.caching import picture_headers, png
from studio.api.documents import GroundDocument
from studio.api.schemas.ground import (
    GroundChange,
    GroundIn,
    GroundLayerIn,
    GroundLayerOut,
    GroundOut,
    GroundRow,
    LayerWornOut,
    RepetitionOut,
    StrokeIn,
)
from studio.api.seen import IfMatch, newest_of, seen
from studio.changes.errors import Conflict
from studio.ground import editing
from studio.ground.asked import ground_picture, heights_to_draw, layer_to_draw, repetition_told, rules_to_draw
from studio.ground.documents import Standing, document_of, laid_key, land_key, standing_of, standings
from studio.ground.models import Ground
from studio.projects.models import Membership

router = Router(tags=["ground"])
_PREPARE = Membership.Right.PREPARE
_MAX_SIDE = 1024


def _ground(request: HttpRequest, slug: str, pk: int, right: str = Membership.Right.LOOK) -> Ground:
    rows = project_for(request, slug, right).grounds.select_related("project")
    return get_object_or_404(rows, pk=pk)


def _row(standing: Standing) -> GroundRow:
    ground = standing.ground
    return {
        "id": ground.pk, "name": ground.name, "metres": ground.metres, "side": ground.side,
        "layers": len(ground.layers), "empty": sum(1 for one in standing.worn if one is None),
        "picture": standing.key()[:16],
    }  # fmt: skip


def _layers(standing: Standing) -> list[GroundLayerOut]:
    told: list[GroundLayerOut] = []
    strokes = Counter(standing.ground.strokes.values_list("stroke__layer", flat=True))
    for layer, worn in zip(standing.ground.layers, standing.worn, strict=True):
        out: LayerWornOut | None = None
        if layer["wears"] is not None:
            wears = layer["wears"]
            out = {
                "kind": wears["kind"], "id": wears["id"], "name": worn.order["name"] if worn else None,
                "state": worn.state if worn else "",
            }  # fmt: skip
        told.append({
            "key": layer["key"], "name": layer["name"], "worn": out, "tile": layer["tile"], "turn": layer["turn"],
            "repeat": layer["repeat"], "edge": layer["edge"], "rule": layer["rule"], "strokes": strokes[layer["key"]],
        })  # fmt: skip
    return told


def _out(ground: Ground) -> GroundOut:
    ground = Ground.objects.select_related("project").get(pk=ground.pk)
    standing = standing_of(ground)
    return {
        "id": ground.pk, "name": ground.name, "revision": ground.revision, "metres": ground.metres, "side": ground.side,
        "far": ground.far, "each": ground.each, "bits": ground.bits, "shape": ground.shape,
        "layers": _layers(standing), "strokes": ground.strokes.count(), "land": land_key(ground),
        "laid": standing.laid, "picture": standing.key()[:16],
    }  # fmt: skip


@newest_of(Ground)
def _newest(request: HttpRequest, row: Any) -> GroundOut:
    return _out(row)


def _given(layers: list[GroundLayerIn]) -> list[dict[str, Any]]:
    return [{**one.dict(), "wears": one.wears.dict() if one.wears else None} for one in layers]


@router.get("", response=list[GroundRow])
def list_ground(request: HttpRequest, slug: Path[str]) -> Any:
    """All patches of ground of the project."""
    project = project_for(request, slug)
    return [_row(one) for one in standings(project, project.grounds.select_related("project"))]


@router.post("", response=GroundOut)
def add_ground(request: HttpRequest, slug: Path[str], given: GroundIn) -> Any:
    """A new patch of ground."""
    project = project_for(request, slug, _PREPARE)
    values: dict[str, object] = {
        name: value for name in ("metres", "side", "shape") if (value := getattr(given, name)) is not None
    }
    if given.layers is not None:
        values["layers"] = _given(given.layers)
    return _out(editing.create_ground(project, given.name, user_of(request), values))


@router.get("/{int:pk}", response=GroundOut)
def show_ground(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    return _out(_ground(request, slug, pk))


@router.patch("/{int:pk}", response=GroundOut)
def change_ground(request: HttpRequest, slug: Path[str], pk: int, given: GroundChange, if_match: IfMatch = None) -> Any:
    """Its name, size, shape or layers."""
    ground = _ground(request, slug, pk, _PREPARE)
    values = {name: value for name, value in given.dict(exclude={"label", "layers"}).items() if value is not None}
    if given.layers is not None:
        values["layers"] = _given(given.layers)
    if not values:
        raise Conflict("say what shall change")
    return _out(editing.change_ground(ground.project, pk, values, user_of(request), seen(if_match), given.label))


@router.post("/{int:pk}/height", response=GroundOut)
def shape_by_map(
    request: HttpRequest, slug: Path[str], pk: int, file: File[UploadedFile], low: Form[float], high: Form[float],
    if_match: IfMatch = None,
) -> Any:  # fmt: skip
    """Shape it by a height map. low, high: metres of the map's 0 and of its full scale."""
    ground = _ground(request, slug, pk, _PREPARE)
    name = file.name or "height"
    made = editing.take_height(ground.project, pk, name, file, (low, high), user_of(request), seen(if_match))
    return _out(made)


@router.post("/{int:pk}/strokes", response=GroundOut)
def paint(request: HttpRequest, slug: Path[str], pk: int, given: StrokeIn) -> Any:
    """Lay one stroke of the brush onto a layer."""
    ground = _ground(request, slug, pk, _PREPARE)
    return _out(editing.add_stroke(ground.project, pk, given.stroke, user_of(request)))


@router.delete("/{int:pk}/strokes", response=GroundOut)
def clear_painting(request: HttpRequest, slug: Path[str], pk: int, layer: str = "") -> Any:
    """Take what was painted off a layer, by its key, or off all."""
    ground = _ground(request, slug, pk, _PREPARE)
    return _out(editing.clear_strokes(ground.project, pk, layer or None, user_of(request)))


@router.delete("/{int:pk}", response={204: None})
def delete_ground(request: HttpRequest, slug: Path[str], pk: int, if_match: IfMatch = None) -> Any:
    """Take a patch out; undo brings it back with what was painted."""
    ground = _ground(request, slug, pk, _PREPARE)
    editing.delete_ground(ground.project, pk, user_of(request), seen(if_match))
    return Status(204, None)


@router.get("/{int:pk}/ground.json", response=GroundDocument)
def ground_document(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    """The patch as `texel ground` reads it."""
    return document_of(_ground(request, slug, pk))


def _packed(request: HttpRequest, data: bytes, state: str) -> HttpResponse:
    headers = {**picture_headers(request, state), "Content-Encoding": "gzip"}
    return HttpResponse(data, content_type="application/octet-stream", headers=headers)


@router.get("/{int:pk}/heights")
def heights(request: HttpRequest, slug: Path[str], pk: int) -> HttpResponse:
    """Metres of every texel as 32-bit floats, little endian, row by row from the north-west."""
    ground = _ground(request, slug, pk)
    made = heights_to_draw.ask(user_of(request).pk, near=f"ground {pk}", ground=pk)
    return _packed(request, made.data, land_key(ground))


@router.get("/{int:pk}/rules")
def rules_and_paint(request: HttpRequest, slug: Path[str], pk: int) -> HttpResponse:
    """For each layer what its rule says, 8 bits; then for each what was painted, 8 bits with 128 for nothing."""
    ground = _ground(request, slug, pk)
    made = rules_to_draw.ask(user_of(request).pk, near=f"ground {pk}", ground=pk)
    return _packed(request, made.data, laid_key(ground))


@router.get("/{int:pk}/layers/{int:index}/tile")
def layer_tile(request: HttpRequest, slug: Path[str], pk: int, index: int) -> HttpResponse:
    """What a layer looks like: 4 bytes with the side of its largest map, then 512 x 512 texels of colour and relief, of
    normal, roughness and occlusion, and of metallic."""
    ground = _ground(request, slug, pk)
    if index >= len(ground.layers):
        raise Conflict("{ground} has {count} layers", ground=ground.name, count=len(ground.layers))
    worn = standing_of(ground).worn[index]
    made = layer_to_draw.ask(user_of(request).pk, near=f"ground {pk}", ground=pk, at=index)
    return _packed(request, made.data, worn.state if worn else "0" * 64)


@router.get("/{int:pk}/picture.png")
def picture(request: HttpRequest, slug: Path[str], pk: int, side: int = 256) -> HttpResponse:
    """The patch from above."""
    standing = standing_of(_ground(request, slug, pk))
    made = ground_picture.ask(user_of(request).pk, near=f"ground {pk}", ground=pk, side=max(16, min(side, _MAX_SIDE)))
    return png(request, made.data, standing.key())


@router.get("/{int:pk}/repetition", response=list[RepetitionOut])
def repetition(request: HttpRequest, slug: Path[str], pk: int, distance: float, layer: str = "") -> Any:
    """How strongly the tile of each layer is seen from a distance in metres. layer: key of the one of which is told
    what would help, which takes a few seconds."""
    ground = _ground(request, slug, pk)
    if not 0.1 <= distance <= 10_000:
        raise Conflict("the distance is between 0.1 and 10000 metres")
    helped = next((one["name"] for one in ground.layers if one["key"] == layer), None)
    made = repetition_told.ask(
        user_of(request).pk, near=f"ground {pk}", ground=pk, distance=round(distance, 2), helped=helped
    )
    return made.said
