"""Changes to sets and maps. Each takes ids, and reads inside the change what it is about (studio.changes)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, cast

from django.db.models import Max
from django.http import Http404

from studio.changes.engine import Doing, change, must_be_as_seen, names_may_trade_places
from studio.changes.errors import Conflict
from studio.projects.models import Project
from studio.rules.models import target_for
from studio.sets.documents import linked_ref, probe_of
from studio.sets.kinds import free_name
from studio.sets.models import Placement, TextureSet
from texel.document_types import StepDocument
from texel.messages import message_of
from texel.recipes import parse_step, step_label
from texel.roles import role_named
from texel.wording import reason_fields

__all__ = [
    "BY_HAND", "add_alpha_map", "add_steps", "checked_recipe", "choose_place", "copy_recipe", "derive_map",
    "drop_empty", "merge", "move", "move_to_new", "rename", "rename_many", "set_layer", "set_licence", "set_metres",
    "set_recipe", "set_targets", "share", "split",
]  # fmt: skip

_MAX_TARGETS = 16
_LONGEST_METRES = 10000
# As the schemas of sets and licences have it.
_LICENCE_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9.+-]{0,99}")
_LONGEST_CREDIT = 300
_LONGEST_NAME = 200
# Revisions by id; what is not in it may be any.
Seen = Mapping[int, int]
_ANY: Seen = {}
# What is kept of a map whose place somebody chose.
BY_HAND: Mapping[str, Any] = {"by_hand": True, "confidence": 1.0, **reason_fields(message_of("why_by_hand"))}


def _set(doing: Doing, pk: int, seen: int | None = None) -> TextureSet:
    return doing.row(TextureSet, pk, seen)


def _sets(doing: Doing, ids: Iterable[int], seen: Seen) -> list[TextureSet]:
    """Sets by id. Raises Http404 when one is not there, Stale when one has changed since it was seen."""
    wanted = set(ids)
    rows = list(doing.project.sets.filter(pk__in=wanted))
    if len(rows) < len(wanted):
        raise Http404("There is no such set any more.")
    for row in rows:
        must_be_as_seen(row, seen.get(row.pk))
    return rows


def _map(doing: Doing, pk: int, seen: int | None = None) -> Placement:
    return doing.row(Placement, pk, seen, ("file__source", "set", "project"))


def _placed(doing: Doing, pk: int, seen: int | None) -> tuple[Placement, TextureSet]:
    """A map and its set. Raises Conflict when it is in none."""
    row = _map(doing, pk, seen)
    if row.set is None:
        raise Conflict("{path} is in no set yet; give it a place first", path=row.file.path)
    return row, row.set


def _checked_name(name: str) -> str:
    name = name.strip()
    if not name:
        raise Conflict("a set needs a name")
    if len(name) > _LONGEST_NAME:
        raise Conflict("a set's name has at most {longest_name} characters", longest_name=_LONGEST_NAME)
    return name


def rename_many(project: Project, names: Mapping[int, str], by: Any, seen: Seen = _ANY) -> None:
    """Give several sets new names as one change; two may exchange names. Raises Conflict when a name is empty, too
    long or taken, Http404 when a set is not there, Stale when one has changed since it was seen."""
    wanted = {pk: _checked_name(name) for pk, name in names.items()}
    if not wanted:
        raise Conflict("choose at least one set")
    if len(set(wanted.values())) < len(wanted):
        raise Conflict("two sets would get one name; merge them, or choose other names")
    with change(project, by, f"Rename {len(wanted)} sets") as doing, names_may_trade_places():
        rows = _sets(doing, wanted, seen)
        taken = project.sets.exclude(pk__in=wanted).filter(name__in=wanted.values()).first()
        if taken is not None:
            raise Conflict("another set is called {taken}; merge the two, or choose another name", taken=taken.name)
        doing.update_each((one, {"name": wanted[one.pk]}) for one in rows)


def rename(project: Project, pk: int, name: str, by: Any, seen: int | None = None) -> None:
    """Raises Conflict when the name is empty, too long or taken."""
    name = _checked_name(name)
    with change(project, by, "") as doing:
        one = _set(doing, pk, seen)
        if project.sets.exclude(pk=pk).filter(name=name).exists():
            raise Conflict("another set is called {name}; merge the two, or choose another name", name=name)
        doing.label = f"Rename {one.name} to {name}"
        doing.update(one, name=name)


def set_metres(project: Project, pk: int, metres: float | None, by: Any, seen: int | None = None) -> None:
    """Say how much surface the width of a set's texture covers; None for unknown. Raises Conflict."""
    if metres is not None and not 0 < metres <= _LONGEST_METRES:
        raise Conflict("a size in metres lies above 0 and at most at {longest_metres}", longest_metres=_LONGEST_METRES)
    words = "unknown" if metres is None else f"{metres:g} m"
    with change(project, by, "") as doing:
        one = _set(doing, pk, seen)
        doing.label = f"Size of {one.name}: {words}"
        doing.update(one, metres=metres)


