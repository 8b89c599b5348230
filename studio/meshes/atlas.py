"""An atlas as it is asked for: which sets, how large each cell is, which slots of models come to wear it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from typing_extensions import TypedDict

from studio.changes.errors import Conflict
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.materials.casts import Listed, overview
from studio.meshes.models import Mesh
from studio.meshes.slots import facts_of, tiling_of
from studio.projects.models import Project
from studio.sets.documents import core_sets
from studio.sets.models import TextureSet
from texel.atlas.packing import AtlasPlan, plan_atlas, sides_of_density
from texel.meshes.facts import SlotFacts
from texel.meshes.judging import OUTSIDE
from texel.sets import TextureSet as CoreSet

__all__ = ["AtlasOrder", "Move", "ask_for_atlas", "atlas_sets", "moves_of", "planned"]


class AtlasOrder(TypedDict):
    """What is asked for, as a job keeps it. sets, models: ids. padding: texels of room around each cell. side: width
    and height of the atlas, None for the smallest that holds all. by_density: whether cells get the same texels a metre
    on these models; density: how many, None for the most that no set falls short of."""

    name: str
    sets: list[int]
    models: list[int]
    padding: int
    side: list[int] | None
    by_density: bool
    density: float | None


class Move(NamedTuple):
    """A slot that wears one of the sets. kind, pk: of what it wears. problem: why it keeps wearing that, "" where it
    comes to wear the atlas."""

    mesh: Mesh
    key: str
    slot: SlotFacts
    kind: str
    pk: int
    set: int
    problem: str


@dataclass(frozen=True)
class _Filled:
    """A cast as far as an atlas matters. sets: that fill it."""

    name: str
    sets: frozenset[int]
    tiling: float


def atlas_sets(project: Project, ids: Sequence[int]) -> list[TextureSet]:
    """The sets in the order asked for. Raises Conflict where one is gone or named twice."""
    rows = {one.pk: one for one in project.sets.filter(pk__in=ids).prefetch_related("placements__file__source")}
    if len(rows) < len(ids):
        raise Conflict("a set that was chosen is gone, or chosen twice")
    return [rows[pk] for pk in ids]


def _casts(listed: Iterable[Listed]) -> dict[int, _Filled]:
    return {
        row.cast.pk: _Filled(
            row.cast.name, frozenset(fill["set"] for fill in row.told.slots.values()), tiling_of(row.told)
        )
        for row in listed
    }  # fmt: skip


def moves_of(project: Project, order: AtlasOrder) -> list[Move]:
    """Slots of the models that wear one of the sets, or a cast that is filled by one. Raises Conflict for a model that
    is gone or not measured."""
    rows = list(project.meshes.filter(pk__in=order["models"]).select_related("version", "project"))
    if len(rows) < len(set(order["models"])):
        raise Conflict("a model that was chosen is gone")
    casts = _casts(overview(project)) if rows else {}
    return [one for row in rows for one in _moves_of_one(row, casts, set(order["sets"]))]


def _moves_of_one(mesh: Mesh, casts: Mapping[int, _Filled], sets: set[int]) -> Iterator[Move]:
    facts = facts_of(mesh)
    if facts is None:
        raise Conflict("{model} is not measured yet; wait for that", model=mesh.name)
    for key, slot in zip(facts.keys, facts.slots, strict=True):
        wears = mesh.wears.get(key)
        if not wears or not slot.is_worn:
            continue
        filled = casts.get(wears["id"]) if wears["kind"] == "cast" else None
        used = filled.sets if filled else frozenset([wears["id"]] if wears["kind"] == "set" else [])
        for pk in sorted(used & sets)[:1]:
            problem = _problem(slot, filled, wears.get("region") is not None)
            yield Move(mesh, key, slot, wears["kind"], wears["id"], pk, problem)


def _problem(slot: SlotFacts, filled: _Filled | None, has_region: bool) -> str:
    if has_region:
        return "it uses a region already"
    if slot.uv_area is None:
        return "it has no UVs"
    if slot.outside > OUTSIDE:
        return "its UVs reach beyond 0 to 1, so its maps repeat"
    if filled is not None and len(filled.sets) > 1:
        return f"{filled.name} is filled by several sets"
    if filled is not None and filled.tiling != 1:
        return f"{filled.name} repeats its maps {filled.tiling:g} times"
    return ""


def planned(order: AtlasOrder, sets: Sequence[CoreSet], own: Mapping[str, tuple[int, int]], moves: Iterable[Move],
            names: Mapping[int, str]) -> AtlasPlan:  # fmt: skip
    """Where the sets lie. own: texels of each set's maps. names: of the sets, by id. Raises BadDocument."""
    sizes = {one.name: own[one.name] for one in sets}
    if order["by_density"]:
        unit: dict[str, float] = {}
        for move in moves:
            density, name = move.slot.density, names[move.set]
            # The slot on which a set is spread widest needs the most texels.
            if density and not move.problem:
                unit[name] = min(density, unit.get(name, density))
        sizes = sides_of_density(sizes, unit, order["density"])
    side = order["side"]
    return plan_atlas(sizes, order["padding"], (side[0], side[1]) if side else None)


def ask_for_atlas(project: Project, order: AtlasOrder, by: Any) -> Job:
    """Queue it. Raises Conflict for what is gone, or without a name; BadDocument where the sets do not fit."""
    name = " ".join(order["name"].split())
    if not name or len(name) > 100:
        raise Conflict("an atlas needs a name of at most 100 characters")
    core_sets(atlas_sets(project, order["sets"]))
    moves_of(project, order)
    return enqueue(project, "atlas", f"Atlas {name}", by, order={**order, "name": name})
