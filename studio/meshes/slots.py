"""What a model's slots wear: assigned, proposed by name, split and called; each change can be undone."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from studio.changes.engine import Doing, change
from studio.changes.errors import Conflict
from studio.materials.casts import Resolved, overview
from studio.materials.models import Wears
from studio.meshes.models import Mesh, SplitSlot
from studio.meshes.regions import region_worn
from studio.projects.models import Project
from studio.rules.models import models_of, target_for, wanted_of
from studio.sets.documents import roles_in
from studio.sets.models import Placement, TextureSet
from texel.materials import parse_master
from texel.materials.evaluate import placed
from texel.materials.exchange.names import each_once
from texel.meshes.facts import MeshFacts, mesh_facts_of
from texel.meshes.judging import MeshFinding, Worn, judge_mesh
from texel.meshes.plain import plain_master
from texel.meshes.proposals import Candidate, Proposal, names_of, propose
from texel.meshes.slots import slot_keys
from texel.naming.compose import apply_case, safe_name
from texel.roles import Role
from texel.sorting.looks import Kind

__all__ = [
    "Standing", "assign", "call_by_worn", "call_slots", "delete_model", "facts_of", "findings_of", "join_slot",
    "plain_sheet_of", "proposals_for", "rename_model", "set_scale", "split_slot", "standings", "tiling_of",
]  # fmt: skip

_LONGEST_TITLE = 100
_TWO_VALUED = Kind.TWO_VALUES.value
# Metres of one unit, from a tenth of a millimetre to a kilometre.
_SCALES = (1e-4, 1e3)


@dataclass(frozen=True)
class Standing:
    """What a slot wears now. worn: as the checks take it. sets: ids of the sets that fill it. regions: names of those
    of their maps."""

    kind: str
    pk: int
    name: str
    worn: Worn
    sets: frozenset[int]
    regions: tuple[str, ...]

    def worn_as(self, wears: Wears) -> Worn:
        """The same as a slot wears it, which may use a region of it alone."""
        return replace(self.worn, region=region_worn(wears))


def facts_of(mesh: Mesh) -> MeshFacts | None:
    return None if mesh.facts is None else mesh_facts_of(mesh.facts)


def _side(rows: Iterable[Placement], largest: Mapping[Role, int]) -> int | None:
    """The longest side of maps in texels as they are delivered; None where no file of them can be read."""
    sides = []
    for row in rows:
        probe = row.file.source.probe if row.file.source else None
        if probe and row.role:
            sides.append(min(max(probe["width"], probe["height"]), largest.get(Role(row.role), 1 << 30)))
    return max(sides, default=None)


def tiling_of(told: Resolved) -> float:
    """How often the first coordinates of a sheet repeat, the larger of both directions."""
    first = next(iter(told.sheet.coordinates.values()), None)
    if first is None:
        return 1.0
    tiling, _, _ = placed(first, told.values)
    return max((abs(one) for one in tiling), default=1.0) or 1.0


def _is_two_valued(rows: Iterable[Placement]) -> bool:
    """Whether the opacity map among some is known to have only two values."""
    looks = [row.file.source.look for row in rows if row.role == Role.OPACITY.value and row.file.source]
    return bool(looks) and all(look and look.get("kind") == _TWO_VALUED for look in looks)


def standings(project: Project, wears: Collection[Wears]) -> dict[tuple[str, int], Standing]:
    """What is worn, by kind and id, in a few queries however much there is."""
    largest = wanted_of(project).largest
    cast_ids = {one["id"] for one in wears if one["kind"] == "cast"}
    listed = {row.cast.pk: row for row in overview(project)} if cast_ids else {}
    set_ids = {one["id"] for one in wears if one["kind"] == "set"}
    fed = {pk: {fill["set"] for fill in listed[pk].told.slots.values()} for pk in cast_ids & listed.keys()}
    wanted = set_ids.union(*fed.values())
    rows = project.sets.filter(pk__in=wanted).prefetch_related("placements__file__source")
    sets = {one.pk: one for one in rows}
    known: dict[tuple[str, int], Standing] = {}
    for pk in set_ids & sets.keys():
        one, maps = sets[pk], list(sets[pk].placements.all())
        roles = roles_in(one)
        worn = Worn(
            one.name, _side(maps, largest), 1.0, frozenset([one.name]), Role.NORMAL in roles,
            "cut_out" if Role.OPACITY in roles else "opaque", _is_two_valued(maps),
        )  # fmt: skip
        known["set", pk] = Standing("set", pk, one.name, worn, frozenset([pk]), _regions_of([one]))
    for pk, fills in fed.items():
        told = listed[pk].told
        used = [sets[one] for one in fills if one in sets]
        maps = [row for one in used for row in one.placements.all()]
        worn = Worn(
            listed[pk].cast.name, _side(maps, largest), tiling_of(told), frozenset(one.name for one in used),
            "normal" in told.sheet.inputs and any(Role.NORMAL in roles_in(one) for one in used),
            told.sheet.opacity_mode, _is_two_valued(maps),
        )  # fmt: skip
        known["cast", pk] = Standing("cast", pk, listed[pk].cast.name, worn, frozenset(fills), _regions_of(used))
    return known


def _regions_of(sets: Iterable[TextureSet]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(region["name"] for one in sets for region in one.regions))


def findings_of(mesh: Mesh, known: Mapping[tuple[str, int], Standing]) -> list[MeshFinding]:
    """What is wrong with a model that was measured; [] before."""
    facts = facts_of(mesh)
    if facts is None:
        return []
    worn = {}
    for at, key in enumerate(facts.keys):
        wears = mesh.wears.get(key)
        standing = known.get((wears["kind"], wears["id"])) if wears else None
        if standing is not None:
            worn[at] = standing.worn_as(wears)
    return judge_mesh(facts, worn, models_of(mesh.project))


def proposals_for(mesh: Mesh) -> list[list[Proposal]]:
    """For each slot what its names propose; the keys are "cast 3" or "set 5". Sets that a cast uses already stand for
    that cast."""
    facts, project = facts_of(mesh), mesh.project
    if facts is None:
        return []
    files: dict[int, list[str]] = {}
    for pk, path in project.placements.filter(set__isnull=False).values_list("set_id", "file__path"):
        files.setdefault(pk, []).append(path)
    names = dict(project.sets.values_list("pk", "name"))
    candidates, used = [], set()
    for row in overview(project):
        sets = [pk for pk in dict.fromkeys(fill["set"] for fill in row.told.slots.values()) if pk in names]
        used.update(sets if len(sets) == 1 else [])
        held = tuple(file for pk in sets for file in files.get(pk, []))
        candidates.append(Candidate(f"cast {row.cast.pk}", row.cast.name, held, tuple(names[pk] for pk in sets)))
    candidates += [
        Candidate(f"set {pk}", name, tuple(files.get(pk, []))) for pk, name in names.items() if pk not in used
    ]
    return propose(names_of(facts), candidates)


def _checked(doing: Doing, wears: Mapping[str, Wears | None]) -> None:
    project = doing.project
    for kind, rows in (("cast", project.casts), ("set", project.sets)):
        wanted = {one["id"] for one in wears.values() if one and one["kind"] == kind}
        if rows.filter(pk__in=wanted).count() < len(wanted):
            raise Conflict("there is no such {kind} any more", kind=kind)


def _keys(mesh: Mesh) -> list[str]:
    facts = facts_of(mesh)
    if facts is None:
        raise Conflict("{mesh} is being measured; wait until that is done", mesh=mesh.name)
    return facts.keys


def assign(project: Project, pk: int, wears: Mapping[str, Wears | None], by: Any, seen: int | None = None) -> None:
    """Let slots wear casts or sets, by key; None takes off what is worn. Raises Conflict for a slot, cast or set that
    is not there."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        keys = set(_keys(mesh)) | set(mesh.wears)
        unknown = [key for key in wears if key not in keys]
        if unknown:
            raise Conflict("{mesh} has no slot {unknown!r}", mesh=mesh.name, unknown=unknown[0])
        _checked(doing, wears)
        one = next(iter(wears), "")
        doing.label = f"Assign {one or 'a slot'} of {mesh.name}" if len(wears) == 1 else f"Assign {len(wears)} slots"
        merged = {**mesh.wears, **wears}
        doing.update(mesh, wears={key: value for key, value in merged.items() if value is not None})