def set_targets(project: Project, ids: Iterable[int], names: Iterable[str], by: Any, seen: Seen = _ANY) -> None:
    """Say which targets sets are delivered for, as one change; none for the project's own.

    Raises Conflict, BadDocument for a target that there is not.
    """
    ids, wanted = list(ids), list(dict.fromkeys(names))
    if not ids:
        raise Conflict("choose at least one set")
    if len(wanted) > _MAX_TARGETS:
        raise Conflict("a set is delivered for at most {max_targets} targets", max_targets=_MAX_TARGETS)
    titles = [target_for(project, name).title for name in wanted]
    with change(project, by, "") as doing:
        rows = _sets(doing, ids, seen)
        what = rows[0].name if len(rows) == 1 else f"{len(rows)} sets"
        doing.label = f"Targets of {what}: {', '.join(titles) or 'that of the project'}"[:200]
        doing.update_each((one, {"targets": wanted}) for one in rows)


def set_licence(project: Project, ids: Iterable[int], name: str, credit: str, by: Any, seen: Seen = _ANY) -> None:
    """Say under which licence sets came, as one change; "" for unknown. Raises Conflict."""
    name, credit, ids = name.strip(), " ".join(credit.split()), list(ids)
    if not ids:
        raise Conflict("choose at least one set")
    if name and not _LICENCE_NAME.fullmatch(name):
        raise Conflict(
            "a licence is named by its SPDX identifier, such as CC0-1.0, or by LicenseRef- and a word of one's own: "
            "letters, digits, points, + and -, at most 100"
        )
    if len(credit) > _LONGEST_CREDIT:
        raise Conflict("a credit has at most {longest_credit} characters", longest_credit=_LONGEST_CREDIT)
    with change(project, by, "") as doing:
        rows = _sets(doing, ids, seen)
        what = rows[0].name if len(rows) == 1 else f"{len(rows)} sets"
        doing.label = f"Licence of {what}: {name or 'unknown'}"
        doing.update_each((one, {"licence": name, "credit": credit if name else ""}) for one in rows)


def _one_licence(doing: Doing, target: TextureSet, others: Iterable[TextureSet]) -> None:
    """Terms stay with the maps: a set that takes in maps of others takes their licence. Raises Conflict where they came
    under another one."""
    for one in others:
        if not one.licence or one.licence.lower() == target.licence.lower():
            continue
        if target.licence:
            raise Conflict(
                "{one} came under {licence} and {target} under {licence2}; say one licence of both first",
                one=one.name,
                licence=one.licence,
                target=target.name,
                licence2=target.licence,
            )
        doing.update(target, licence=one.licence, credit=one.credit)


def drop_empty(doing: Doing, ids: Iterable[int | None]) -> None:
    """Take away sets that hold no map any more, and what was said about them."""
    for one in doing.project.sets.filter(pk__in=[pk for pk in ids if pk is not None], placements__isnull=True):
        for waiver in one.waivers.all():
            doing.delete(waiver)
        doing.delete(one)


def _before_all(one: TextureSet) -> int:
    """The order of a map that shall be the first of its set."""
    return min([0, *one.placements.values_list("order", flat=True)]) - 1


def move(project: Project, pk: int, to_pk: int | None, role: str, by: Any, seen: int | None = None) -> None:
    """Give a map another role or set; without a set it becomes undecided.

    A map in use that was there before exchanges places with it, when both are in one set; else it stays behind it.
    """
    with change(project, by, "") as doing:
        row = _map(doing, pk, seen)
        before = row.set_id
        if to_pk is None:
            doing.label = f"Move {row.file.path} to undecided"
            choose_place(doing, row, set_id=None, role="", order=-1)
        else:
            to, wanted = _set(doing, to_pk), role_named(role).value
            doing.label = f"Move {row.file.path} to {wanted} of {to.name}"
            if row.set is not None:
                _one_licence(doing, to, [row.set])
            there = to.placements.filter(role=wanted).exclude(pk=row.pk).first()
            if there is not None and row.set_id == there.set_id and row.role != there.role:
                doing.update(there, role=row.role, **BY_HAND)
            choose_place(doing, row, set_id=to.pk, role=wanted, order=_before_all(to))
        drop_empty(doing, [before])


