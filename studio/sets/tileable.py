"""A set made to repeat: the same steps for all its maps, borders patched as one of them decides."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, cast

from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.projects.models import Project
from studio.sets import asked
from studio.sets.documents import core_sets, linked_ref
from studio.sets.editing import checked_recipe
from studio.sets.greens import remembered_green
from studio.sets.models import Placement, TextureSet
from texel.document_types import StepDocument
from texel.recipes.tileable import Tileable, tileable_steps, without_tileable
from texel.roles import Green, Role

__all__ = ["make_tileable", "tried_steps"]


def _green(one: TextureSet) -> Green:
    """Where green points in the set's normal map, as far as that was measured."""
    (core,), files = core_sets([one])
    known = remembered_green(core, lambda name: files[name].file.source_id or "")
    return known[0] if known else Green.UNKNOWN


def _guide(project: Project, pk: int, guide: int) -> Placement:
    row = Placement.objects.filter(project=project, set=pk, pk=guide).exclude(role="").first()
    if row is None:
        raise Conflict("the set has no such map any more")
    return row


def tried_steps(project: Project, pk: int, guide: int, order: Tileable) -> tuple[Placement, list[StepDocument]]:
    """The map that decides, and its steps as making the set tileable would leave them. Raises BadDocument, Conflict."""
    checked, row = order.checked(), _guide(project, pk, guide)
    green = _green(row.set) if row.set is not None and row.role == Role.NORMAL.value else Green.UNKNOWN
    steps = cast(list[StepDocument], tileable_steps(checked, Role(row.role), green=green))
    return row, [*without_tileable(row.recipe), *steps]


def make_tileable(project: Project, pk: int, guide: int, order: Tileable, by: Any, seen: int | None = None) -> int:
    """Give every map in use the steps that make the set repeat, in place of those that it had for that. guide: the map
    that decides where the borders are cut. Returns how many maps. Raises BadDocument, Conflict, Http404, TexelError."""
    checked = order.checked()
    row = _guide(project, pk, guide)
    patches = asked.plan_tileable.ask(by.pk, f"set {pk}", map=row.pk, order=asdict(checked)).said
    with change(project, by, "") as doing:
        one = doing.row(TextureSet, pk, seen)
        doing.label = f"Make tileable: {one.name}"
        rows = [each for each in one.placements.select_related("file__source", "set", "project") if each.role]
        green = _green(one)
        for each in rows:
            steps = cast(list[StepDocument], tileable_steps(checked, Role(each.role), patches, green))
            doing.update(each, recipe=[*without_tileable(each.recipe), *checked_recipe(steps)])
            linked_ref(each)
        return len(rows)
