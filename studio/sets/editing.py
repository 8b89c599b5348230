"""Change sets: every change goes through ``edit``, which keeps the state before and after, so it can be undone."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import Any

from django.db import transaction
from django.db.models import F, Max

from studio.intake.models import IntakeFile
from studio.jobs.announce import announce
from studio.projects.models import Change, Project
from studio.sets.documents import linked_ref, probe_of
from studio.sets.judging import ask_to_judge
from studio.sets.models import Placement, TextureSet
from texel.recipes import parse_step
from texel.roles import Role

__all__ = [
    "Conflict", "Touched", "add_alpha_map", "checked_recipe", "copy_recipe", "derive_map", "edit", "free_name",
    "merge", "move", "move_to_new", "redo", "rename", "set_layer", "set_licence", "set_metres", "set_paths",
    "set_recipe", "share", "split", "undo",
]  # fmt: skip

_PLACEMENT_FIELDS = (
    "intake_id", "file_id", "set_id", "role", "channel", "layer", "order", "confidence", "why", "by_hand", "candidates",
    "recipe", "suffix",
)  # fmt: skip
# A name that no file can have: paths never hold a colon at their start.
_ASIDE = ":renaming:"
_LONGEST_METRES = 10000
_SET_FIELDS = ("name", "metres", "licence", "credit")
# As the schemas of sets and licences have it.
_LICENCE_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9.+-]{0,99}")
_LONGEST_CREDIT = 300
State = dict[str, dict[str, Any]]


class Conflict(Exception):
    """A change that cannot be made; the message says why."""


def free_name(project: Project, name: str, taken: set[str] | None = None) -> str:
    """``name``, or with a number behind it when another set of the project has it. taken: their names, where known."""
    taken = set(project.sets.values_list("name", flat=True)) if taken is None else taken
    number, wanted = 2, name[:190]
    while wanted in taken:
        wanted, number = f"{name[:190]}_{number}", number + 1
    return wanted


def _habits(project: Project) -> dict[str, Any]:
    """What was taught, and what each intake's suffixes were taken for."""
    taught = Project.objects.values_list("habit", flat=True).get(pk=project.pk)
    return {"taught": taught, "intakes": {str(pk): lines for pk, lines in project.intakes.values_list("pk", "habit")}}


def _snapshot(project: Project, set_ids: Iterable[int], placement_ids: Iterable[int]) -> State:
    sets = project.sets.filter(pk__in=set(set_ids))
    placements = project.placements.filter(pk__in=set(placement_ids)) | project.placements.filter(set__in=sets)
    rows = list(placements.select_related("file"))
    return {
        "sets": {str(s.pk): {f: getattr(s, f) for f in _SET_FIELDS} for s in sets},
        "placements": {str(p.pk): {f: getattr(p, f) for f in _PLACEMENT_FIELDS} for p in rows},
        "files": {str(p.file_id): {"path": p.file.path} for p in rows},
    }


class Touched:
    """What a change is about to touch. Add sets that it makes."""

    def __init__(self, sets: Iterable[int], placements: Iterable[int]):
        self.sets, self.placements = set(sets), set(placements)


@contextmanager
def edit(
    project: Project, by, label: str, sets: Iterable[int], placements: Iterable[int] = (), habits: bool = False
) -> Iterator[Touched]:
    """Make a change to some sets inside one transaction, kept for undo; findings are asked for anew.

    habits: the change also teaches what suffixes mean.
    """
    with transaction.atomic():
        Project.objects.select_for_update().get(pk=project.pk)
        touched = Touched(sets, placements)
        before = _snapshot(project, touched.sets, touched.placements)
        if habits:
            before["habits"] = _habits(project)
        yield touched
        after = _snapshot(project, touched.sets, touched.placements | {int(pk) for pk in before["placements"]})
        ids = touched.sets
        if habits:
            after["habits"] = _habits(project)
            # Sorting again looks at everything and changes little of it: only that is kept and judged.
            ids = _only_what_changed(before, after)
        project.changes.filter(undone=True).delete()
        Change.objects.create(project=project, by=by, label=label[:200], before=before, after=after)
        _changed(project, ids, by)