def choose_place(doing: Doing, row: Placement, **values: Any) -> None:
    """Give a map a set, role or order by hand."""
    doing.update(row, **values, **BY_HAND)


def move_to_new(project: Project, pk: int, name: str, role: str, by: Any, seen: int | None = None) -> None:
    """Give a map a role in a set of its own."""
    wanted = role_named(role).value
    with change(project, by, "") as doing:
        row = _map(doing, pk, seen)
        doing.label = f"Move {row.file.path} to a new set"
        fallback = row.file.path.rsplit("/", 1)[-1].rsplit(".", 1)[0]
        made = doing.create(TextureSet, project=project, name=free_name(project, name.strip() or fallback))
        if row.set is not None:
            _one_licence(doing, made, [row.set])
        before = row.set_id
        choose_place(doing, row, set_id=made.pk, role=wanted)
        drop_empty(doing, [before])


def _beside(doing: Doing, row: Placement, one: TextureSet, **values: Any) -> Placement:
    """Another map of a set from a map's file."""
    kept = {"role": row.role, "channel": row.channel, "layer": row.layer, **BY_HAND, **values}
    return doing.create(
        Placement, project=doing.project, intake_id=row.intake_id, file_id=row.file_id, set_id=one.pk, **kept
    )


def share(project: Project, pk: int, to_pk: int, by: Any, seen: int | None = None) -> int:
    """Let another set use a map as well: the same file, channel and steps, in the same role, in use there.

    Returns the new map's id. Raises Conflict when it is in no set yet, or in that one.
    """
    with change(project, by, "") as doing:
        row, one = _placed(doing, pk, seen)
        to = _set(doing, to_pk)
        if to.placements.filter(file=row.file_id, channel=row.channel, role=row.role).exists():
            raise Conflict("{to} uses {path} already", to=to.name, path=row.file.path)
        doing.label = f"Use {row.file.path} in {to.name} as well"
        _one_licence(doing, to, [one])
        why = reason_fields(message_of("why_shared", set=one.name), 400)
        return _beside(doing, row, to, order=_before_all(to), recipe=row.recipe, **why).pk


def add_alpha_map(project: Project, pk: int, role: str, by: Any, seen: int | None = None) -> int:
    """Give the alpha channel of a map's file a role of its own in the same set; returns the new map's id.

    Raises Conflict.
    """
    wanted = role_named(role).value
    with change(project, by, "") as doing:
        row = _map(doing, pk, seen)
        probe = row.file.source.probe if row.file.source else None
        if row.set is None or probe is None or "a" not in probe["channels"]:
            raise Conflict("{path} has no alpha channel", path=row.file.path)
        doing.label = f"Use alpha of {row.file.path} as {wanted}"
        last = (row.set.placements.aggregate(last=Max("order"))["last"] or 0) + 1
        return _beside(doing, row, row.set, role=wanted, channel="a", order=last).pk


def derive_map(
    project: Project, pk: int, role: str, recipe: Sequence[StepDocument], by: Any, seen: int | None = None
) -> int:
    """A new map of the same set in another role, made from a map's file by a recipe; it becomes the one in use.

    Returns its id. Raises BadDocument, Conflict.
    """
    wanted, steps = role_named(role).value, checked_recipe(recipe)
    with change(project, by, "") as doing:
        row, one = _placed(doing, pk, seen)
        doing.label = f"Make {wanted} from {row.file.path}"
        last = (one.placements.aggregate(last=Max("order"))["last"] or 0) + 1
        return _beside(doing, row, one, role=wanted, recipe=steps, order=_before_all(one) if steps else last).pk


def checked_recipe(recipe: Sequence[StepDocument]) -> list[StepDocument]:
    """Steps as they are kept: every option written out. Raises BadDocument."""
    kept = [
        parse_step(step).document() | ({"off": True} if step.get("off") else {})
        for step in ({k: v for k, v in step.items() if k != "label"} for step in recipe)
    ]
    return cast(list[StepDocument], kept)


def set_recipe(
    project: Project, pk: int, recipe: Sequence[StepDocument], label: str, by: Any, seen: int | None = None
) -> None:
    """Replace a map's recipe. Raises BadDocument for a step that does not exist, or recipes that read each other."""
    steps = checked_recipe(recipe)
    with change(project, by, "") as doing:
        row, _ = _placed(doing, pk, seen)
        doing.label = f"{label}: {row.file.path}"
        doing.update(row, recipe=steps)
        linked_ref(row)


