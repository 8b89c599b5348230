"""The studio's masters: drafts, immutable versions, what projects adopt of them, and what an update would do."""

from __future__ import annotations

import copy
import threading
from collections import OrderedDict
from collections.abc import Iterable
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from studio.materials.history import material_change
from studio.materials.models import Adoption, Cast, Master, MasterVersion
from studio.projects.models import Membership, Project
from studio.sets.editing import Conflict
from texel.materials import (
    Cost,
    checked_changes,
    cost_of,
    deciding,
    document_value,
    parse_master,
    remarks_on,
    stacked_sheets,
)
from texel.materials import Master as Sheet
from texel.materials.filling import parse_feed
from texel.materials.versions import Carried, carried, changes_between, next_number

__all__ = [
    "adopt", "adoptions_of", "cost_of_version", "create_master", "deprecate", "free_master_name", "impact_of",
    "keep_draft", "latest", "latest_of", "may_write_masters", "pin", "publish", "sheet_of", "stack_casts", "version_of",
]  # fmt: skip


# Short names for the layers of a stack, the lowest first; titles tell what they are.
_LAYERS = ("ground", "second", "third", "fourth", "fifth")


def may_write_masters(user) -> bool:
    """Whoever may set the rules of a project may work on the library that all projects share."""
    return Membership.objects.filter(user=user, right=Membership.Right.RULES).exists()


# By number and hour of birth: numbers alone come again where a process meets several databases.
_parsed: OrderedDict[tuple[int, datetime], Sheet] = OrderedDict()
_lock = threading.Lock()
_costs: OrderedDict[int, tuple[Sheet, Cost, tuple[str, ...]]] = OrderedDict()
_MOST_PARSED = 500
_LARGE = ("document", "changes")


def sheet_of(version: MasterVersion) -> Sheet:
    """A version's sheet; versions never change, so it is parsed once in a process, and its document, which may have
    been left out of the query, is asked for only then."""
    key = (version.pk, version.created)
    with _lock:
        found = _parsed.get(key)
        if found is None:
            found = parse_master(version.document, version.master.title)
        _parsed[key] = found
        _parsed.move_to_end(key)
        while len(_parsed) > _MOST_PARSED:
            _parsed.popitem(last=False)
        return found


def cost_of_version(version: MasterVersion) -> tuple[Cost, tuple[str, ...]]:
    """The cost of a version's sheet, and what decides its variants; counted once in a process."""
    sheet = sheet_of(version)
    with _lock:
        found = _costs.get(version.pk)
        if found is None or found[0] is not sheet:
            _costs[version.pk] = found = (sheet, cost_of(sheet), deciding(sheet))
        while len(_costs) > _MOST_PARSED:
            _costs.popitem(last=False)
    return found[1], found[2]


def adoptions_of(project: Project) -> list[Adoption]:
    """The masters that a project uses, in the order of their titles, with the versions that it took; their documents
    are loaded where sheet_of does not know them yet."""
    rows = project.adoptions.select_related("master", "version__master").order_by("master__title", "pk")
    found = list(rows.defer(*(f"version__{name}" for name in _LARGE), "master__draft", "version__master__draft"))
    unknown = [one.version_id for one in found if (one.version_id, one.version.created) not in _parsed]
    documents = dict(MasterVersion.objects.filter(pk__in=unknown).values_list("pk", "document"))
    for one in found:
        if one.version_id in documents:
            one.version.document = documents[one.version_id]
    return found


def latest_of(masters: Iterable[int]) -> dict[int, MasterVersion]:
    """The newest versions that are not deprecated, by master's id; their documents are not loaded."""
    rows = MasterVersion.objects.filter(master__in=list(masters), deprecated=False)
    return {one.master_id: one for one in rows.defer(*_LARGE)}


def latest(master: Master) -> MasterVersion | None:
    """The newest version that is not deprecated."""
    return master.versions.filter(deprecated=False).last()


def version_of(master: Master, number: str) -> MasterVersion:
    """Raises Conflict when there is none of that number."""
    parts = number.split(".")
    if len(parts) == 3 and all(part.isascii() and part.isdigit() and len(part) < 9 for part in parts):
        found = master.versions.filter(major=parts[0], minor=parts[1], patch=parts[2]).first()
        if found is not None:
            return found
    raise Conflict(f"{master.title} has no version {number}")


def create_master(document: Any, by) -> Master:
    """A master with a draft. Raises BadDocument, and Conflict when its name is taken."""
    sheet = parse_master(document, "the master")
    if Master.objects.filter(name=sheet.name).exists():
        raise Conflict(f"there is a master {sheet.name} already")
    return Master.objects.create(name=sheet.name, title=sheet.title, draft=document, by=by)


def free_master_name(wanted: str, others: Iterable[str] = ()) -> str:
    """The name, with a number behind it where the library has it, or where it is among ``others``."""
    taken = {*others, *Master.objects.filter(name__startswith=wanted[:58]).values_list("name", flat=True)}
    name, count = wanted, 1
    while name in taken:
        count += 1
        name = f"{wanted[:58]}-{count}"
    return name


