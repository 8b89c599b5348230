"""Regions of a set as sets of their own: the way back from an atlas."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any, cast

from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.projects.models import Project
from studio.sets.editing import checked_recipe
from studio.sets.kinds import free_name
from studio.sets.models import Placement, TextureSet
from texel.atlas.regions import Region, crop_of, regions_of
from texel.document_types import StepDocument
from texel.messages import message_of
from texel.recipes import others_of
from texel.wording import reason_fields

__all__ = ["cut_regions"]


def cut_regions(project: Project, pk: int, names: Collection[str], by: Any, seen: int | None = None) -> list[int]:
    """Make a set of each region: the same files, each map with a step that cuts the region out. One change.

    names: of regions; none for all. Returns the ids of the sets. Raises Conflict for a region that is not there, or a
    set without any.
    """
    with change(project, by, "") as doing:
        one = doing.row(TextureSet, pk, seen)
        regions = [region for region in regions_of(one.regions) if not names or region.name in names]
        if not regions or len(regions) < len(names):
            raise Conflict("{set} has no such regions", set=one.name)
        rows = [row for row in one.placements.select_related("file__source", "intake", "set", "project") if row.role]
        taken = set(project.sets.values_list("name", flat=True))
        made = []
        for region in regions:
            name = free_name(project, region.name, taken)
            taken.add(name)
            metres = region.metres[0] if region.metres else one.metres and one.metres * region.width
            made.append(TextureSet(
                project=project, name=name, licence=one.licence, credit=one.credit, targets=one.targets, metres=metres
            ))  # fmt: skip
        doing.create_many(made)
        doing.create_many(
            _cut(row, into, region) for into, region in zip(made, regions, strict=True) for row in rows
        )  # fmt: skip
        doing.label = f"Cut {one.name} into {len(made)} sets"
        return [into.pk for into in made]


def _cut(row: Placement, into: TextureSet, region: Region) -> Placement:
    crop = checked_recipe([cast(StepDocument, crop_of(region))])
    # What reads another map has to meet it at the same size, so both are cut first.
    steps: list[StepDocument] = [*crop, *row.recipe] if others_of(row.recipe) else [*row.recipe, *crop]
    return Placement(
        project=row.project, intake=row.intake, file=row.file, set=into, role=row.role, channel=row.channel,
        layer=row.layer, order=row.order, confidence=1.0, suffix="", by_hand=True, recipe=steps,
        **reason_fields(message_of("why_region", region=region.name), 400),
    )  # fmt: skip
