"""What a project's text orders for a target: sets, casts, models and ground, as the studio orders them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from texel.atlas.regions import regions_of
from texel.compression import FormatTable, builtin_tables, parse_table
from texel.delivery.target import Target, builtin_targets, parse_target
from texel.errors import BadDocument
from texel.ground.delivered import ground_order
from texel.licences import UNTOLD, Licence, LicenceRules, Objection, licence_key, objection, parse_licences
from texel.materials import checked_changes, parse_master, stacked, values_of
from texel.materials.casts import MAX_DEPTH
from texel.materials.delivered import cast_order
from texel.meshes.delivered import model_order, titles_of
from texel.meshes.plain import plain_order
from texel.project.kinds import PROJECT, Texts, folder_of, text_digest
from texel.project.reviews import unapproved_words
from texel.roles import Role
from texel.sets import MapRef, TextureSet, file_keys
from texel.tiles import tiled_by_name

__all__ = ["Project", "TargetOrder", "order_for", "project_of", "waivers_of"]


@dataclass(frozen=True)
class Project:
    """A project as its text has it. By name: documents of sets, casts, models and ground; sheets by master."""

    about: Mapping[str, Any]
    rules: Mapping[tuple[str, str], Mapping[str, Any]]
    masters: Mapping[str, Mapping[str, Any]]
    sets: Mapping[str, Mapping[str, Any]]
    casts: Mapping[str, Mapping[str, Any]]
    models: Mapping[str, Mapping[str, Any]]
    ground: Mapping[str, Mapping[str, Any]]

    def target(self, name: str = "") -> Target:
        """A target of the project's own, or a ready-made one. name: the project's without it. Raises BadDocument."""
        name = name or self.about["target"]
        own = {called: document for (kind, called), document in self.rules.items() if kind == "target"}
        there = {**builtin_targets(), **own}
        if name not in there:
            raise BadDocument("there is no target {name!r}; there are {listed}", name=name, listed=", ".join(there))
        return parse_target(there[name], name)

    @property
    def formats(self) -> FormatTable:
        """Which formats may be used: the project's own table, else the ready-made one for desktops."""
        return parse_table(self.rules.get(("formats", "house")) or builtin_tables()["desktop"])

    @property
    def licences(self) -> LicenceRules | None:
        own = self.rules.get(("licences", "house"))
        return parse_licences(own, "rules/licences/house") if own is not None else None


def project_of(texts: Texts) -> Project:
    """The parts of a project's text. Raises BadDocument without a project."""
    if PROJECT not in texts:
        raise BadDocument("there is no {name}", name=f"{PROJECT}.json")
    by_folder: dict[str, dict[str, Mapping[str, Any]]] = {}
    for key, document in sorted(texts.items()):
        folder = folder_of(key)
        by_folder.setdefault(folder, {})[key.removeprefix(f"{folder}/")] = document
    rules = {
        (folder.removeprefix("rules/"), name): document
        for folder, some in by_folder.items() if folder.startswith("rules/") for name, document in some.items()
    }  # fmt: skip
    parts = [by_folder.get(folder, {}) for folder in ("masters", "sets", "casts", "models", "ground")]
    return Project(texts[PROJECT], rules, *parts)


@dataclass
class TargetOrder:
    """What is delivered for a target. sets: those that are delivered, then, from ``delivered`` on, those that only fill
    slots. files: digests by what a library calls a file; paths: where each was taken in from. refused: why a set may
    not be delivered, by its name. casts, models, grounds: as texel.materials.delivered and its brothers read them."""

    target: Target
    sets: list[TextureSet]
    delivered: int
    files: dict[str, str]
    paths: dict[str, str]
    refused: dict[str, str] = field(default_factory=dict)
    casts: list[Any] = field(default_factory=list)
    models: list[Any] = field(default_factory=list)
    grounds: list[Any] = field(default_factory=list)

    @property
    def chosen(self) -> list[TextureSet]:
        return self.sets[: self.delivered]


