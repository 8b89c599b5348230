"""What is read and drawn of ground, apart: heights, where layers lie, their tiles, pictures, repetition."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any, TypedDict, cast

from django.conf import settings
from django.http import Http404

from studio import store
from studio.apart import Made, apart
from studio.ground.documents import Standing, document_of, height_picture, laid_key, land_key, standing_of, with_library
from studio.ground.models import Ground
from texel.digest import of_document
from texel.errors import BadDocument
from texel.files import encode, read
from texel.ground.delivered import worn_layer
from texel.ground.packed import (
    floats_bytes,
    floats_from_bytes,
    patch_picture,
    rules_and_paint_bytes,
    tile_bytes,
    tile_from_bytes,
)
from texel.ground.painting import Painted, painted
from texel.ground.patch import Patch, parse_patch, parse_stroke
from texel.ground.repetition import measure_repetition
from texel.ground.surface import Ground as CoreGround
from texel.ground.terrain import Heights, heights_of
from texel.ground.tiles import tile_of
from texel.ground.weights import lay
from texel.materials.delivered import cast_order

__all__ = ["check_height", "ground_picture", "heights_to_draw", "layer_to_draw", "repetition_told", "rules_to_draw"]

# Fewer texels make no land.
_SMALLEST = 16
# What was painted is looked for among the states of so many strokes.
_LOOKED_BACK = 16


class HeightFacts(TypedDict):
    width: int
    height: int
    bits: int


def _ground(pk: int) -> Ground:
    row = Ground.objects.select_related("project").filter(pk=pk).first()
    if row is None:
        raise Http404("There is no such patch of ground any more.")
    return row


@apart
def check_height(name: str, path: str) -> Made:
    """said: what a height map holds. Raises TexelError for what is no picture, or too small."""
    with tempfile.TemporaryDirectory() as folder:
        # The decoder wants a path under the file's own name: a TGA is known by its suffix alone.
        named = Path(folder) / name
        named.symlink_to(Path(path).absolute())
        found = read(named, settings.PICTURE_LIMITS)
    if min(found.width, found.height) < _SMALLEST:
        raise BadDocument("{name}: a height map has at least {smallest} texels a side", name=name, smallest=_SMALLEST)
    told: HeightFacts = {"width": found.width, "height": found.height, "bits": found.bits}
    return Made(said=told)


def _land_bytes(ground: Ground) -> bytes:
    """The heights of a patch as texel.ground.packed.floats_bytes gives them, kept: strokes and rules leave them."""

    def make() -> bytes:
        patch = parse_patch(document_of(ground, strokes=False))
        with height_picture(ground) as picture:
            return floats_bytes(heights_of(patch, picture))

    return store.cached("drawn", land_key(ground), make)


def _land(ground: Ground) -> Heights:
    return floats_from_bytes(_land_bytes(ground), ground.side, ground.side)


def _paint(ground: Ground, patch: Patch) -> Painted:
    """What was painted on a patch: what is kept of some strokes ago, and those since; so that a stroke takes as long on
    a patch that has thousands."""
    names = {one["key"]: one["name"] for one in ground.layers}
    rows = [row for row in ground.strokes.values_list("pk", "stroke") if row[1]["layer"] in names]
    known, count = None, 0

    def key(first: int) -> str:
        return of_document([ground.metres, ground.side, list(names), [pk for pk, _ in rows[:first]]])

    for first in range(len(rows), max(0, len(rows) - _LOOKED_BACK), -1):
        data = store.read_bytes("drawn", key(first))
        if data is not None:
            known, count = floats_from_bytes(data, len(names), ground.side, ground.side), first
            break
    strokes = [parse_stroke(cast(Any, {**stroke, "layer": names[stroke["layer"]]})) for _, stroke in rows[count:]]
    paint = painted(patch, strokes, known)
    if strokes:
        store.save_bytes("drawn", key(len(rows)), floats_bytes(paint))
    return paint


@apart
def heights_to_draw(ground: int) -> Made:
    """Heights as texel.ground.packed.floats_bytes gives them, kept. Raises TexelError."""
    return Made(_land_bytes(_ground(ground)))


@apart
def rules_to_draw(ground: int) -> Made:
    """Rules and paint as texel.ground.packed.rules_and_paint_bytes gives them, kept. Raises TexelError."""
    row = _ground(ground)

    def make() -> bytes:
        patch = parse_patch(document_of(row, strokes=False))
        return rules_and_paint_bytes(patch, lay(patch, _land(row), _paint(row, patch)))

    return Made(store.cached("drawn", laid_key(row), make))


def _tile_bytes(standing: Standing, at: int) -> bytes:
    worn = standing.worn[at]
    if worn is None:
        return tile_bytes(tile_of({}))

    def make() -> bytes:
        with with_library(Standing(standing.ground, [worn])) as opened:
            order = cast_order(worn.order)
            layer = worn_layer(order, opened.sets, opened.library, opened.target, opened.greens)
            return tile_bytes(tile_of(layer.maps(opened.library)))

    return store.cached("drawn", worn.state, make)


@apart
def layer_to_draw(ground: int, at: int) -> Made:
    """The tile of a layer as texel.ground.packed.tile_bytes gives it, kept. Raises TexelError."""
    return Made(_tile_bytes(standing_of(_ground(ground)), at))


def _core(standing: Standing) -> CoreGround:
    patch = parse_patch(document_of(standing.ground, strokes=False))
    heights = _land(standing.ground)
    tiles = [tile_from_bytes(_tile_bytes(standing, at)) for at in range(len(patch.layers))]
    return CoreGround(patch, heights, lay(patch, heights, _paint(standing.ground, patch)).weights, tiles)


@apart
def ground_picture(ground: int, side: int) -> Made:
    """The PNG of a patch from above, kept. Raises TexelError."""
    standing = standing_of(_ground(ground))

    def make() -> bytes:
        return encode(patch_picture(_core(standing), side), "png")

    return Made(store.cached("drawn", standing.key(side=side), make))


@apart
def repetition_told(ground: int, distance: float, helped: str | None) -> Made:
    """said: Repetition.document of each layer. helped: name of the layer of which is told what would help. Kept. Raises
    TexelError."""
    standing = standing_of(_ground(ground))

    def make() -> bytes:
        return json.dumps([one.document() for one in measure_repetition(_core(standing), distance, helped)]).encode()

    return Made(said=json.loads(store.cached("drawn", standing.key(distance=distance, helped=helped), make)))