def _only_what_changed(before: State, after: State) -> set[int]:
    """Take out of two states what they have in common. Returns the ids of the sets that differ, or whose maps do."""
    rows = {
        pk
        for pk in before["placements"].keys() | after["placements"].keys()
        if _differs(before, after, "placements", pk)
    }
    sets = {pk for pk in before["sets"].keys() | after["sets"].keys() if _differs(before, after, "sets", pk)}
    for state in (before, after):
        sets |= {str(state["placements"][pk]["set_id"]) for pk in rows & state["placements"].keys()} - {"None"}
    files = {pk for pk in before["files"].keys() | after["files"].keys() if _differs(before, after, "files", pk)}
    for state in (before, after):
        for kind, kept in (("placements", rows), ("sets", sets), ("files", files)):
            state[kind] = {pk: values for pk, values in state[kind].items() if pk in kept}
    return {int(pk) for pk in sets}


def _differs(before: State, after: State, kind: str, pk: str) -> bool:
    return before[kind].get(pk) != after[kind].get(pk)


def _changed(project: Project, set_ids: Iterable[int], by) -> None:
    ids = list(set_ids)
    if not ids:
        return
    project.sets.filter(pk__in=ids).update(revision=F("revision") + 1)
    ask_to_judge(project, ids, by)
    announce(project.pk, "sets")


def _restore(project: Project, wanted: State, other: State) -> set[int]:
    """Bring sets and placements to ``wanted``; what only ``other`` has goes away. Returns the ids of the sets."""
    for pk, values in wanted["sets"].items():
        TextureSet.objects.update_or_create(pk=int(pk), defaults={"project": project, **values})
    for pk, values in wanted["placements"].items():
        Placement.objects.update_or_create(pk=int(pk), defaults={"project": project, **values})
    if "habits" in wanted:
        Project.objects.filter(pk=project.pk).update(habit=wanted["habits"]["taught"])
        for pk, lines in wanted["habits"]["intakes"].items():
            project.intakes.filter(pk=int(pk)).update(habit=lines)
        announce(project.pk, "habit")
    set_paths({int(pk): values["path"] for pk, values in wanted.get("files", {}).items()})
    Placement.objects.filter(pk__in=[int(pk) for pk in other["placements"] if pk not in wanted["placements"]]).delete()
    TextureSet.objects.filter(pk__in=[int(pk) for pk in other["sets"] if pk not in wanted["sets"]]).delete()
    return {int(pk) for pk in wanted["sets"]}


def set_paths(paths: dict[int, str]) -> None:
    """Give files their names, by id; names may trade places, so all are set aside first."""
    rows = [row for row in IntakeFile.objects.filter(pk__in=paths) if row.path != paths[row.pk]]
    for row in rows:
        row.path = f"{_ASIDE}{row.pk}"
    IntakeFile.objects.bulk_update(rows, ["path"])
    for row in rows:
        row.path = paths[row.pk]
    IntakeFile.objects.bulk_update(rows, ["path"])


def _step(project: Project, by, forwards: bool) -> Change | None:
    with transaction.atomic():
        Project.objects.select_for_update().get(pk=project.pk)
        changes = project.changes.filter(undone=forwards)
        change = changes.first() if forwards else changes.last()
        if change is None:
            return None
        wanted, other = (change.after, change.before) if forwards else (change.before, change.after)
        from studio.materials.history import restore_materials

        ids = _restore(project, wanted, other)
        restore_materials(project, wanted, other)
        change.undone = not forwards
        change.save(update_fields=["undone"])
        _changed(project, ids, by)
        return change


def undo(project: Project, by) -> Change | None:
    """Take back the last change. None when there is none."""
    return _step(project, by, forwards=False)


