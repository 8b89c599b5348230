"""Undo for materials: the state of casts and adoptions before and after a change, on the project's one history."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import Any

from django.db import transaction

from studio.jobs.announce import announce
from studio.materials.models import Adoption, Cast
from studio.projects.models import Change, Project

__all__ = ["material_change", "restore_materials"]

_CAST_FIELDS = ("master_id", "parent_id", "name", "changes", "slots", "by_id")
State = dict[str, dict[str, Any]]


class Touched:
    """What a change is about to touch. Add casts that it makes."""

    def __init__(self, casts: Iterable[int], masters: Iterable[int]):
        self.casts, self.masters = set(casts), set(masters)


def _snapshot(project: Project, touched: Touched) -> State:
    casts = project.casts.filter(pk__in=touched.casts)
    adoptions = project.adoptions.filter(master__in=touched.masters)
    return {
        "sets": {}, "placements": {},
        "casts": {str(c.pk): {f: getattr(c, f) for f in _CAST_FIELDS} for c in casts},
        "adoptions": {str(a.master_id): {"version_id": a.version_id} for a in adoptions},
    }  # fmt: skip


@contextmanager
def material_change(
    project: Project, by, label: str, casts: Iterable[int] = (), masters: Iterable[int] = ()
) -> Iterator[Touched]:
    """Make a change to casts and adoptions inside one transaction, kept for undo."""
    with transaction.atomic():
        Project.objects.select_for_update().get(pk=project.pk)
        touched = Touched(casts, masters)
        before = _snapshot(project, touched)
        yield touched
        after = _snapshot(project, touched)
        if after != before:
            project.changes.filter(undone=True).delete()
            Change.objects.create(project=project, by=by, label=label[:200], before=before, after=after)
        announce(project.pk, "materials")


def restore_materials(project: Project, wanted: State, other: State) -> None:
    """Bring casts and adoptions to ``wanted``; what only ``other`` has goes away. Called with the project locked."""
    if "casts" not in wanted:
        return
    # Names may trade places, and a child may come before its parent: all are set aside first.
    rows = {int(pk): values for pk, values in wanted["casts"].items()}
    for pk in rows:
        Cast.objects.filter(pk=pk).update(name=f":{pk}", parent=None)
    for pk, values in rows.items():
        Cast.objects.update_or_create(
            pk=pk, defaults={"project": project, **values, "name": f":{pk}", "parent_id": None}
        )  # fmt: skip
    gone = [int(pk) for pk in other["casts"] if pk not in wanted["casts"]]
    Cast.objects.filter(pk__in=gone).update(parent=None)
    Cast.objects.filter(pk__in=gone).delete()
    for pk, values in rows.items():
        Cast.objects.filter(pk=pk).update(name=values["name"], parent_id=values["parent_id"])
    for master, values in wanted["adoptions"].items():
        Adoption.objects.update_or_create(project=project, master_id=int(master), defaults=values)
    lost = [int(master) for master in other["adoptions"] if master not in wanted["adoptions"]]
    Adoption.objects.filter(project=project, master_id__in=lost).delete()
    announce(project.pk, "materials")