def order_for(
    project: Project, target: str = "", casts: bool = True, models: bool = True, ground: bool = True, only: str = ""
) -> TargetOrder:
    """What a project delivers for a target: the sets that ask for it (those that name no target of their own ask for
    the project's), and all its casts, models and patches of ground. only: one set and nothing else. Raises BadDocument
    for what does not fit."""
    to = project.target(target)
    own = project.about["target"]
    asking = (name for name, one in project.sets.items() if to.name in (one.get("targets") or [own]))
    chosen = [only] if only else list(asking)
    used: set[str] = set()
    of_casts = [_cast(project, name, used) for name in project.casts] if casts else []
    files: dict[str, str] = {}
    of_models = [_model(project, name, used, files) for name in project.models] if models else []
    of_ground = [_ground(project, name, used, files) for name in project.ground] if ground else []
    beside = sorted(name for name in used if name in project.sets and name not in chosen)
    paths: dict[str, str] = {name: name.rsplit("/", 1)[-1] for name in files}
    sets = _sets(project, [*chosen, *beside], files, paths)
    refused = _refused(project, [*chosen, *beside])
    return TargetOrder(
        to, sets, len(chosen), files, paths, refused, [cast_order(one) for one in of_casts],
        [model_order(one) for one in of_models], [ground_order(one) for one in of_ground],
    )  # fmt: skip


def _sets(project: Project, names: Iterable[str], files: dict[str, str], paths: dict[str, str]) -> list[TextureSet]:
    named = [(name, project.sets[name]) for name in names]
    every = [(one["file"], one["digest"]) for _, document in named for one in document["maps"]]
    keys = iter(file_keys(every))
    made = []
    for name, document in named:
        maps = []
        for one in document["maps"]:
            key = next(keys)
            files[key], paths[key] = one["digest"], one["file"]
            recipe = tuple(one.get("recipe", ()))
            maps.append(MapRef(Role(one["role"]), key, one.get("channel"), recipe=recipe, layer=one.get("layer")))
        licence = Licence(**document["licence"]) if "licence" in document else UNTOLD
        made.append(TextureSet(name, tuple(maps), licence, regions_of(document.get("regions", ()), f"sets/{name}")))
    return made


def _line(project: Project, name: str) -> list[Mapping[str, Any]]:
    """A cast behind its ancestors, the eldest first. Raises BadDocument."""
    line: list[Mapping[str, Any]] = []
    at: str | None = name
    while at is not None:
        document = project.casts.get(at)
        if document is None:
            raise BadDocument("casts/{name} derives from {parent}, which is not there", name=name, parent=at)
        if len(line) > MAX_DEPTH:
            raise BadDocument("casts/{name} derives from too many casts, or from itself", name=name)
        line.insert(0, document)
        at = document.get("parent")
    return line


def _cast(project: Project, name: str, used: set[str]) -> dict[str, Any]:
    """A cast with all that it inherits, as it is ordered; the sets that fill it are added to ``used``."""
    line = _line(project, name)
    master = line[-1]["master"]
    if master not in project.masters:
        raise BadDocument("casts/{name} is of the master {master}, which is not there", name=name, master=master)
    sheet = parse_master(project.masters[master]["sheet"], f"masters/{master}")
    changes = stacked(one.get("changes", {}) for one in line)
    slots = stacked(one.get("slots", {}) for one in line)
    values_of(sheet, checked_changes(sheet, changes, name))
    tiles = tiled_by_name(project.sets)
    for fill in slots.values():
        if fill["set"] not in project.sets:
            raise BadDocument(
                "casts/{name} is filled from the set {set}, which is not there", name=name, set=fill["set"]
            )
        used |= set(tiles[fill["set"]].tiles.values()) if fill["set"] in tiles else {fill["set"]}
    return {"name": name, "master": sheet.document, "changes": changes, "slots": slots}


