"""The studio's masters: drafts, immutable versions, what projects adopt of them, and what an update would do."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable, Iterator, Mapping
from contextlib import AbstractContextManager, contextmanager
from datetime import datetime, timedelta
from typing import Any, NamedTuple, TypeVar

from django.db import transaction
from django.db.models import F, QuerySet
from django.http import Http404
from django.utils import timezone

from studio.changes.engine import Doing, change, must_be_as_seen
from studio.changes.errors import Conflict, Stale
from studio.changes.recorded import acting, record
from studio.materials.models import Adoption, Cast, LibraryEntry, LibraryVersion, Master, MasterVersion
from studio.projects.models import HistoryLine, Project
from texel.materials import Cost, checked_changes, cost_of, deciding, parse_master, remarks_on, stacked, values_of
from texel.materials import Master as Sheet
from texel.materials.filling import parse_binding
from texel.materials.versions import Carried, carried, changes_between, next_number

__all__ = [
    "adopt",
    "adoptions_of",
    "carry_casts",
    "cost_of_version",
    "create_master",
    "deprecate",
    "deprecation_words",
    "free_master_name",
    "held",
    "held_master",
    "impact_of",
    "keep_draft",
    "latest",
    "latest_of",
    "numbered",
    "pin",
    "publish",
    "sheet_of",
    "tell_history",
    "version_of",
    "write_entry",
]  # fmt: skip


E = TypeVar("E", bound=LibraryEntry)
V = TypeVar("V", bound=LibraryVersion)
# By number and hour of birth: numbers alone come again where a process meets several databases.
_parsed: OrderedDict[tuple[int, datetime], Sheet] = OrderedDict()
_lock = threading.Lock()
_costs: OrderedDict[int, tuple[Sheet, Cost, tuple[str, ...]]] = OrderedDict()
_MAX_PARSED = 500
# A draft is kept with every few strokes of a key.
_AT_ONCE = timedelta(minutes=10)
_LARGE = ("document", "changes")


def sheet_of(version: MasterVersion) -> Sheet:
    """A version's sheet; versions never change, so it is parsed once in a process, and its document, which may have
    been left out of the query, is asked for only then."""
    key = (version.pk, version.created)
    with _lock:
        sheet = _parsed.get(key)
        if sheet is None:
            sheet = parse_master(version.document, version.master.title)
        _parsed[key] = sheet
        _parsed.move_to_end(key)
        while len(_parsed) > _MAX_PARSED:
            _parsed.popitem(last=False)
        return sheet


def cost_of_version(version: MasterVersion) -> tuple[Cost, tuple[str, ...]]:
    """The cost of a version's sheet, and what decides its variants; counted once in a process."""
    sheet = sheet_of(version)
    with _lock:
        cost = _costs.get(version.pk)
        if cost is None or cost[0] is not sheet:
            _costs[version.pk] = cost = (sheet, cost_of(sheet), deciding(sheet))
        while len(_costs) > _MAX_PARSED:
            _costs.popitem(last=False)
    return cost[1], cost[2]


def adoptions_of(project: Project) -> list[Adoption]:
    """The masters that a project uses, in the order of their titles, with the versions that it took; their documents
    are loaded where sheet_of does not know them yet."""
    rows = project.adoptions.select_related("master", "version__master").order_by("master__title", "pk")
    adoptions = list(rows.defer(*(f"version__{name}" for name in _LARGE), "master__draft", "version__master__draft"))
    unknown = [one.version_id for one in adoptions if (one.version_id, one.version.created) not in _parsed]
    documents = dict(MasterVersion.objects.filter(pk__in=unknown).values_list("pk", "document"))
    for one in adoptions:
        if one.version_id in documents:
            one.version.document = documents[one.version_id]
    return adoptions


def latest_of(masters: Iterable[int]) -> dict[int, MasterVersion]:
    """The newest versions that are not deprecated, by master's id; their documents are not loaded."""
    rows = MasterVersion.objects.filter(master__in=list(masters), deprecated=False)
    return {one.master_id: one for one in rows.defer(*_LARGE)}


def latest(master: Master) -> MasterVersion | None:
    """The newest version that is not deprecated."""
    return master.versions.filter(deprecated=False).last()


def version_of(master: Master, number: str) -> MasterVersion:
    """Raises Conflict when there is none of that number."""
    return numbered(master.title, master.versions.all(), number)


