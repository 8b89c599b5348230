"""Regions of sets as slots of models wear them: taken over when they are chosen, and changed with the set's."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from studio.changes.engine import Doing, change
from studio.changes.errors import Conflict
from studio.materials.casts import resolved
from studio.materials.models import Wears, WornRegion
from studio.meshes.models import Mesh
from studio.projects.models import Project
from studio.sets.models import TextureSet
from texel.atlas.regions import Region, region_of, regions_of
from texel.document_types import RegionDocument

__all__ = ["follow_regions", "region_worn", "set_regions", "worn_region"]


def region_worn(wears: Wears) -> Region | None:
    """The region that a slot wears, as the core has it; None for all of the maps."""
    taken = wears.get("region")
    if taken is None:
        return None
    return region_of({key: value for key, value in taken.items() if key != "set"})


def worn_region(project: Project, kind: str, pk: int, name: str) -> WornRegion:
    """A region by its name, of a set or of the sets that fill a cast. Raises Conflict where there is none."""
    ids = [pk]
    if kind == "cast":
        row = project.casts.select_related("master", "project", "parent").get(pk=pk)
        ids = sorted({fill["set"] for fill in resolved(row).slots.values()})
    for one in project.sets.filter(pk__in=ids):
        for region in regions_of(one.regions):
            if region.name == name:
                return _taken(one.pk, region)
    raise Conflict("there is no region {name} on what the slot shall wear", name=name)


def _taken(pk: int, region: Region) -> WornRegion:
    document: RegionDocument = region.document()
    return {"set": pk, **document}


def set_regions(
    project: Project, pk: int, documents: Iterable[Mapping[str, Any]], by: Any, seen: int | None = None
) -> None:
    """Say which regions a set's maps have; slots that wear one of them follow. Raises BadDocument, and Conflict where a
    slot wears one that would be gone."""
    regions = {one.name: one for one in regions_of(documents)}
    with change(project, by, "") as doing:
        one = doing.row(TextureSet, pk, seen)
        doing.label = f"Regions of {one.name}"
        follow_regions(doing, one, regions.values())
        doing.update(one, regions=[region.document() for region in regions.values()])


def follow_regions(doing: Doing, one: TextureSet, those: Iterable[Region]) -> None:
    """Let slots that wear regions of a set wear them as they are now. Raises Conflict for one that would be gone."""
    regions = {region.name: region for region in those}
    for mesh in doing.project.meshes.all():
        wears = dict(mesh.wears)
        for key, worn in mesh.wears.items():
            taken = worn.get("region")
            if taken is None or taken["set"] != one.pk:
                continue
            if taken["name"] not in regions:
                raise Conflict(
                    "the slot {slot} of {model} wears {region}; let it wear something else first",
                    slot=key, model=mesh.name, region=taken["name"],
                )  # fmt: skip
            wears[key] = {**worn, "region": _taken(one.pk, regions[taken["name"]])}
        if wears != mesh.wears:
            doing.update(doing.row(Mesh, mesh.pk), wears=wears)
