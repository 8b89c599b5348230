"""What a mesh file holds, measured once: by slot its UVs, areas, islands and gaps. Checks are made from these alone."""

from __future__ import annotations

import math
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.meshes.islands import Layout, coverage, gap_between, layout_of
from texel.meshes.mesh import MeshFile, Piece
from texel.meshes.slots import slot_keys

__all__ = ["MeshFacts", "PartFacts", "SlotFacts", "measure_mesh", "mesh_facts_of", "triangle_areas", "uv_unit"]

# Of the raster in which islands are laid out: a texel of it is one of a map of this size.
GAP_SIDE = 2048
# Less of the UV area that must repeat is a seam that was rounded.
_TILED = 0.01


@dataclass(frozen=True)
class SlotFacts:
    """One slot. parts: names of those that wear it. triangles: of the finest level.

    area: square metres. uv_area: of all its triangles, 1 is the whole texture; None where UVs are missing.
    density: texels a metre on a map of one texel, so that times its side it is the density on that map: the root of
    uv_area over area. even: the same for the triangles that lie at 5 and at 95 % of the area, sorted by density.
    overlap: share of the covered texels that more than one triangle covers; None where the UVs repeat.
    mirrored: share of the UV area that is seen mirrored. outside: share of it beyond 0 to 1. is_tiled: whether UVs
    repeat. gap: fewest texels between two islands on a map of 2048; None where there is one island, or where islands
    lie over each other or repeat. islands: how many. empty: triangles without area in UV space. unit: metres of surface
    that one step of U, and one of V, goes over in the mean; None without UVs. outside_v: as outside, of V alone.
    """

    name: str
    parts: tuple[str, ...]
    triangles: int
    area: float
    uv_area: float | None
    density: float | None
    even: tuple[float, float] | None
    overlap: float | None
    mirrored: float
    outside: float
    is_tiled: bool
    islands: int
    gap: int | None
    empty: int
    unit: tuple[float, float] | None
    outside_v: float
    has_tangents: bool
    has_normals: bool
    has_colours: bool
    uv_sets: int
    textures: tuple[tuple[str, str, int, bool], ...]
    alpha: str
    double_sided: bool

    @property
    def is_worn(self) -> bool:
        return self.triangles > 0


@dataclass(frozen=True)
class PartFacts:
    """One part. levels: triangles by level of detail, the finest first. slots: indices of those that it wears."""

    name: str
    levels: tuple[int, ...]
    slots: tuple[int, ...]


@dataclass(frozen=True)
class MeshFacts:
    """size: metres along x, y and z of the box around the finest level. parts, slots: in the order of the file."""

    name: str
    kind: str
    triangles: int
    points: int
    size: tuple[float, float, float]
    parts: tuple[PartFacts, ...]
    slots: tuple[SlotFacts, ...]
    remarks: tuple[str, ...]

    @property
    def keys(self) -> list[str]:
        """The key of each slot, see texel.meshes.slots."""
        return slot_keys([one.name for one in self.slots])

    def document(self) -> dict[str, Any]:
        return asdict(self)


def mesh_facts_of(document: dict[str, Any]) -> MeshFacts:
    """Facts from their document."""
    parts = tuple(
        PartFacts(one["name"], tuple(one["levels"]), tuple(one["slots"])) for one in document["parts"]
    )  # fmt: skip
    slots = []
    for one in document["slots"]:
        even = tuple(one["even"]) if one["even"] else None
        uses = tuple(tuple(use) for use in one["textures"])
        told = one.get("unit")
        unit = (told[0], told[1]) if told else None
        more = {"unit": unit, "outside_v": one.get("outside_v", 0.0)}
        slots.append(SlotFacts(**{**one, "parts": tuple(one["parts"]), "even": even, "textures": uses, **more}))
    kept = {**document, "parts": parts, "slots": tuple(slots), "size": tuple(document["size"])}
    return MeshFacts(**{**kept, "remarks": tuple(document["remarks"])})


def measure_mesh(mesh: MeshFile, scale: float = 1.0) -> MeshFacts:
    """scale: metres of one unit of the file."""
    finest = [one for one in mesh.pieces if one.level == mesh.levels()[0] and len(one.positions)]
    low = np.min([one.positions.min(axis=0) for one in finest], axis=0)
    high = np.max([one.positions.max(axis=0) for one in finest], axis=0)
    size = [float(one) for one in (high.astype(float) - low) * scale]
    return MeshFacts(
        mesh.name, mesh.kind, sum(len(one.triangles) for one in finest), sum(len(one.positions) for one in finest),
        (size[0], size[1], size[2]), tuple(_parts(mesh)), tuple(_slots(mesh, scale)), mesh.remarks,
    )  # fmt: skip


def _parts(mesh: MeshFile) -> list[PartFacts]:
    levels, made = mesh.levels(), []
    for name in dict.fromkeys(one.part for one in mesh.pieces):
        some = [one for one in mesh.pieces if one.part == name]
        counts = [sum(len(one.triangles) for one in some if one.level == level) for level in levels]
        made.append(PartFacts(name, tuple(counts), tuple(dict.fromkeys(one.slot for one in some))))
    return made


