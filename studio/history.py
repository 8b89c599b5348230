"""The history of a project: what is recorded beside changes, and how it is asked for."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import QuerySet

from studio.changes.kinds import Kind, Values, kinds
from studio.changes.recorded import record_rows
from studio.deliveries.models import Delivery, Destination, Transfer
from studio.intake.models import Intake
from studio.materials.models import Function, FunctionVersion, Master, MasterVersion
from studio.people.models import LogEntry
from studio.projects.models import Change, HistoryLine, Project
from studio.scans.models import Scan
from studio.watched.models import WatchedFolder

__all__ = ["Difference", "Wanted", "called", "differences", "history_of", "people_in"]

# What of the security log concerns everybody in a project.
_PUBLIC = {"right_changed", "member_removed", "joined", "handed_over"}
_PAGE = 50
_MOST_FIELDS = 200


def _of_log(row: LogEntry) -> str:
    words = f"{LogEntry.EVENTS.get(row.event, row.event)}: {row.about}"
    return words[:1].upper() + words[1:] if row.project_id and row.event in _PUBLIC else ""


record_rows(
    Delivery, lambda row: f"Deliver {len(row.set_ids)} sets to {row.target.get('name', '')}, number {row.number}",
    about=lambda row: [f"delivery:{row.number}", *(f"sets:{pk}" for pk in row.set_ids)],
)  # fmt: skip
record_rows(
    Transfer, lambda row: f"Bring delivery {row.delivery.number} to {row.destination.name}",
    project=lambda row: row.delivery.project,
    about=lambda row: [f"destination:{row.destination_id}", f"delivery:{row.delivery.number}"],
)  # fmt: skip
record_rows(
    Destination, lambda row: f"Add the destination {row.name}", lambda row: f"Remove the destination {row.name}"
)  # fmt: skip
record_rows(
    WatchedFolder, lambda row: f"Watch the folder {row.name}", lambda row: f"Watch the folder {row.name} no more"
)  # fmt: skip
record_rows(
    Intake, lambda row: f"Take in {row.name}", lambda row: f"Remove the intake {row.name}",
    about=lambda row: [f"intakes:{row.pk}"],
)  # fmt: skip
record_rows(Scan, lambda row: f"Fetch {row.surface} from {row.library}")
record_rows(LogEntry, _of_log, about=lambda row: ["members:all"], by=lambda row: row.person)
for _model, _kind in ((Master, "masters"), (Function, "functions")):
    record_rows(
        _model, lambda row: f"Add {row.title} to the library", project=lambda row: None,
        about=lambda row, kind=_kind: [f"{kind}:{row.name}"],  # type: ignore[misc]
    )  # fmt: skip
record_rows(
    MasterVersion, lambda row: f"Publish {row.master.title} {row.number}: {row.note}", project=lambda row: None,
    about=lambda row: [f"masters:{row.master.name}"],
)  # fmt: skip
record_rows(
    FunctionVersion, lambda row: f"Publish {row.function.title} {row.number}: {row.note}", project=lambda row: None,
    about=lambda row: [f"functions:{row.function.name}"],
)  # fmt: skip


@dataclass(frozen=True)
class Wanted:
    """What of a history is asked for. about: "kind:key" of an object; kind: of objects; before: lines older
    than one."""

    person: str = ""
    about: str = ""
    kind: str = ""
    text: str = ""
    since: datetime | None = None
    until: datetime | None = None
    before: int | None = None


def history_of(project: Project | None, wanted: Wanted) -> tuple[list[HistoryLine], bool]:
    """A page of lines, the newest first, and whether there are older ones. project: None for the library."""
    rows: QuerySet[HistoryLine] = HistoryLine.objects.filter(project=project).select_related("by", "change")
    if wanted.person:
        rows = rows.filter(by__username=wanted.person)
    if wanted.about:
        rows = rows.filter(about__contains=[wanted.about])
    if wanted.kind:
        rows = rows.extra(  # a value, not a piece of the statement
            where=["EXISTS (SELECT 1 FROM unnest(about) one WHERE one LIKE %s)"], params=[f"{_plain(wanted.kind)}:%"]
        )
    if wanted.text:
        rows = rows.filter(label__icontains=wanted.text)
    if wanted.since:
        rows = rows.filter(at__gte=wanted.since)
    if wanted.until:
        rows = rows.filter(at__lt=wanted.until)
    if wanted.before:
        rows = rows.filter(pk__lt=wanted.before)
    found = list(rows.defer("change__before", "change__after")[: _PAGE + 1])
    return found[:_PAGE], len(found) > _PAGE


def _plain(text: str) -> str:
    """A text in which no sign of a pattern is left."""
    return "".join(char for char in text if char.isalnum())


def called(project: Project | None, names: Iterable[str]) -> dict[str, str]:
    """What objects are called now, by "kind:key"; those that are gone are left out."""
    wanted: dict[str, list[str]] = defaultdict(list)
    for name in names:
        kind, _, key = name.partition(":")
        wanted[kind].append(key)
    found: dict[str, str] = {}
    for model, kind in ((Master, "masters"), (Function, "functions")):
        titles = model._default_manager.filter(name__in=wanted.get(kind, ())).values_list("name", "title")
        found |= {f"{kind}:{name}": title for name, title in titles} if kind in wanted else {}
    for one in kinds() if project is not None else ():
        keys = [key for key in wanted.get(one.name, ()) if key.isdigit()]
        if keys and project is not None:
            found |= {f"{one.name}:{key}": one.called(row) for key, row in one.find(project, keys).items()}
    return found


@dataclass(frozen=True)
class Difference:
    """One field of one row that a change touched. field: in words, "" where the row itself came or went. map:
    id of the map whose steps it was, for pictures of before and after."""

    kind: str
    key: str
    called: str
    field: str
    before: object
    after: object
    map: int | None = None


def differences(project: Project, change: Change) -> list[Difference]:
    """What a change did, field by field, as many as fit a page."""
    found: list[Difference] = []
    for kind in kinds():
        before: Mapping[str, Values] = change.before.get(kind.name, {})
        after: Mapping[str, Values] = change.after.get(kind.name, {})
        keys = [*dict.fromkeys([*before, *after])]
        rows = kind.find(project, [key for key in keys[:_MOST_FIELDS] if key.isdigit()])
        for key in keys:
            for one in _fields(kind, key, rows.get(key), before.get(key), after.get(key)):
                if len(found) == _MOST_FIELDS:
                    return found
                found.append(one)
    return found


def _fields(kind: Kind, key: str, row: Any, was: Values | None, now: Values | None) -> Iterable[Difference]:
    named = (
        kind.called(row)
        if row is not None
        else str((now or was or {}).get(kind.name_field, "")) or f"{kind.name} {key}"
    )
    if was is None or now is None:
        yield Difference(kind.name, key, named, "", None if was is None else "was there", "is there" if now else None)
        return
    for name in now.keys() | was.keys():
        if was.get(name) != now.get(name):
            map_id = int(key) if kind.name == "placements" and name == "recipe" and row is not None else None
            words = kind.words.get(name, name.removesuffix("_id").replace("_", " "))
            yield Difference(kind.name, key, named, words, was.get(name), now.get(name), map_id)


def people_in(project: Project | None) -> list[str]:
    """Everybody whose lines there are, by name. project: None for the library."""
    rows = HistoryLine.objects.filter(project=project, by__isnull=False)
    # In the order of names: by the lines' own, each line would be told apart.
    return list(rows.order_by("by__username").values_list("by__username", flat=True).distinct())
