"""Casts: made, derived, filled and changed; each change can be undone."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from studio.materials.history import material_change
from studio.materials.library import adoptions_of, latest, sheet_of
from studio.materials.models import Adoption, Cast, Master
from studio.projects.models import Project
from studio.sets.documents import core_sets
from studio.sets.editing import Conflict
from studio.sets.greens import remembered_green
from studio.sets.licences import objections_to
from studio.sets.models import TextureSet
from texel.materials import Master as Sheet
from texel.materials import checked_changes, stacked, values_of
from texel.materials.filling import Feed, FeedRemark, Known, feed_remarks, parse_feed
from texel.sets import TextureSet as CoreSet

__all__ = [
    "CastFacts",
    "Listed",
    "Resolved",
    "change_casts",
    "create_cast",
    "delete_cast",
    "fill_from_set",
    "free_cast_name",
    "overview",
    "remarks_of",
    "resolved",
]

_DEEPEST = 8


@dataclass(frozen=True)
class Resolved:
    """A cast with all it inherits. values: of every parameter; changed, filled: what is not the master's own, by name,
    own: what this cast itself changes."""

    sheet: Sheet
    values: dict[str, tuple[float, ...]]
    changes: dict[str, Any]
    slots: dict[str, Any]


def _lineage(cast: Cast) -> list[Cast]:
    """The cast's ancestors, the eldest first, and the cast."""
    found = [cast]
    while found[0].parent is not None and len(found) <= _DEEPEST:
        found.insert(0, found[0].parent)
    return found


def _sheet(project: Project, master: Master) -> Sheet:
    return sheet_of(Adoption.objects.select_related("version__master").get(project=project, master=master).version)


def resolved(cast: Cast) -> Resolved:
    """Raises BadDocument when what is kept does not fit the adopted version."""
    return _resolve(cast.name, _sheet(cast.project, cast.master), _lineage(cast))


def _resolve(name: str, sheet: Sheet, line: Sequence[Cast | CastFacts]) -> Resolved:
    changes = stacked(one.changes for one in line)
    slots = stacked(one.slots for one in line)
    return Resolved(sheet, values_of(sheet, checked_changes(sheet, changes, name)), changes, slots)


class CastFacts(NamedTuple):
    """What is kept of a cast, without its model: a project may have thousands."""

    pk: int
    name: str
    master_id: int
    parent_id: int | None
    changes: dict[str, Any]
    slots: dict[str, Any]


@dataclass(frozen=True)
class Listed:
    """One line of a project's casts. worst: severity of what is fed most wrongly, "" where nothing is."""

    cast: CastFacts
    told: Resolved
    worst: str


def overview(project: Project, adoptions: Sequence[Adoption] = ()) -> list[Listed]:
    """All casts of a project with what they inherit and how they are fed, in a few queries however many there are.
    adoptions: the project's, where they are known."""
    kept = project.casts.values_list(*CastFacts._fields)
    rows = {facts.pk: facts for facts in (CastFacts(*row) for row in kept)}
    sheets = {one.master_id: sheet_of(one.version) for one in adoptions or adoptions_of(project)}
    used = {value["set"] for cast in rows.values() for value in cast.slots.values()}
    sets = list(project.sets.filter(pk__in=used).prefetch_related("placements__file__source"))
    names = {one.pk: one.name for one in sets}
    by_name, known = _known(sets)

    def line(cast: CastFacts) -> list[CastFacts]:
        found = [cast]
        while found[0].parent_id is not None and len(found) <= _DEEPEST:
            found.insert(0, rows[found[0].parent_id])
        return found

    found = []
    plain = {pk: _resolve("", sheet, []) for pk, sheet in sheets.items()}
    for cast in rows.values():
        if cast.parent_id is None and not cast.changes and not cast.slots:
            # As its master is, with nothing that could be fed wrongly.
            found.append(Listed(cast, plain[cast.master_id], ""))
            continue
        told = _resolve(cast.name, sheets[cast.master_id], line(cast))
        fills = {slot: _fill(told.sheet, slot, value, names) for slot, value in told.slots.items()}
        severities = {remark.severity.value for remark in feed_remarks(told.sheet, fills, by_name, known)}
        found.append(Listed(cast, told, next((one for one in ("error", "warning") if one in severities), "")))
    return found


def _fill(sheet: Sheet, slot: str, value: dict[str, Any], names: dict[int, str]) -> Feed:
    return parse_feed(sheet, slot, {**value, "set": names.get(value["set"]) or f"number {value['set']}"})


def fills_of(project: Project, sheet: Sheet, slots: dict[str, Any]) -> tuple[dict[str, Feed], dict[str, TextureSet]]:
    """Fills by slot, and the sets that they name, by name."""
    rows = project.sets.filter(pk__in=[value["set"] for value in slots.values()])
    found = list(rows.prefetch_related("placements__file__source"))
    names = {row.pk: row.name for row in found}
    return {slot: _fill(sheet, slot, value, names) for slot, value in slots.items()}, {row.name: row for row in found}


def remarks_of(cast: Cast, told: Resolved) -> list[FeedRemark]:
    """What is wrong with how a cast is fed."""
    fills, rows = fills_of(cast.project, told.sheet, told.slots)
    return feed_remarks(told.sheet, fills, *_known(rows.values()))