def _slots(mesh: MeshFile, scale: float) -> list[SlotFacts]:
    made = []
    finest = mesh.levels()[0]
    for at, slot in enumerate(mesh.slots):
        pieces = mesh.of_slot(at, finest)
        areas = triangle_areas(pieces) * scale * scale
        layout = layout_of(pieces)
        told = {**_told(layout, areas), "unit": uv_unit(pieces, scale)}
        made.append(SlotFacts(
            name=slot.name, parts=tuple(dict.fromkeys(one.part for one in mesh.of_slot(at, None))),
            triangles=len(areas), area=float(areas.sum()), **told,
            has_tangents=bool(pieces) and all(one.tangents is not None for one in pieces),
            has_normals=bool(pieces) and all(one.normals is not None for one in pieces),
            has_colours=any(one.colours is not None for one in pieces),
            uv_sets=min((len(one.uvs) for one in pieces), default=0),
            textures=tuple((one.use, one.file, one.uv_set, one.is_inside) for one in slot.textures),
            alpha=slot.alpha, double_sided=slot.double_sided,
        ))  # fmt: skip
    return made


def triangle_areas(pieces: list[Piece]) -> NDArray[np.float64]:
    """Of every triangle, in square units of the positions: half the length of the product of two edges."""
    areas = [np.zeros(0)]
    for one in pieces:
        corners = one.positions.astype(np.float64)[one.triangles]
        crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        areas.append(np.linalg.norm(crossed, axis=1) / 2)
    return np.concatenate(areas)


def _told(layout: Layout | None, areas: NDArray[np.float64]) -> dict[str, Any]:
    nothing = {
        "uv_area": None, "density": None, "even": None, "overlap": None, "mirrored": 0.0, "outside": 0.0,
        "is_tiled": False, "islands": 0, "gap": None, "empty": 0, "outside_v": 0.0,
    }  # fmt: skip
    whole = float(areas.sum())
    if layout is None:
        return nothing
    sizes = np.abs(layout.signed) / 2
    uv_area = float(sizes.sum())
    flat = (sizes < 1e-12) & (areas > 0)
    if uv_area <= 0:
        return nothing | {"uv_area": 0.0, "empty": int(flat.sum())}
    strays: NDArray[np.bool_] = np.any((layout.corners < -1e-4) | (layout.corners > 1 + 1e-4), axis=1)
    beyond = strays[:, 0] | strays[:, 1]
    is_tiled = layout.spanning > _TILED
    overlap, gap = None, None
    if not is_tiled:
        count, owner = coverage(layout, GAP_SIDE, GAP_SIDE)
        covered = int((count > 0).sum())
        overlap = float((count > 1).sum() / covered) if covered else 0.0
        gap = gap_between(owner) if layout.islands > 1 else None
    return {
        "uv_area": uv_area, "density": math.sqrt(uv_area / whole) if whole > 0 else None,
        "even": _even(sizes, areas), "overlap": overlap,
        "mirrored": float(sizes[layout.signed < 0].sum() / uv_area),
        "outside": float(sizes[beyond].sum() / uv_area), "is_tiled": is_tiled, "islands": layout.islands, "gap": gap,
        "empty": int(flat.sum()), "outside_v": float(sizes[strays[:, 1]].sum() / uv_area),
    }  # fmt: skip


def uv_unit(pieces: list[Piece], scale: float = 1.0) -> tuple[float, float] | None:
    """Metres of surface that one step of U, and one of V, goes over: lengths of its derivatives, their mean by UV
    area. scale: metres of one unit. None where UVs are missing or cover nothing.

    >>> square = np.array([[0, 0, 0], [4, 0, 0], [4, 0, 1], [0, 0, 1]], np.float32)
    >>> uv = np.array([[0, 0], [2, 0], [2, 1], [0, 1]], np.float32)
    >>> uv_unit([Piece("deck", 0, square, np.array([[0, 2, 1], [0, 3, 2]], np.int32), (uv,))])
    (2.0, 1.0)
    """
    lengths, weights = [np.zeros((0, 2))], [np.zeros(0)]
    for one in pieces:
        if not one.uvs:
            return None
        place, uv = one.positions.astype(np.float64)[one.triangles], one.uvs[0].astype(np.float64)[one.triangles]
        # Edges in the world are the derivatives times the edges in UV space, which are inverted to get them.
        (a, b), (c, d) = (uv[:, 1] - uv[:, 0]).T, (uv[:, 2] - uv[:, 0]).T
        turn = a * d - b * c
        sound = np.abs(turn) > 1e-15
        edge_1, edge_2 = (place[:, 1] - place[:, 0])[sound], (place[:, 2] - place[:, 0])[sound]
        over = 1 / turn[sound][:, None]
        along_u = (edge_1 * d[sound][:, None] - edge_2 * b[sound][:, None]) * over
        along_v = (edge_2 * a[sound][:, None] - edge_1 * c[sound][:, None]) * over
        lengths.append(np.stack([np.linalg.norm(along_u, axis=1), np.linalg.norm(along_v, axis=1)], axis=1))
        weights.append(np.abs(turn[sound]))
    weight = np.concatenate(weights)
    if weight.sum() <= 0:
        return None
    u, v = (np.concatenate(lengths) * weight[:, None]).sum(axis=0) / weight.sum() * scale
    return (float(u), float(v)) if u > 0 and v > 0 else None


def _even(sizes: NDArray[np.float64], areas: NDArray[np.float64]) -> tuple[float, float] | None:
    """Densities of a map of one texel, at 5 and at 95 % of the area of the surface."""
    sound = areas > 0
    if not sound.any():
        return None
    density = np.sqrt(sizes[sound] / areas[sound])
    order = np.argsort(density)
    reached = np.cumsum(areas[sound][order])
    at = np.searchsorted(reached, reached[-1] * np.array([0.05, 0.95]))
    low, high = density[order][np.minimum(at, len(order) - 1)]
    return float(low), float(high)