def redo(project: Project, by) -> Change | None:
    """Make the change that was taken back last once more. None when there is none."""
    return _step(project, by, forwards=True)


def rename(one: TextureSet, name: str, by) -> None:
    """Raises Conflict when the name is empty or taken."""
    name = name.strip()
    if not name:
        raise Conflict("a set needs a name")
    if one.project.sets.exclude(pk=one.pk).filter(name=name).exists():
        raise Conflict(f"another set is called {name}; merge the two, or choose another name")
    with edit(one.project, by, f"Rename {one.name} to {name}", [one.pk]):
        TextureSet.objects.filter(pk=one.pk).update(name=name)


def set_metres(one: TextureSet, metres: float | None, by) -> None:
    """Say how much surface the width of a set's texture covers; None for unknown. Raises Conflict."""
    if metres is not None and not 0 < metres <= _LONGEST_METRES:
        raise Conflict(f"a size in metres lies above 0 and at most at {_LONGEST_METRES}")
    words = "unknown" if metres is None else f"{metres:g} m"
    with edit(one.project, by, f"Size of {one.name}: {words}", [one.pk]):
        TextureSet.objects.filter(pk=one.pk).update(metres=metres)


def set_licence(sets: Iterable[TextureSet], name: str, credit: str, by) -> None:
    """Say under which licence sets of one project came, as one change; "" for unknown. Raises Conflict."""
    rows = list(sets)
    name, credit = name.strip(), " ".join(credit.split())
    if not rows:
        raise Conflict("choose at least one set")
    if name and not _LICENCE_NAME.fullmatch(name):
        raise Conflict(
            "a licence is named by its SPDX identifier, such as CC0-1.0, or by LicenseRef- and a word of one's own: "
            "letters, digits, points, + and -, at most 100"
        )
    if len(credit) > _LONGEST_CREDIT:
        raise Conflict(f"a credit has at most {_LONGEST_CREDIT} characters")
    what = rows[0].name if len(rows) == 1 else f"{len(rows)} sets"
    with edit(rows[0].project, by, f"Licence of {what}: {name or 'unknown'}", [row.pk for row in rows]):
        TextureSet.objects.filter(pk__in=[row.pk for row in rows]).update(licence=name, credit=credit if name else "")


def _one_licence(target: TextureSet, others: Iterable[TextureSet]) -> None:
    """Terms stay with the maps: a set that takes in maps of others takes their licence. Raises Conflict where they came
    under another one."""
    for one in others:
        if not one.licence or one.licence.lower() == target.licence.lower():
            continue
        if target.licence:
            raise Conflict(
                f"{one.name} came under {one.licence} and {target.name} under {target.licence}; say one licence of "
                "both first"
            )
        target.licence, target.credit = one.licence, one.credit
        target.save(update_fields=["licence", "credit"])


def _drop_empty(ids: Iterable[int]) -> None:
    TextureSet.objects.filter(pk__in=list(ids), placements__isnull=True).delete()


def move(placement: Placement, to: TextureSet | None, role: str, by) -> None:
    """Give a map another role or set; without a set it becomes undecided.

    A map in use that was there before exchanges places with it, when both are in one set; else it stays behind it.
    """
    project = placement.project
    wanted = Role(role) if to is not None else None
    sets = {pk for pk in (placement.set_id, to.pk if to else None) if pk is not None}
    where = f"{wanted.value} of {to.name}" if wanted and to else "undecided"
    with edit(project, by, f"Move {placement.file.path} to {where}", sets, [placement.pk]):
        if to is not None and placement.set is not None:
            _one_licence(to, [placement.set])
        there = to.placements.filter(role=wanted.value).exclude(pk=placement.pk).first() if to and wanted else None
        if there is not None and placement.set_id == there.set_id and placement.role != there.role:
            there.role, there.by_hand, there.why = placement.role, True, "chosen by hand"
            there.save()
        lowest = min([0, *to.placements.values_list("order", flat=True)]) if to else 0
        placement.set, placement.role = to, wanted.value if wanted else ""
        placement.order, placement.by_hand, placement.confidence = lowest - 1, True, 1.0
        placement.why = "chosen by hand"
        placement.save()
        _drop_empty(sets)


