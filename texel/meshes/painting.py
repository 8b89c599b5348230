"""Vertex colours painted on a model: strokes of a round brush in space, so that they hold for its next export too.

The page lays strokes down by the same formula while they are drawn (web/src/screens/models/vertexBrush.ts).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any, NamedTuple, cast

import numpy as np
from numpy.typing import NDArray

from texel.document_types import VertexStrokeDocument
from texel.errors import BadDocument
from texel.meshes.mesh import Floats, MeshFile, Piece
from texel.meshes.slots import slot_keys
from texel.schemas import check_document

__all__ = ["CHANNELS", "Spacing", "VertexStroke", "painted_mesh", "parse_painting", "point_normals", "spacing_under"]

CHANNELS = ("red", "green", "blue", "alpha")
# Without colours of its own a mesh is unpainted: no layer but the first, which sheets read as black.
_BARE = (0.0, 0.0, 0.0, 1.0)
# Points that a soft border needs across it, so that its curve shows and does not become a ragged line.
_ACROSS = 2
# A hard border is as ragged as points lie apart: no more than this share of the radius.
_HARD = 0.25
Line = NDArray[np.float64]


@dataclass(frozen=True)
class VertexStroke:
    """channel: one of CHANNELS. points: place, normal of the surface, and pressure 0 to 1, shape (n, 7), in units of
    the file. radius: in the same. strength: -1 to 1. falloff: the share of the radius over which it fades. slot: key of
    the slot that is painted, None for all. mirror: once more on the other side, where x is 0."""

    channel: str
    points: NDArray[np.float64]
    radius: float
    strength: float
    falloff: float = 0.5
    slot: str | None = None
    mirror: bool = False

    def lines(self) -> list[Line]:
        """From point to point, shape (2, 7) each, the first one a touch where the stroke begins; then their copies."""
        lines = [np.array(pair) for pair in pairwise([self.points[0], *self.points])]
        if not self.mirror:
            return lines
        turned = np.array([-1, 1, 1, -1, 1, 1, 1], float)
        return lines + [one * turned for one in lines]


def parse_painting(strokes: Iterable[Mapping[str, Any]], where: str = "the painting") -> tuple[VertexStroke, ...]:
    """Strokes from their documents. Raises BadDocument.

    >>> given = {"channel": "red", "points": [[0, 0, 0, 0, 1, 0, 1]], "radius": 1, "strength": 1}
    >>> parse_painting([given])[0].lines()[0].shape
    (2, 7)
    """
    document = {"format": "fair-texel/painting", "version": 1, "strokes": list(strokes)}
    check_document(document, "painting", where)
    made = []
    for one in cast(list[VertexStrokeDocument], document["strokes"]):
        points = np.array(one["points"], float)
        lengths = np.linalg.norm(points[:, 3:6], axis=1, keepdims=True)
        if not (lengths > 0).all():
            raise BadDocument("{where}: a point has no normal", where=where)
        points[:, 3:6] /= lengths
        points[:, 6] = np.clip(points[:, 6], 0, 1)
        made.append(VertexStroke(
            one["channel"], points, float(one["radius"]), float(one["strength"]), float(one.get("falloff", 0.5)),
            one.get("slot"), bool(one.get("mirror", False)),
        ))  # fmt: skip
    return tuple(made)


def painted_mesh(mesh: MeshFile, strokes: Iterable[VertexStroke]) -> MeshFile:
    """The mesh with vertex colours of red, green, blue and alpha, 0 to 1, painted over those that it has.

    mesh: slots split. Within a stroke the strongest touch counts, so that going to and fro does not add up. Points that
    are turned away from the brush are left as they are.
    """
    keys = slot_keys([one.name for one in mesh.slots])
    colours = [_own_colours(one) for one in mesh.pieces]
    normals: dict[int, NDArray[np.float64]] = {}
    boxes = [
        (one.positions.min(axis=0, initial=np.inf), one.positions.max(axis=0, initial=-np.inf)) for one in mesh.pieces
    ]
    for stroke in strokes:
        lines = stroke.lines()
        low, high = _box(lines, stroke.radius)
        for at, piece in enumerate(mesh.pieces):
            if stroke.slot is not None and keys[piece.slot] != stroke.slot:
                continue
            if (boxes[at][0] > high).any() or (boxes[at][1] < low).any():
                continue
            near = np.flatnonzero(((piece.positions >= low) & (piece.positions <= high)).all(axis=1))
            if not len(near):
                continue
            if at not in normals:
                normals[at] = point_normals(piece)
            touch = _touched(piece.positions[near], normals[at][near], lines, stroke)
            channel = colours[at][:, CHANNELS.index(stroke.channel)]
            channel[near] = np.clip(channel[near] + np.float32(stroke.strength) * touch, 0, 1)
    pieces = tuple(replace(one, colours=made) for one, made in zip(mesh.pieces, colours, strict=True))
    return replace(mesh, pieces=pieces)


def _touched(
    places: Floats, normals: NDArray[np.float64], lines: Sequence[Line], stroke: VertexStroke
) -> NDArray[np.float32]:
    from texel.meshes.vertex_touching import touch_points

    touch = np.zeros(len(places))
    for line in lines:
        low, high = _box([line], stroke.radius)
        some = np.flatnonzero(((places >= low) & (places <= high)).all(axis=1))
        if len(some):
            part = touch[some]
            touch_points(part, places[some].astype(float), normals[some], line, stroke.radius, stroke.falloff)
            touch[some] = part
    return touch.astype(np.float32)


def _box(lines: Sequence[Line], radius: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    ends = np.concatenate([one[:, :3] for one in lines])
    return ends.min(axis=0) - radius, ends.max(axis=0) + radius


def _own_colours(piece: Piece) -> Floats:
    made = np.tile(np.array(_BARE, np.float32), (len(piece.positions), 1))
    if piece.colours is not None:
        made[:, : piece.colours.shape[1]] = piece.colours
    return made


def point_normals(piece: Piece) -> NDArray[np.float64]:
    """Normals of a piece's points, unit length: its own, else the mean of the triangles around each by their area."""
    if piece.normals is not None:
        return piece.normals.astype(float)
    corners = piece.positions.astype(float)[piece.triangles]
    crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    sums = np.zeros((len(piece.positions), 3))
    for corner in range(3):
        np.add.at(sums, piece.triangles[:, corner], crossed)
    lengths = np.linalg.norm(sums, axis=1, keepdims=True)
    return np.asarray(sums / np.where(lengths > 0, lengths, 1), float)


class Spacing(NamedTuple):
    """there: how far points of the mesh lie apart under a stroke. wanted: how near its border wants them."""

    there: float
    wanted: float

    @property
    def is_too_coarse(self) -> bool:
        return self.there > self.wanted


def spacing_under(mesh: MeshFile, stroke: VertexStroke) -> Spacing | None:
    """How fine the mesh is under a stroke: the mean length of its triangles' edges there; None where there are none."""
    keys = slot_keys([one.name for one in mesh.slots])
    low, high = _box(stroke.lines(), stroke.radius)
    lengths = []
    for piece in mesh.pieces:
        if (stroke.slot is not None and keys[piece.slot] != stroke.slot) or piece.level != mesh.levels()[0]:
            continue
        corners = piece.positions.astype(float)[piece.triangles]
        near = ((corners.max(axis=1) >= low) & (corners.min(axis=1) <= high)).all(axis=1)
        some = corners[near]
        lengths += [np.linalg.norm(some[:, at] - some[:, (at + 1) % 3], axis=1) for at in range(3)]
    edges = np.concatenate(lengths) if lengths else np.zeros(0)
    if not len(edges):
        return None
    return Spacing(float(edges.mean()), stroke.radius * max(stroke.falloff, _HARD) / _ACROSS)
