"""Casts: made, derived, filled and changed; each change can be undone."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple, NotRequired, TypedDict, TypeVar

from django.db.models import Q

from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.materials.library import adoptions_of, latest, sheet_of
from studio.materials.models import Adoption, Cast, Master
from studio.projects.models import Project
from studio.sets.documents import core_sets
from studio.sets.greens import remembered_green
from studio.sets.licences import objections_to
from studio.sets.models import TextureSet
from texel.checks import Severity
from texel.document_types import ParameterValue
from texel.materials import Master as Sheet
from texel.materials import checked_changes, stacked, values_of
from texel.materials.casts import MAX_DEPTH
from texel.materials.filling import BindingRemark, Known, SlotBinding, binding_remarks, parse_binding
from texel.sets import TextureSet as CoreSet
from texel.tiles import named_tile, tiled_by_name

__all__ = [
    "CastFacts",
    "Changes",
    "Fill",
    "Fills",
    "Listed",
    "Resolved",
    "Worst",
    "change_casts",
    "create_cast",
    "delete_cast",
    "fill_from_set",
    "overview",
    "remarks_of",
    "resolved",
    "surfaces_of",
    "worst_of",
]

_Value = TypeVar("_Value")


class Fill(TypedDict):
    """What fills a slot. set: id of a set of the project. role: of its map, where it is not the slot's own."""

    set: int
    role: NotRequired[str | None]


Worst = Literal["error", "warning"] | None
# A cast's own parameter values, as documents hold them, and what fills its slots, by name.
Changes = dict[str, ParameterValue]
Fills = dict[str, Fill]
# No revision that was seen: any will do.
_ANY: Mapping[int, int] = {}


@dataclass(frozen=True)
class Resolved:
    """A cast with all it inherits. values: of every parameter; changed, filled: what is not the master's own, by name,
    own: what this cast itself changes."""

    sheet: Sheet
    values: dict[str, tuple[float, ...]]
    changes: Changes
    slots: Fills


def _lineage(cast: Cast) -> list[Cast]:
    """The cast's ancestors, the eldest first, and the cast."""
    lineage = [cast]
    while lineage[0].parent is not None and len(lineage) <= MAX_DEPTH:
        lineage.insert(0, lineage[0].parent)
    return lineage


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
    changes: Changes
    slots: Fills


@dataclass(frozen=True)
class Listed:
    """One line of a project's casts. worst: severity of what is fed most wrongly."""

    cast: CastFacts
    told: Resolved
    worst: Worst


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
        listed = [cast]
        while listed[0].parent_id is not None and len(listed) <= MAX_DEPTH:
            listed.insert(0, rows[listed[0].parent_id])
        return listed

    listed = []
    plain = {pk: _resolve("", sheet, []) for pk, sheet in sheets.items()}
    for cast in rows.values():
        if cast.parent_id is None and not cast.changes and not cast.slots:
            # As its master is, with nothing that could be fed wrongly.
            listed.append(Listed(cast, plain[cast.master_id], None))
            continue
        told = _resolve(cast.name, sheets[cast.master_id], line(cast))
        fills = {slot: _fill(told.sheet, slot, value, names) for slot, value in told.slots.items()}
        severities = {remark.severity.value for remark in binding_remarks(told.sheet, fills, by_name, known)}
        listed.append(Listed(cast, told, worst_of(severities)))
    return listed


def worst_of(severities: Collection[str]) -> Worst:
    """The worst of some severities that is worth a mark; None where there is none."""
    return "error" if "error" in severities else "warning" if "warning" in severities else None


def _fill(sheet: Sheet, slot: str, value: Fill, names: dict[int, str]) -> SlotBinding:
    return parse_binding(sheet, slot, {**value, "set": names.get(value["set"]) or f"number {value['set']}"})


def fills_of(project: Project, sheet: Sheet, slots: Fills) -> tuple[dict[str, SlotBinding], dict[str, TextureSet]]:
    """Fills by slot, and the sets that they name, by name."""
    rows = project.sets.filter(pk__in=[value["set"] for value in slots.values()])
    sets = list(rows.prefetch_related("placements__file__source"))
    names = {row.pk: row.name for row in sets}
    return {slot: _fill(sheet, slot, value, names) for slot, value in slots.items()}, {row.name: row for row in sets}


def surfaces_of(project: Project, sets: Iterable[str]) -> dict[str, dict[int, TextureSet]]:
    """The tiles of each of some sets that is one of a surface in tiles, by their numbers; keys are the sets' names."""
    bases = [found[0] for name in sets if (found := named_tile(name))]
    if not bases:
        return {}
    like = Q()
    for base in bases:
        like |= Q(name__startswith=base)
    rows = project.sets.filter(like).prefetch_related("placements__file__source")
    by_name = {row.name: row for row in rows}
    surfaces = tiled_by_name(by_name)
    wanted = [name for name in sets if name in surfaces]
    return {name: {at: by_name[one] for at, one in surfaces[name].tiles.items()} for name in wanted}


def remarks_of(cast: Cast, told: Resolved) -> list[BindingRemark]:
    """What is wrong with how a cast is fed."""
    fills, rows = fills_of(cast.project, told.sheet, told.slots)
    surfaces = surfaces_of(cast.project, rows)
    in_tiles = [
        BindingRemark(
            "in_tiles", Severity.NOTE, slot,
            f"{told.sheet.slots[slot].title}: {fill.set} is one of {len(surfaces[fill.set])} tiles. It is shown here; "
            "all of them are written.",
        )
        for slot, fill in fills.items() if fill.set in surfaces
    ]  # fmt: skip
    return [*binding_remarks(told.sheet, fills, *_known(rows.values())), *in_tiles]