def numbered(title: str, versions: QuerySet[V], number: str) -> V:
    """The version of a number. title: of what it is a version. Raises Conflict when there is none."""
    parts = number.split(".")
    if len(parts) == 3 and all(part.isascii() and part.isdigit() and len(part) < 9 for part in parts):
        version = versions.filter(major=parts[0], minor=parts[1], patch=parts[2]).first()
        if version is not None:
            return version
    raise Conflict("{title} has no version {number}", title=title, number=number)


def create_master(document: Any, by: Any) -> Master:
    """A master with a draft, kept by whoever makes it. Raises BadDocument, and Conflict when its name is taken."""
    sheet = parse_master(document, "the master")
    if Master.objects.filter(name=sheet.name).exists():
        raise Conflict("there is a master {sheet} already", sheet=sheet.name)
    with transaction.atomic():
        made = Master.objects.create(name=sheet.name, title=sheet.title, draft=document, by=by)
        if by is not None:
            made.keepers.add(by)
    return made


def free_master_name(wanted: str, others: Iterable[str] = ()) -> str:
    """The name, with a number behind it where the library has it, or where it is among ``others``."""
    taken = {*others, *Master.objects.filter(name__startswith=wanted[:58]).values_list("name", flat=True)}
    name, count = wanted, 1
    while name in taken:
        count += 1
        name = f"{wanted[:58]}-{count}"
    return name


def keep_draft(name: str, document: Any, seen: int | None = None) -> Master:
    """Raises BadDocument; Stale when somebody has kept another draft since; a name cannot be changed."""
    sheet = parse_master(document, "the draft")
    with held_master(name, seen) as master:
        if sheet.name != master.name:
            raise Conflict("this master is called {master}, not {sheet}", master=master.name, sheet=sheet.name)
        if document != master.draft:
            write_entry(master, f"Write the draft of {master.title}", draft=document, title=sheet.title)
        return master


def held_master(name: str, seen: int | None = None) -> AbstractContextManager[Master]:
    """A master that nobody else changes meanwhile. Raises Http404, Stale."""
    return held(Master, name, seen)


@contextmanager
def held(kind: type[E], name: str, seen: int | None = None) -> Iterator[E]:
    """Something of the library that nobody else changes meanwhile. Raises Http404, Stale."""
    with transaction.atomic():
        entry = kind._default_manager.select_for_update(no_key=True).filter(name=name).first()
        if entry is None:
            raise Http404(f"There is no such {kind._meta.verbose_name}.")
        if seen is not None and entry.revision != seen:
            raise Stale(entry, "{title} was changed meanwhile. Look at it again.", title=entry.title)
        yield entry


def write_entry(entry: LibraryEntry, done: str, **values: Any) -> None:
    """Write something that is held; its revision counts on. done: what the library's history says of it, "" where a
    row that is made says it."""
    rows = type(entry)._default_manager.filter(pk=entry.pk)
    rows.update(**values, edited=timezone.now(), revision=F("revision") + 1)
    if done:
        tell_history(entry, done)


def tell_history(entry: LibraryEntry, done: str) -> None:
    """A line in the library's history; one for all that a person writes on a draft within some minutes."""
    by, about = acting.get(), [f"{type(entry)._meta.model_name}s:{entry.name}"]
    person = by if getattr(by, "pk", None) else None
    last = HistoryLine.objects.filter(project=None, about__contains=about).first()
    if last is None or (last.label, last.by_id) != (done, person and person.pk) or last.at < timezone.now() - _AT_ONCE:
        record(None, by, done, about)


def publish(name: str, note: str, by: Any, seen: int | None = None) -> MasterVersion:
    """Make a version of the draft, numbered by what it breaks. Raises Conflict without a draft, with errors in it, or
    when nothing differs; Stale when the draft is not what was seen any more."""
    with held_master(name, seen) as master:
        if master.draft is None:
            raise Conflict("there is no draft to publish")
        sheet = parse_master(master.draft, "the draft")
        wrong = [remark.message for remark in remarks_on(sheet) if remark.severity.value == "error"]
        if wrong:
            raise Conflict("the sheet has errors: {listed}", listed=" ".join(wrong))
        last = master.versions.last()
        number, changes = (1, 0, 0), []
        if last is not None:
            changes = changes_between(sheet_of(last), sheet)
            if not changes:
                raise Conflict("nothing differs from version {number}", number=last.number)
            number = next_number((last.major, last.minor, last.patch), changes)
        made = MasterVersion.objects.create(
            master=master, major=number[0], minor=number[1], patch=number[2], document=master.draft,
            changes=[one.document() for one in changes], note=" ".join(note.split())[:500], by=by,
        )  # fmt: skip
        write_entry(master, "", draft=None, title=sheet.title)
        return made