def call_slots(project: Project, pk: int, titles: Mapping[str, str], by: Any, seen: int | None = None) -> None:
    """What slots are called when the model is delivered; "" for what the file calls them. Raises Conflict for a name
    that another slot has."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        keys = _keys(mesh)
        merged = {**mesh.titles}
        for key, title in titles.items():
            if key not in keys:
                raise Conflict("{mesh} has no slot {key!r}", mesh=mesh.name, key=key)
            title = " ".join(title.split())
            if len(title) > _LONGEST_TITLE:
                raise Conflict("a slot's name has at most {longest_title} characters", longest_title=_LONGEST_TITLE)
            merged[key] = title
        merged = {key: title for key, title in merged.items() if title}
        called = [merged.get(key) or key for key in keys]
        twice = next((one for one in called if called.count(one) > 1), None)
        if twice is not None and any(merged.get(key) == twice for key in keys):
            raise Conflict("two slots would be called {twice}", twice=twice)
        doing.label = f"Rename a slot of {mesh.name}" if len(titles) == 1 else f"Rename slots of {mesh.name}"
        doing.update(mesh, titles=merged)


def call_by_worn(project: Project, pk: int, by: Any, seen: int | None = None) -> None:
    """Call every slot after what it wears, in the case of the project's target, with numbers where several wear the
    same; slots that wear nothing keep their names."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        keys, known = _keys(mesh), standings(project, list(mesh.wears.values()))
        worn = {key: one for key in keys if (one := mesh.wears.get(key)) and (one["kind"], one["id"]) in known}
        case = target_for(project, project.target).case
        names = [apply_case(safe_name(known[one["kind"], one["id"]].name), case) for one in worn.values()]
        called = dict(zip(worn, each_once(names), strict=True))
        doing.label = f"Name the slots of {mesh.name} after what they wear"
        doing.update(mesh, titles={**mesh.titles, **called})