def set_layer(project: Project, pk: int, layer: str, by: Any, seen: int | None = None) -> None:
    """Choose another picture of a file that holds several. Raises UnreadableImage when there is none of that name."""
    with change(project, by, "") as doing:
        row = _map(doing, pk, seen)
        if row.file.source is None or not row.file.source.probe:
            raise Conflict("{path} holds no picture", path=row.file.path)
        probe_of(row.file.source).of_layer(layer, row.file.path)
        doing.label = f"Use layer {layer} of {row.file.path}"
        doing.update(row, layer=layer)


def copy_recipe(project: Project, pk: int, sets: Iterable[int], by: Any, seen: int | None = None) -> int:
    """Give the maps in use of the same role in other sets the recipe of this one, as one change. Returns how many."""
    with change(project, by, "") as doing:
        row = _map(doing, pk, seen)
        chosen = project.sets.filter(pk__in=[one for one in sets if one != row.set_id])
        rows = Placement.objects.filter(set__in=chosen, role=row.role).order_by("order", "pk")
        first = {one.set_id: one for one in reversed(rows)}
        if not first:
            raise Conflict("none of the chosen sets has a {role} map", role=row.role.replace("_", " "))
        doing.label = f"Copy the steps of {row.file.path} to {len(first)} sets"
        doing.update_each((one, {"recipe": row.recipe}) for one in first.values())
        return len(first)


def add_steps(
    project: Project, sets: Iterable[int], role: str, recipe: Sequence[StepDocument], by: Any, seen: Seen = _ANY
) -> int:
    """Put steps behind those of the maps in use of a role in several sets, as one change. Returns how many maps.

    Raises BadDocument for a step that does not exist, Conflict when no set has such a map.
    """
    wanted, steps = role_named(role).value, checked_recipe(recipe)
    if not steps:
        raise Conflict("choose a step")
    with change(project, by, "") as doing:
        chosen = _sets(doing, sets, seen)
        rows = Placement.objects.filter(set__in=chosen, role=wanted).order_by("order", "pk")
        first = {one.set_id: one for one in reversed(rows.select_related("file__source", "set", "project"))}
        if not first:
            raise Conflict("none of the chosen sets has a {wanted} map", wanted=wanted.replace("_", " "))
        doing.label = f"{step_label(steps[0])}: {wanted.replace('_', ' ')} of {len(first)} sets"
        doing.update_each((one, {"recipe": [*one.recipe, *steps]}) for one in first.values())
        for one in first.values():
            linked_ref(one)
        return len(first)


def merge(project: Project, into: int, others: Iterable[int], by: Any, seen: Seen = _ANY) -> None:
    """Put the maps of ``others`` into a set; where both have a role, its own stays in use. Waivers go with them."""
    ids = {pk for pk in others if pk != into}
    if not ids:
        raise Conflict("choose at least two sets to merge")
    with change(project, by, "") as doing:
        rows = _sets(doing, {into, *ids}, seen)
        target = next(row for row in rows if row.pk == into)
        gone = [row for row in rows if row.pk != into]
        doing.label = f"Merge {', '.join(one.name for one in gone)} into {target.name}"
        _one_licence(doing, target, gone)
        last = target.placements.aggregate(last=Max("order"))["last"] or 0
        moved = Placement.objects.filter(set__in=ids).order_by("set__name", "order")
        doing.update_each((row, {"set_id": target.pk, "order": at}) for at, row in enumerate(moved, last + 1))
        for one in gone:
            for waiver in one.waivers.all():
                doing.update(waiver, set_id=target.pk)
            doing.delete(one)


def split(project: Project, pk: int, maps: Iterable[int], name: str, by: Any, seen: int | None = None) -> int:
    """Take some maps of a set into a new one; returns its id. Raises Conflict when none or all are chosen."""
    with change(project, by, "") as doing:
        one = _set(doing, pk, seen)
        rows = list(one.placements.filter(pk__in=list(maps)))
        if not rows or len(rows) == one.placements.count():
            raise Conflict("choose some of the set's maps, but not all")
        doing.label = f"Split {len(rows)} maps off {one.name}"
        free = free_name(project, name.strip() or f"{one.name}_2")
        made = doing.create(TextureSet, project=project, name=free, licence=one.licence, credit=one.credit)
        for row in rows:
            doing.update(row, set_id=made.pk)
        return made.pk