def share(placement: Placement, to: TextureSet, by) -> Placement:
    """Let another set use a map as well: the same file, channel and steps, in the same role, in use there.

    Raises Conflict when it is in no set yet, or in that one.
    """
    if placement.set is None:
        raise Conflict(f"{placement.file.path} is in no set yet; give it a place first")
    if to.placements.filter(file=placement.file_id, channel=placement.channel, role=placement.role).exists():
        raise Conflict(f"{to.name} uses {placement.file.path} already")
    project = placement.project
    with edit(project, by, f"Use {placement.file.path} in {to.name} as well", [to.pk]) as touched:
        _one_licence(to, [placement.set])
        lowest = min([0, *to.placements.values_list("order", flat=True)])
        made = Placement.objects.create(
            project=project, intake=placement.intake, file=placement.file, set=to, role=placement.role,
            channel=placement.channel, layer=placement.layer, order=lowest - 1, confidence=1.0,
            why=f"shared with {placement.set.name}"[:400], by_hand=True, recipe=placement.recipe,
        )  # fmt: skip
        touched.placements.add(made.pk)
    return made


def add_alpha_map(placement: Placement, role: str, by) -> Placement:
    """Give the alpha channel of a map's file a role of its own in the same set. Raises Conflict."""
    probe = placement.file.source.probe if placement.file.source else None
    if placement.set is None or probe is None or "a" not in probe["channels"]:
        raise Conflict(f"{placement.file.path} has no alpha channel")
    return _add_map(
        placement, placement.set, Role(role), "a", [], f"Use alpha of {placement.file.path} as {Role(role).value}", by
    )


def derive_map(placement: Placement, role: str, recipe: list[dict[str, Any]], by) -> Placement:
    """A new map of the same set in another role, made from a map's file by a recipe; it becomes the one in use.

    Raises BadDocument, Conflict.
    """
    wanted = Role(role)
    if placement.set is None:
        raise Conflict(f"{placement.file.path} is in no set yet; give it a place first")
    label = f"Make {wanted.value} from {placement.file.path}"
    return _add_map(placement, placement.set, wanted, placement.channel, checked_recipe(recipe), label, by)


def _add_map(
    placement: Placement, one: TextureSet, role: Role, channel: str, recipe: list[dict[str, Any]], label: str, by
) -> Placement:
    with edit(one.project, by, label, [one.pk]) as touched:
        order = (one.placements.aggregate(last=Max("order"))["last"] or 0) + 1
        if recipe:
            order = min([0, *one.placements.values_list("order", flat=True)]) - 1
        made = Placement.objects.create(
            project=one.project, intake=placement.intake, file=placement.file, set=one, role=role.value,
            channel=channel, layer=placement.layer, order=order, confidence=1.0,
            why="chosen by hand", by_hand=True, recipe=recipe,
        )  # fmt: skip
        touched.placements.add(made.pk)
    return made