def _known(rows: Iterable[TextureSet]) -> tuple[dict[str, CoreSet], dict[str, Known]]:
    """The core's sets, and what is known of each, by name. Prefetch placements__file__source first."""
    rows = list(rows)
    sets, files = core_sets(rows)
    objections = objections_to(rows)

    def file_digest(file: str) -> str:
        return files[file].file.source_id or ""

    known = {one.name: Known(remembered_green(one, file_digest), objections.get(one.name)) for one in sets}
    return {one.name: one for one in sets}, known


def create_cast(project: Project, name: str, master: Master | None, parent: Cast | None, by) -> Cast:
    """A cast of a master, or of another cast. A master that the project does not use yet is adopted in its newest
    version. Raises Conflict."""
    name = _free(project, name)
    if parent is not None:
        master = parent.master
        if len(_lineage(parent)) >= _DEEPEST:
            raise Conflict(f"casts derive from casts at most {_DEEPEST} deep")
    if master is None:
        raise Conflict("a cast derives from a master or from a cast")
    with material_change(project, by, f"Cast {name}", masters=[master.pk]) as touched:
        if not project.adoptions.filter(master=master).exists():
            version = latest(master)
            if version is None:
                raise Conflict(f"{master.title} has no version to adopt yet; publish one first")
            Adoption.objects.create(project=project, master=master, version=version)
        made = Cast.objects.create(project=project, master=master, parent=parent, name=name, by=by)
        touched.casts.add(made.pk)
    return made


def free_cast_name(project: Project, wanted: str) -> str:
    """The name, shortened where it is too long, with a number behind it where another cast of the project has it."""
    base = " ".join(wanted.split())[:90] or "Cast"
    taken = set(project.casts.filter(name__startswith=base).values_list("name", flat=True))
    name, count = base, 1
    while name in taken:
        count += 1
        name = f"{base} {count}"
    return name


def _free(project: Project, name: str, but: int = 0) -> str:
    name = " ".join(name.split())
    if not name or len(name) > 100:
        raise Conflict("a cast needs a name of at most 100 characters")
    if project.casts.filter(name=name).exclude(pk=but).exists():
        raise Conflict(f"there is a cast {name} already")
    return name


def delete_cast(cast: Cast, by) -> None:
    """Raises Conflict while others derive from it."""
    derived = list(cast.derived.values_list("name", flat=True))
    if derived:
        raise Conflict(f"{', '.join(derived)} derive from {cast.name}")
    with material_change(cast.project, by, f"Delete {cast.name}", [cast.pk]):
        cast.delete()


def change_casts(
    project: Project, casts: Iterable[Cast], by, changes: dict[str, Any] | None = None,
    slots: dict[str, Any] | None = None, name: str | None = None,
) -> None:  # fmt: skip
    """Change parameters and slots of casts at once; a value of None puts back what is inherited.

    Raises BadDocument for what the master does not take, Conflict for a name that is taken or a set that is not there.
    """
    rows = list(casts)
    label = f"Change {rows[0].name}" if len(rows) == 1 else f"Change {len(rows)} casts"
    with material_change(project, by, label, [cast.pk for cast in rows]):
        for cast in rows:
            sheet = _sheet(project, cast.master)
            checked_changes(sheet, {key: value for key, value in (changes or {}).items() if value is not None})
            cast.changes = _merged(cast.changes, changes)
            cast.slots = _merged(cast.slots, _checked_slots(project, sheet, slots or {}))
            if name is not None:
                cast.name = _free(project, name, cast.pk)
            cast.save(update_fields=["changes", "slots", "name"])


def _merged(kept: dict[str, Any], changes: dict[str, Any] | None) -> dict[str, Any]:
    return {key: value for key, value in (kept | (changes or {})).items() if value is not None}


def _checked_slots(project: Project, sheet: Sheet, slots: dict[str, Any]) -> dict[str, Any]:
    for slot, value in slots.items():
        if value is None:
            continue
        parse_feed(sheet, slot, {**value, "set": "some"} if isinstance(value, dict) and value.get("set") else value)
        if not isinstance(value["set"], int) or not project.sets.filter(pk=value["set"]).exists():
            raise Conflict("there is no such set")
    return slots


def fill_from_set(cast: Cast, one: TextureSet, by, layer: str = "") -> list[str]:
    """Fill every slot that a set has maps for; of one layer alone where it is named.

    Gives the slots' names; raises Conflict when there is none.
    """
    sheet = _sheet(cast.project, cast.master)
    core, _ = core_sets([one])
    found = {}
    for slot in sheet.slots:
        if layer and not slot.startswith(f"{layer}_"):
            continue
        fill = Feed(one.name)
        wrong = feed_remarks(sheet, {slot: fill}, {one.name: core[0]})
        if not any(
            remark.slot == slot and remark.check == "map_missing" and remark.severity.value == "error"
            for remark in wrong
        ):
            found[slot] = {"set": one.pk}
    if not found:
        raise Conflict(f"{one.name} has no map that {sheet.title} takes")
    change_casts(cast.project, [cast], by, slots=found)
    return list(found)
