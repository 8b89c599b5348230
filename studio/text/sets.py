"""Sets as text: maps by path and digest, steps, licence, size, targets, regions, waivers."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from studio.changes.engine import Doing
from studio.changes.errors import Conflict
from studio.intake.models import IntakeFile
from studio.projects.models import Membership, Project
from studio.rules.models import target_for
from studio.sets.editing import BY_HAND, checked_recipe, choose_place, drop_empty
from studio.sets.models import Placement, TextureSet, Waiver
from studio.team.reviews import newest_steps
from studio.text.kinds import Document, Documents, TextKind, by_name, register
from texel.atlas.regions import regions_of
from texel.project.kinds import text_digest
from texel.roles import Role
from texel.sets import MapRef
from texel.sets import TextureSet as CoreSet

__all__: list[str] = []

_TOLD = 10


def _read(project: Project) -> Documents:
    rows = list(project.sets.prefetch_related("placements__file", "waivers__by"))
    steps = newest_steps([row.pk for row in rows])
    waiting: dict[str, list[dict[str, object]]] = defaultdict(list)
    undecided = project.placements.filter(set__isnull=True).order_by("file__path", "pk")
    for path, candidates in undecided.values_list("file__path", "candidates"):
        for name in sorted({one["set"] for one in candidates}):
            roles = sorted({one["role"] for one in candidates if one["set"] == name})
            waiting[name].append({"file": path, "roles": roles})
    documents = {}
    for row in by_name(rows):
        document = _document(row)
        told: dict[str, object] = {}
        if row.pk in steps:
            told["review"] = {"state": steps[row.pk].state, "of": text_digest(document)}
        if waiting[row.name]:
            told["undecided"] = waiting[row.name]
        documents[row.name] = {**document, **({"told": told} if told else {})}
    return documents


def _document(row: TextureSet) -> dict[str, object]:
    document: dict[str, object] = {"format": "fair-texel/project-set", "version": 1, "name": row.name}
    if row.metres is not None:
        document["metres"] = row.metres
    if row.licence:
        document["licence"] = {"name": row.licence, **({"credit": row.credit} if row.credit else {})}
    for key, value in (("targets", row.targets), ("regions", row.regions)):
        if value:
            document[key] = value
    document["maps"] = [_map(one) for one in sorted(row.placements.all(), key=lambda one: (one.order, one.pk))]
    waivers = {(one.check_name, one.role, one.map_digest): one for one in row.waivers.all() if not one.revoked}
    if waivers:
        document["waivers"] = [_waiver(one) for one in waivers.values()]
    return document


def _map(one: Placement) -> dict[str, object]:
    document: dict[str, object] = {"role": one.role, "file": one.file.path, "digest": one.file.source_id or "0" * 64}
    for key, value in (("channel", one.channel), ("layer", one.layer), ("recipe", one.recipe)):
        if value:
            document[key] = value
    return document


def _waiver(one: Waiver) -> dict[str, object]:
    document: dict[str, object] = {"check": one.check_name}
    for key, value in (("role", one.role), ("map", one.map_digest)):
        if value:
            document[key] = value
    document["reason"] = one.reason
    if one.until is not None:
        document["until"] = one.until.isoformat()
    return document | ({"by": one.by.get_username()} if one.by is not None else {})


def _write(doing: Doing, documents: Mapping[str, Mapping[str, Any]], gone: set[str]) -> None:
    project = doing.project
    known = {row.name: row for row in project.sets.filter(name__in=[*documents, *gone])}
    for name in documents:
        renamed = (
            None if name in known else _renamed(documents[name], [known[one] for one in sorted(gone & known.keys())])
        )
        if renamed is not None:
            gone.discard(renamed.name)
            doing.update(renamed, name=name)
            known[name] = renamed
    missing: list[str] = []
    for name, document in documents.items():
        one = known.get(name) or doing.create(TextureSet, project=project, name=name)
        licence = document.get("licence", {})
        for target in document.get("targets", ()):
            target_for(project, target)
        regions = [region.document() for region in regions_of(document.get("regions", ()), f"sets/{name}")]
        doing.update(
            one, metres=document.get("metres"), licence=licence.get("name", ""), credit=licence.get("credit", ""),
            targets=list(document.get("targets", ())), regions=regions,
        )  # fmt: skip
        missing += _write_maps(doing, one, document["maps"])
        _write_waivers(doing, one, document.get("waivers", ()))
    if missing:
        more = ", ..." if len(missing) > _TOLD else ""
        raise Conflict(
            "the project has no file of this path and content: {listed}{more}; upload it first",
            listed=", ".join(missing[:_TOLD]), more=more,
        )  # fmt: skip


def _renamed(document: Mapping[str, Any], gone: Sequence[TextureSet]) -> TextureSet | None:
    """The set that is gone under its old name and has just the maps of a new one."""
    wanted = sorted((one["file"], one["digest"]) for one in document["maps"])
    for row in gone:
        if wanted and sorted(row.placements.values_list("file__path", "file__source_id")) == wanted:
            return row
    return None


def _write_maps(doing: Doing, one: TextureSet, maps: Sequence[Mapping[str, Any]]) -> list[str]:
    """Make the maps of a set what the text says; the paths of files that are not there."""
    left = sorted(one.placements.select_related("file"), key=lambda row: (row.order, row.pk))
    rows: list[Placement] = []
    missing = []
    _must_link(one.name, maps)
    for wanted in maps:
        row = _matching(left, wanted)
        if row is not None:
            left.remove(row)
        else:
            file = _file(doing.project, wanted)
            if file is None:
                missing.append(wanted["file"])
                continue
            row = _placed(doing, one, file, wanted)
        values: dict[str, object] = {
            "channel": wanted.get("channel", ""), "layer": wanted.get("layer", ""),
            "recipe": checked_recipe(wanted.get("recipe", ())),
        }  # fmt: skip
        if row.role != wanted["role"]:
            values |= {"role": wanted["role"], **BY_HAND}
        doing.update(row, **values)
        rows.append(row)
    for row in left:
        _take_out(doing, row)
    if [(row.order, row.pk) for row in rows] != sorted((row.order, row.pk) for row in rows):
        for order, row in enumerate(rows):
            doing.update(row, order=order)
    return missing


def _must_link(name: str, maps: Sequence[Mapping[str, Any]]) -> None:
    """Raises BadDocument where recipes read each other in a circle."""
    refs = (
        MapRef(Role(one["role"]), one["file"], one.get("channel"), recipe=tuple(one.get("recipe", ()))) for one in maps
    )
    CoreSet(name, tuple(refs)).linked()


def _matching(rows: Sequence[Placement], wanted: Mapping[str, Any]) -> Placement | None:
    """The map that the text means: of the same file, and as much else alike as there is."""
    same = [row for row in rows if (row.file.path, row.file.source_id) == (wanted["file"], wanted["digest"])]

    def alike(row: Placement) -> tuple[bool, bool, bool]:
        told = wanted["role"], wanted.get("channel", ""), wanted.get("layer", "")
        return row.role == told[0], row.channel == told[1], row.layer == told[2]

    return max(same, key=alike, default=None)


def _file(project: Project, wanted: Mapping[str, Any]) -> IntakeFile | None:
    rows = IntakeFile.objects.filter(intake__project=project, path=wanted["file"], source_id=wanted["digest"])
    return rows.order_by("-pk").first()


def _placed(doing: Doing, one: TextureSet, file: IntakeFile, wanted: Mapping[str, Any]) -> Placement:
    """A map of a set from a file: the one that nobody placed yet, or another one."""
    values = {"set_id": one.pk, "role": wanted["role"], "order": 0}
    waiting = doing.project.placements.select_related("file").filter(file=file, set__isnull=True).first()
    if waiting is not None:
        choose_place(doing, waiting, **values)
        return waiting
    return doing.create(Placement, project=doing.project, intake_id=file.intake_id, file=file, **BY_HAND, **values)


def _take_out(doing: Doing, row: Placement) -> None:
    """A map that the set does not have any more: its file waits to be placed, where nothing else uses it."""
    if doing.project.placements.filter(file=row.file_id).exclude(pk=row.pk).exists():
        doing.delete(row)
    else:
        choose_place(doing, row, set_id=None, role="", order=-1)


def _write_waivers(doing: Doing, one: TextureSet, waivers: Sequence[Mapping[str, Any]]) -> None:
    there = {(row.check_name, row.role, row.map_digest): row for row in one.waivers.filter(revoked=False)}
    for wanted in waivers:
        key = (wanted["check"], wanted.get("role", ""), wanted.get("map", ""))
        until = date.fromisoformat(wanted["until"]) if "until" in wanted else None
        row = there.pop(key, None)
        if row is not None:
            doing.update(row, reason=wanted["reason"], until=until)
            continue
        doing.create(
            Waiver, set=one, check_name=key[0], role=key[1], map_digest=key[2], reason=wanted["reason"], until=until,
            by=doing.by,
        )  # fmt: skip
    for row in there.values():
        doing.update(row, revoked=True)


def _remove(doing: Doing, names: set[str]) -> None:
    rows = list(doing.project.sets.filter(name__in=names))
    for row in Placement.objects.filter(set__in=rows).select_related("file"):
        _take_out(doing, row)
    drop_empty(doing, [row.pk for row in rows])


def _right(before: Document | None, after: Document | None) -> str:
    """Waivers are given and taken back by whoever sets the rules."""
    told = [(one or {}).get("waivers", []) for one in (before, after)]
    return Membership.Right.RULES if told[0] != told[1] else Membership.Right.PREPARE


register(TextKind("sets", _read, _write, _remove, _right))