def checked_recipe(recipe: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Steps as they are kept: every option written out. Raises BadDocument."""
    return [
        parse_step(step).document() | ({"off": True} if step.get("off") else {})
        for step in ({k: v for k, v in step.items() if k != "label"} for step in recipe)
    ]


def set_recipe(placement: Placement, recipe: list[dict[str, Any]], label: str, by) -> None:
    """Replace a map's recipe. Raises BadDocument for a step that does not exist, or recipes that read each other."""
    steps = checked_recipe(recipe)
    if placement.set_id is None:
        raise Conflict(f"{placement.file.path} is in no set yet; give it a place first")
    placement.recipe = steps
    linked_ref(placement)
    with edit(placement.project, by, label, [placement.set_id]):
        Placement.objects.filter(pk=placement.pk).update(recipe=steps)


def set_layer(placement: Placement, layer: str, by) -> None:
    """Choose another picture of a file that holds several. Raises UnreadableImage when there is none of that name."""
    if placement.file.source is None or not placement.file.source.probe:
        raise Conflict(f"{placement.file.path} holds no picture")
    probe_of(placement.file.source).of_layer(layer, placement.file.path)
    label = f"Use layer {layer} of {placement.file.path}"
    with edit(placement.project, by, label, [placement.set_id] if placement.set_id else [], [placement.pk]):
        Placement.objects.filter(pk=placement.pk).update(layer=layer)


def copy_recipe(placement: Placement, sets: Iterable[TextureSet], by) -> int:
    """Give the maps in use of the same role in other sets the recipe of this one, as one change. Returns how many."""
    chosen = {one.pk: one for one in sets if one.pk != placement.set_id}
    rows = Placement.objects.filter(set__in=chosen, role=placement.role).order_by("order", "pk")
    first = {row.set_id: row for row in reversed(rows) if row.set_id is not None}
    if not first:
        raise Conflict(f"none of the chosen sets has a {placement.role.replace('_', ' ')} map")
    with edit(placement.project, by, f"Copy the steps of {placement.file.path} to {len(first)} sets", first):
        Placement.objects.filter(pk__in=[row.pk for row in first.values()]).update(recipe=placement.recipe)
    return len(first)


def merge(target: TextureSet, others: list[TextureSet], by) -> None:
    """Put the maps of ``others`` into ``target``; where both have a role, the target's stays in use."""
    ids = [one.pk for one in others if one.pk != target.pk]
    if not ids:
        raise Conflict("choose at least two sets to merge")
    names = ", ".join(one.name for one in others if one.pk != target.pk)
    with edit(target.project, by, f"Merge {names} into {target.name}", [target.pk, *ids]):
        _one_licence(target, others)
        last = target.placements.aggregate(last=Max("order"))["last"] or 0
        for placement in Placement.objects.filter(set__in=ids).order_by("set__name", "order"):
            last += 1
            placement.set, placement.order = target, last
            placement.save(update_fields=["set", "order"])
        TextureSet.objects.filter(pk__in=ids).delete()


def split(one: TextureSet, placements: list[Placement], name: str, by) -> TextureSet:
    """Take some maps of a set into a new one. Raises Conflict when none or all are chosen."""
    ids = {p.pk for p in placements if p.set_id == one.pk}
    if not ids or len(ids) == one.placements.count():
        raise Conflict("choose some of the set's maps, but not all")
    project = one.project
    with edit(project, by, f"Split {len(ids)} maps off {one.name}", [one.pk]) as touched:
        name = free_name(project, name.strip() or f"{one.name}_2")
        made = TextureSet.objects.create(project=project, name=name, licence=one.licence, credit=one.credit)
        touched.sets.add(made.pk)
        Placement.objects.filter(pk__in=ids).update(set=made)
    return made


def move_to_new(placement: Placement, name: str, role: str, by) -> TextureSet:
    """Give a map a role in a set of its own."""
    project = placement.project
    wanted = Role(role)
    sets = [placement.set_id] if placement.set_id else []
    with edit(project, by, f"Move {placement.file.path} to a new set", sets, [placement.pk]) as touched:
        fallback = placement.file.path.rsplit("/", 1)[-1].rsplit(".", 1)[0]
        made = TextureSet.objects.create(project=project, name=free_name(project, name.strip() or fallback))
        if placement.set is not None:
            _one_licence(made, [placement.set])
        touched.sets.add(made.pk)
        placement.set, placement.role, placement.by_hand = made, wanted.value, True
        placement.confidence, placement.why = 1.0, "chosen by hand"
        placement.save()
        _drop_empty(sets)
    return made