def _known(rows: Iterable[TextureSet]) -> tuple[dict[str, CoreSet], dict[str, Known]]:
    """The core's sets, and what is known of each, by name. Prefetch placements__file__source first."""
    rows = list(rows)
    sets, files = core_sets(rows)
    objections = objections_to(rows)

    def file_digest(file: str) -> str:
        return files[file].file.source_id or ""

    known = {one.name: Known(remembered_green(one, file_digest), objections.get(one.name)) for one in sets}
    return {one.name: one for one in sets}, known


def create_cast(project: Project, name: str, master: Master | None, parent_pk: int | None, by: Any) -> Cast:
    """A cast of a master, or of another cast. A master that the project does not use yet is adopted in its newest
    version. Raises Conflict."""
    with change(project, by, "") as doing:
        name = _free(project, name)
        doing.label = f"Cast {name}"
        parent = doing.row(Cast, parent_pk, related=("master",)) if parent_pk is not None else None
        if parent is not None:
            master = parent.master
            if len(_lineage(parent)) >= MAX_DEPTH:
                raise Conflict("casts derive from casts at most {max_depth} deep", max_depth=MAX_DEPTH)
        if master is None:
            raise Conflict("a cast derives from a master or from a cast")
        if not project.adoptions.filter(master=master).exists():
            version = latest(master)
            if version is None:
                raise Conflict("{title} has no version to adopt yet; publish one first", title=master.title)
            doing.create(Adoption, project=project, master=master, version=version)
        return doing.create(Cast, project=project, master=master, parent=parent, name=name, by=by)


def _free(project: Project, name: str, but: int = 0) -> str:
    name = " ".join(name.split())
    if not name or len(name) > 100:
        raise Conflict("a cast needs a name of at most 100 characters")
    if project.casts.filter(name=name).exclude(pk=but).exists():
        raise Conflict("there is a cast {name} already", name=name)
    return name


def delete_cast(project: Project, pk: int, by: Any, seen: int | None = None) -> None:
    """Raises Conflict while others derive from it."""
    with change(project, by, "") as doing:
        cast = doing.row(Cast, pk, seen)
        derived = list(cast.derived.values_list("name", flat=True))
        if derived:
            raise Conflict("{listed} derive from {cast}", listed=", ".join(derived), cast=cast.name)
        doing.label = f"Delete {cast.name}"
        doing.delete(cast)


def change_casts(
    project: Project, ids: Sequence[int], by: Any, changes: Mapping[str, ParameterValue | None] | None = None,
    slots: Mapping[str, Fill | None] | None = None, name: str | None = None, seen: Mapping[int, int] = _ANY,
) -> None:  # fmt: skip
    """Change parameters and slots of casts at once; a value of None puts back what is inherited. Other parameters and
    slots stay as they are, whoever changed them. seen: revisions by id.

    Raises BadDocument for what the master does not take, Conflict for a name that is taken or a set that is not there.
    """
    with change(project, by, "") as doing:
        rows = [doing.row(Cast, pk, seen.get(pk), ("master",)) for pk in dict.fromkeys(ids)]
        doing.label = f"Change {rows[0].name}" if len(rows) == 1 else f"Change {len(rows)} casts"
        for cast in rows:
            sheet = _sheet(project, cast.master)
            checked_changes(sheet, {key: value for key, value in (changes or {}).items() if value is not None})
            wanted: dict[str, object] = {
                "changes": _merged(cast.changes, changes),
                "slots": _merged(cast.slots, _checked_slots(project, sheet, slots or {})),
            }
            if name is not None:
                wanted["name"] = _free(project, name, cast.pk)
            doing.update(cast, **wanted)


def _merged(kept: Mapping[str, _Value], changes: Mapping[str, _Value | None] | None) -> dict[str, _Value]:
    both = {**kept, **(changes or {})}
    return {key: value for key, value in both.items() if value is not None}


def _checked_slots(project: Project, sheet: Sheet, slots: Mapping[str, Fill | None]) -> Mapping[str, Fill | None]:
    for slot, value in slots.items():
        if value is None:
            continue
        parse_binding(sheet, slot, {**value, "set": "some"} if isinstance(value, dict) and value.get("set") else value)
        if not isinstance(value["set"], int) or not project.sets.filter(pk=value["set"]).exists():
            raise Conflict("there is no such set")
    return slots


def fill_from_set(
    project: Project, pk: int, set_pk: int, by: Any, layer: str = "", seen: int | None = None
) -> list[str]:
    """Fill every slot that a set has maps for; of one layer alone where it is named.

    Gives the slots' names; raises Conflict when there is none.
    """
    with change(project, by, "") as doing:
        cast = doing.row(Cast, pk, seen, ("master",))
        one = doing.row(TextureSet, set_pk)
        sheet = _sheet(project, cast.master)
        core, _ = core_sets([one])
        fills = {
            slot: {"set": one.pk}
            for slot in sheet.slots
            if (not layer or slot.startswith(f"{layer}_")) and _has_map_for(sheet, slot, one.name, core[0])
        }
        if not fills:
            raise Conflict("{one} has no map that {title} takes", one=one.name, title=sheet.title)
        doing.label = f"Fill {cast.name} from {one.name}"
        doing.update(cast, slots=_merged(cast.slots, fills))
    return list(fills)


def _has_map_for(sheet: Sheet, slot: str, name: str, one: CoreSet) -> bool:
    remarks = binding_remarks(sheet, {slot: SlotBinding(name)}, {name: one})
    return not any(
        remark.slot == slot and remark.check == "map_missing" and remark.severity.value == "error" for remark in remarks
    )