def deprecate(name: str, number: str, deprecated: bool) -> None:
    """Say that a version should not be adopted any more; who has it keeps it."""
    with held_master(name) as master:
        MasterVersion.objects.filter(pk=version_of(master, number).pk).update(deprecated=deprecated)
        write_entry(master, deprecation_words(master.title, number, deprecated))


def deprecation_words(title: str, number: str, deprecated: bool) -> str:
    return f"{'Deprecate' if deprecated else 'Take back the deprecation of'} {title} {number}"


def pin(project: Project, name: str, pinned: bool, by: Any, seen: int | None = None) -> None:
    """Stay with the version in use, or not; can be undone. seen: the revision of the adoption that was looked at.

    Raises Http404 where the project uses no such master, Stale.
    """
    with change(project, by, "") as doing:
        adoption = project.adoptions.select_related("master", "version").filter(master__name=name).first()
        if adoption is None:
            raise Http404("The project does not use such a master.")
        must_be_as_seen(adoption, seen)
        doing.label = f"{'Stay with' if pinned else 'Follow newer versions of'} {adoption.master.title}"
        doing.update(adoption, pinned=pinned)


def _carried_over(cast: Cast, sheet: Sheet, renames: dict[str, str]) -> tuple[Carried, Carried]:
    """A cast's changes and slots under another version."""
    changes = carried(cast.changes, lambda name, value: checked_changes(sheet, {name: value}), renames)
    slots = carried(
        cast.slots, lambda name, value: parse_binding(sheet, name, {**value, "set": str(value.get("set", ""))}), renames
    )
    return changes, slots


class Effect(NamedTuple):
    """What a version would do to a cast. kept: how many of its entries; lost: entries by name, with the reason.

    values: of every parameter of the version, as the cast would then have them with all that it inherits; fills: what
    would fill its slots, as kept with casts.
    """

    cast: int
    name: str
    kept: int
    lost: Mapping[str, str]
    values: Mapping[str, tuple[float, ...]]
    fills: Mapping[str, Any]


def impact_of(project: Project, version: MasterVersion, renames: dict[str, str]) -> list[Effect]:
    """What taking this version would do to each cast of the project: what is kept, what is lost and why, and what the
    cast would then be. The update itself carries over by the same function."""
    sheet = sheet_of(version)
    rows = {cast.pk: cast for cast in project.casts.filter(master=version.master)}
    over = {pk: _carried_over(cast, sheet, renames) for pk, cast in rows.items()}

    def line(pk: int) -> list[int]:
        """The cast behind its ancestors."""
        effects = [pk]
        while (parent := rows[effects[0]].parent_id) in rows and len(effects) <= len(rows):
            effects.insert(0, parent)
        return effects

    effects = []
    for pk, cast in rows.items():
        changes, slots = over[pk]
        values = values_of(sheet, checked_changes(sheet, stacked(over[one][0].kept for one in line(pk))))
        fills = stacked(over[one][1].kept for one in line(pk))
        kept = len(changes.kept) + len(slots.kept)
        effects.append(Effect(pk, cast.name, kept, changes.lost | slots.lost, values, fills))
    return effects


def adopt(
    project: Project, version: MasterVersion, by: Any, renames: dict[str, str] | None = None, seen: int | None = None
) -> Adoption:
    """Use a version in a project; casts are carried over, and what it does not take any more is dropped. Can be undone.

    seen: the revision of the adoption that is replaced. Raises Conflict for a deprecated version that the project does
    not use yet.
    """
    with change(project, by, "") as doing:
        before = project.adoptions.filter(master=version.master_id).select_related("version", "master").first()
        if version.deprecated and (before is None or before.version_id != version.pk):
            raise Conflict("version {number} is deprecated", number=version.number)
        doing.label = f"{'Update' if before else 'Adopt'} {version.master.title} {version.number}"
        if before is None:
            before = doing.create(Adoption, project=project, master=version.master, version=version)
        else:
            must_be_as_seen(before, seen)
            doing.update(before, version_id=version.pk)
        carry_casts(doing, version, renames or {})
    return before


def carry_casts(doing: Doing, version: MasterVersion, renames: dict[str, str]) -> None:
    """Make a project's casts of a master fit another version; what that does not take any more is dropped."""
    sheet = sheet_of(version)
    for cast in doing.project.casts.filter(master=version.master_id):
        changes, slots = _carried_over(cast, sheet, renames)
        doing.update(cast, changes=changes.kept, slots=slots.kept)