def stack_casts(title: str, rows: list[Cast], by) -> Master:
    """A draft of a layered master whose layers are casts as they are: their masters' sheets, their values as defaults.

    Raises Conflict for fewer than two or more than five, BadDocument when one has layers of its own.
    """
    from studio.materials.casts import resolved

    if not 2 <= len(rows) <= 5:
        raise Conflict("two to five casts make a stack")
    sheets = []
    for number, cast in enumerate(rows):
        told = resolved(cast)
        document = copy.deepcopy(told.sheet.document)
        for parameter in document.get("parameters", []):
            parameter["default"] = document_value(told.sheet, parameter["name"], told.values[parameter["name"]])
        sheets.append((_LAYERS[number], cast.name, document))
    name = slugify(title)[:64] or "stack"
    return create_master(stacked_sheets(name, title, sheets), by)


def keep_draft(master: Master, document: Any) -> None:
    """Raises BadDocument; a name cannot be changed."""
    sheet = parse_master(document, "the draft")
    if sheet.name != master.name:
        raise Conflict(f"this master is called {master.name}, not {sheet.name}")
    Master.objects.filter(pk=master.pk).update(draft=document, title=sheet.title)


def publish(master: Master, note: str, by) -> MasterVersion:
    """Make a version of the draft, numbered by what it breaks. Raises Conflict without a draft, with errors in it, or
    when nothing differs."""
    with transaction.atomic():
        master = Master.objects.select_for_update().get(pk=master.pk)
        if master.draft is None:
            raise Conflict("there is no draft to publish")
        sheet = parse_master(master.draft, "the draft")
        wrong = [remark.message for remark in remarks_on(sheet) if remark.severity.value == "error"]
        if wrong:
            raise Conflict(f"the sheet has errors: {' '.join(wrong)}")
        last = master.versions.last()
        number, changes = (1, 0, 0), []
        if last is not None:
            changes = changes_between(sheet_of(last), sheet)
            if not changes:
                raise Conflict(f"nothing differs from version {last.number}")
            number = next_number((last.major, last.minor, last.patch), changes)
        made = MasterVersion.objects.create(
            master=master, major=number[0], minor=number[1], patch=number[2], document=master.draft,
            changes=[one.document() for one in changes], note=" ".join(note.split())[:500], by=by,
        )  # fmt: skip
        Master.objects.filter(pk=master.pk).update(draft=None, title=sheet.title)
        return made


def deprecate(version: MasterVersion, deprecated: bool) -> None:
    """Say that a version should not be adopted any more; who has it keeps it."""
    MasterVersion.objects.filter(pk=version.pk).update(deprecated=deprecated)


def pin(adoption: Adoption, pinned: bool) -> None:
    Adoption.objects.filter(pk=adoption.pk).update(pinned=pinned)


def _carried_over(cast: Cast, sheet: Sheet, renames: dict[str, str]) -> tuple[Carried, Carried]:
    """A cast's changes and slots under another version."""
    changes = carried(cast.changes, lambda name, value: checked_changes(sheet, {name: value}), renames)
    slots = carried(
        cast.slots, lambda name, value: parse_feed(sheet, name, {**value, "set": str(value.get("set", ""))}), renames
    )
    return changes, slots


def impact_of(project: Project, version: MasterVersion, renames: dict[str, str]) -> list[dict[str, Any]]:
    """What taking this version would do to each cast of the project: what is kept, what is lost and why."""
    sheet = sheet_of(version)
    found = []
    for cast in project.casts.filter(master=version.master):
        changes, slots = _carried_over(cast, sheet, renames)
        found.append(
            {
                "cast": cast.pk, "name": cast.name, "kept": len(changes.kept) + len(slots.kept),
                "lost": changes.lost | slots.lost,
            }
        )  # fmt: skip
    return found


def adopt(project: Project, version: MasterVersion, by, renames: dict[str, str] | None = None) -> Adoption:
    """Use a version in a project; casts are carried over, and what it does not take any more is dropped. Can be undone.

    Raises Conflict for a deprecated version that the project does not use yet.
    """
    before = Adoption.objects.filter(project=project, master=version.master).select_related("version").first()
    if version.deprecated and (before is None or before.version_id != version.pk):
        raise Conflict(f"version {version.number} is deprecated")
    casts = list(project.casts.filter(master=version.master))
    label = f"{'Update' if before else 'Adopt'} {version.master.title} {version.number}"
    with material_change(project, by, label, [cast.pk for cast in casts], [version.master_id]):
        made, _ = Adoption.objects.update_or_create(
            project=project, master=version.master, defaults={"version": version}
        )
        sheet = sheet_of(version)
        for cast in casts:
            changes, slots = _carried_over(cast, sheet, renames or {})
            cast.changes, cast.slots = changes.kept, slots.kept
            cast.save(update_fields=["changes", "slots"])
    return made