def _worn(project: Project, kind: str, name: str, used: set[str], relief: bool = False) -> dict[str, Any] | None:
    """What a slot or a layer wears, as it is ordered; None for what is gone."""
    if kind == "cast":
        return _cast(project, name, used) if name in project.casts else None
    if name not in project.sets:
        return None
    used.add(name)
    return plain_order(name, {Role(one["role"]) for one in project.sets[name]["maps"]}, relief)


def _model(project: Project, name: str, used: set[str], files: dict[str, str]) -> dict[str, Any]:
    document = project.models[name]
    slots = document.get("told", {}).get("slots")
    if slots is None:
        raise BadDocument("models/{name} was not measured when it was exported", name=name)
    named = {}
    for file, content in document["files"].items():
        named[file] = f"model/{content}/{file}"
        files[named[file]] = content
    worn = document.get("wears", {})
    titles = titles_of([one["name"] for one in slots], document.get("titles", {}))
    made = []
    for one, title in zip(slots, titles, strict=True):
        wears = worn.get(one["key"])
        region = {k: v for k, v in wears["region"].items() if k != "set"} if wears and "region" in wears else None
        order = _worn(project, wears["kind"], wears["name"], used) if wears else None
        made.append({"key": one["key"], "title": title, "parts": one["parts"], "wears": order, "region": region})
    return {
        "name": name, "main": document["main"], "files": named, "splits": document.get("splits", []), "slots": made,
        "metres": document.get("metres", 1.0), "strokes": document.get("strokes", []),
    }  # fmt: skip


def _ground(project: Project, name: str, used: set[str], files: dict[str, str]) -> dict[str, Any]:
    document = project.ground[name]
    ground = document["ground"]
    if len(document["wears"]) != len(ground["layers"]):
        raise BadDocument("ground/{name}: wears has as many entries as there are layers", name=name)
    height = ""
    if ground["shape"].get("kind") == "map":
        if "height" not in document:
            raise BadDocument("ground/{name}: its height map is not there", name=name)
        height = f"ground/{document['height']}/{ground['shape'].get('map', '')}"
        files[height] = document["height"]
    layers = []
    for layer, kind in zip(ground["layers"], document["wears"], strict=True):
        worn = _worn(project, kind, layer.get("wears", ""), used, relief=True) if kind else None
        if worn is None:
            raise BadDocument("ground/{name}: the layer {layer} wears nothing", name=name, layer=layer["name"])
        layers.append(worn)
    return {"ground": ground, "height": height, "layers": layers}


def _refused(project: Project, names: Iterable[str]) -> dict[str, str]:
    """Why sets may not be delivered: by their review, and by their licence."""
    refused = {}
    for name in names:
        reason = _unapproved(project.sets[name]) if project.about.get("approval") else ""
        told = _licence_objection(project, name)
        if told is not None and told.refuses:
            reason = str(told.message)
        if reason:
            refused[name] = reason
    return refused


def _licence_objection(project: Project, name: str) -> Objection | None:
    """What speaks against using a set by its licence, and is not waived."""
    document = project.sets[name]
    licence = Licence(**document["licence"]) if "licence" in document else UNTOLD
    told = objection(licence, project.licences)
    if told is None or (told.check, "", licence_key(licence.name)) in waivers_of(document):
        return None
    return told


def waivers_of(document: Mapping[str, Any], day: date | None = None) -> dict[tuple[str, str, str], Mapping[str, Any]]:
    """The waivers of a set that hold on a day, today without one, by check, role and what they name the map."""
    last = (day or date.today()).isoformat()
    return {
        (one["check"], one.get("role", ""), one.get("map", "")): one
        for one in document.get("waivers", ()) if one.get("until", last) >= last
    }  # fmt: skip


def _unapproved(document: Mapping[str, Any]) -> str:
    """Why a set is not approved, "" where it is: as it stands here, not only as the studio knew it."""
    review = document.get("told", {}).get("review")
    state = review["state"] if review else ""
    was_edited = state == "approved" and review["of"] != text_digest(document)
    return unapproved_words("changed" if was_edited else state)