def split_slot(project: Project, pk: int, slot: str, part: str, by: Any, seen: int | None = None) -> None:
    """Give a part a slot of its own, which wears what the shared one does. Raises Conflict where nothing shares it."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        facts, keys = facts_of(mesh), _keys(mesh)
        if slot not in keys or facts is None:
            raise Conflict("{mesh} has no slot {slot!r}", mesh=mesh.name, slot=slot)
        parts = facts.slots[keys.index(slot)].parts
        if part not in parts or len(parts) < 2:
            raise Conflict("{what} is not shared by {part} and another part", what=slot or "the slot", part=part)
        split: SplitSlot = {"slot": slot, "part": part}
        doing.label = f"Split {slot or 'a slot'} of {mesh.name}"
        worn = mesh.wears.get(slot)
        now = slot_keys([*(one.name for one in facts.slots), f"{facts.slots[keys.index(slot)].name} ({part})".strip()])
        wears = {**mesh.wears, now[-1]: worn} if worn else mesh.wears
        doing.update(mesh, splits=[*mesh.splits, split], wears=wears)


def join_slot(project: Project, pk: int, slot: str, part: str, by: Any, seen: int | None = None) -> None:
    """Let a part share a slot again. Raises Conflict where it was not split off."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        left = [one for one in mesh.splits if (one["slot"], one["part"]) != (slot, part)]
        if len(left) == len(mesh.splits):
            raise Conflict("{part} has no slot of its own", part=part)
        doing.label = f"Join {slot or 'a slot'} of {mesh.name}"
        doing.update(mesh, splits=left)


def rename_model(project: Project, pk: int, name: str, by: Any, seen: int | None = None) -> None:
    """Raises Conflict for a name that is taken, empty or too long."""
    name = " ".join(name.split())
    with change(project, by, f"Rename to {name}") as doing:
        mesh = doing.row(Mesh, pk, seen)
        if not name or len(name) > _LONGEST_TITLE:
            raise Conflict("a model needs a name of at most {longest_title} characters", longest_title=_LONGEST_TITLE)
        if project.meshes.filter(name=name).exclude(pk=pk).exists():
            raise Conflict("there is a model {name} already", name=name)
        doing.update(mesh, name=name)


def set_scale(project: Project, pk: int, metres: float, by: Any, seen: int | None = None) -> None:
    """Metres of one unit of the file. Raises Conflict beyond 0.0001 to 1000."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        if not _SCALES[0] <= metres <= _SCALES[1]:
            raise Conflict("one unit is between 0.0001 and 1000 metres")
        doing.label = f"Scale of {mesh.name}"
        doing.update(mesh, metres=metres)


def delete_model(project: Project, pk: int, by: Any, seen: int | None = None) -> None:
    """Take a model out; undo brings it back with its files."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        doing.label = f"Delete {mesh.name}"
        doing.delete_many(list(mesh.strokes.all()))
        doing.delete(mesh)


def plain_sheet_of(one: TextureSet) -> tuple[Any, Sequence[str]]:
    """The sheet that stands for a set without a cast, and the slots that the set fills: all of them."""
    sheet = parse_master(plain_master(roles_in(one)), one.name)
    return sheet, list(sheet.slots)
