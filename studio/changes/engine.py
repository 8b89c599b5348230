"""Every change to a project goes through ``change``: it holds the project, reads again, writes only what it means to,
raises revisions, and keeps what was before and what is after, so that it can be taken back.

    with change(project, by, "Rename deck to pier") as doing:
        one = doing.row(TextureSet, pk, seen)
        doing.update(one, name="pier")
"""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar

from django.db import connection, transaction
from django.db.models import F, Model, Q, QuerySet
from django.http import Http404

from studio.changes.errors import Stale
from studio.changes.kinds import Kind, Touched, Values, about_of, hooks, kind_of, plain
from studio.projects.models import Change, HistoryLine, Project

__all__ = [
    "Doing", "change", "last_change_of", "last_redo", "last_undo", "must_be_as_seen", "names_may_trade_places",
    "telling",
]  # fmt: skip

Row = TypeVar("Row", bound=Model)
# Rows that one statement writes: enough to be quick, few enough to tell how far it is.
_TOGETHER = 500
_told: ContextVar[Callable[[int], None] | None] = ContextVar("told", default=None)


@contextmanager
def telling(told: Callable[[int], None]) -> Iterator[None]:
    """Inside, every change calls ``told`` with how many more rows it has written."""
    token = _told.set(told)
    try:
        yield
    finally:
        _told.reset(token)


class Doing:
    """A change while it is made. label may be set until it is done."""

    def __init__(self, project: Project, by: Any, label: str):
        self.project, self.by, self.label = project, by, label
        # By kind and key: values before and after; None where there was or is no row.
        self._touched: dict[str, dict[str, list[Values | None]]] = {}

    @property
    def touched(self) -> Touched:
        """What has really changed, by kind."""
        return {
            kind: real
            for kind, rows in self._touched.items()
            if (real := {key: (was, now) for key, (was, now) in rows.items() if was != now})
        }

    def row(self, model: type[Row], pk: int, seen: int | None = None, related: Collection[str] = ()) -> Row:
        """A row of the project as it is now. seen: the revision that the change was meant for.

        Raises Http404 when there is none, Stale when it has changed since.
        """
        rows: QuerySet[Any] = kind_of(model).rows(self.project).filter(pk=pk)
        one = rows.select_related(*related).first() if related else rows.first()
        if one is None:
            raise Http404(f"There is no such {model._meta.verbose_name} any more.")
        must_be_as_seen(one, seen)
        made: Row = one
        return made

    def update(self, row: Model, **values: Any) -> None:
        """Write some fields of a row, and nothing else of it; the row at hand follows."""
        changed = {name: value for name, value in values.items() if getattr(row, name) != value}
        if changed:
            self._write([row], changed)

    def update_each(self, some: Iterable[tuple[Model, Mapping[str, Any]]]) -> None:
        """Write some fields of rows, each once: hundreds of rows in one statement, whether they get the same values or
        each its own."""
        groups: dict[tuple[type[Model], str], tuple[Mapping[str, Any], list[Model]]] = {}
        for row, values in some:
            changed = {name: value for name, value in values.items() if getattr(row, name) != value}
            if changed:
                said = json.dumps(changed, sort_keys=True, default=repr)
                groups.setdefault((type(row), said), (changed, []))[1].append(row)
        own: dict[tuple[type[Model], tuple[str, ...]], list[tuple[Model, Mapping[str, Any]]]] = {}
        for (model, _), (alike, rows) in groups.items():
            # None in a column of JSON has two meanings, of which only the plain statement chooses the right one.
            if len(rows) == 1 and None not in alike.values():
                own.setdefault((model, tuple(sorted(alike))), []).append((rows[0], alike))
            else:
                for few in _by_hundreds(rows):
                    self._write(few, alike)
        for each in own.values():
            for some_each in _by_hundreds(each):
                self._write_each(some_each)

    def _write(self, rows: Sequence[Model], changed: Mapping[str, Any]) -> None:
        """Give rows of one model the same values, in one statement; the rows at hand follow."""
        kind, kept, counted = _kept(rows, changed)
        kind.model._default_manager.filter(pk__in=[row.pk for row in rows]).update(**changed, **counted)
        self._follow(kind, kept, [(row, changed) for row in rows])

    def _write_each(self, each: Sequence[tuple[Model, Mapping[str, Any]]]) -> None:
        """Give rows of one model values of their own for the same fields, in one statement; the rows at hand follow."""
        rows, names = [row for row, _ in each], list(each[0][1])
        if len(rows) == 1:
            return self._write(rows, each[0][1])
        kind, kept, counted = _kept(rows, names)
        self._follow(kind, kept, each)
        kind.model._default_manager.bulk_update(rows, names)
        if counted:
            kind.model._default_manager.filter(pk__in=[row.pk for row in rows]).update(**counted)

    def _follow(self, kind: Kind, kept: Sequence[str], each: Sequence[tuple[Model, Mapping[str, Any]]]) -> None:
        for row, changed in each:
            was = {name: plain(getattr(row, name)) for name in kept}
            for name, value in changed.items():
                setattr(row, name, value)
            if kept:
                self._note(kind, kind.key_of(row), was, {name: plain(changed[name]) for name in kept})
        if (told := _told.get()) is not None:
            told(len(each))

    def create(self, model: type[Row], **values: Any) -> Row:
        return self.create_many([model(**values)])[0]

    def create_many(self, rows: Iterable[Row]) -> list[Row]:
        """Insert rows of one model."""
        made = list(rows)
        if made:
            type(made[0])._default_manager.bulk_create(made)
            kind = kind_of(type(made[0]))
            for row in made:
                self._note(kind, kind.key_of(row), None, kind.values_of(row))
        return made

    def delete(self, row: Model) -> None:
        kind = kind_of(type(row))
        self._note(kind, kind.key_of(row), kind.values_of(row), None)
        row.delete()

    def delete_many(self, rows: Sequence[Model]) -> None:
        """Delete rows of one model in a few statements."""
        if rows:
            kind = kind_of(type(rows[0]))
            for row in rows:
                self._note(kind, kind.key_of(row), kind.values_of(row), None)
            type(rows[0])._default_manager.filter(pk__in=[row.pk for row in rows]).delete()

    def noted(self, kind: Kind, key: str, was: Values | None, now: Values | None) -> None:
        """Take note of what was written otherwise."""
        self._note(kind, key, was, now)

    def _note(self, kind: Kind, key: str, was: Values | None, now: Values | None) -> None:
        rows = self._touched.setdefault(kind.name, {})
        known = rows.get(key)
        if known is None:
            rows[key] = [was, now]
        elif now is None:
            # Values of fields that changed before are what they were at first.
            rows[key] = [None if known[0] is None else {**(was or {}), **known[0]}, None]
        elif known[1] is None:
            rows[key] = [known[0], now]
        else:
            before = None if known[0] is None else {**(was or {}), **known[0]}
            rows[key] = [before, {**known[1], **now}]

    def documents(self) -> tuple[dict[str, dict[str, Values]], dict[str, dict[str, Values]]]:
        """Before and after, as histories keep them."""
        before: dict[str, dict[str, Values]] = {}
        after: dict[str, dict[str, Values]] = {}
        for kind, rows in self.touched.items():
            for key, (was, now) in rows.items():
                if was is not None:
                    before.setdefault(kind, {})[key] = was
                if now is not None:
                    after.setdefault(kind, {})[key] = now
        return before, after


def _kept(rows: Sequence[Model], names: Iterable[str]) -> tuple[Kind, list[str], dict[str, Any]]:
    """The kind of rows, which of the fields histories keep, and what counts the change."""
    kind = kind_of(type(rows[0]))
    kept = [name for name in names if name in kind.fields]
    return kind, kept, {"revision": F("revision") + 1} if kind.revised and kept else {}


def _by_hundreds(rows: Sequence[Any]) -> Iterator[Sequence[Any]]:
    return (rows[at : at + _TOGETHER] for at in range(0, len(rows), _TOGETHER))


def must_be_as_seen(row: Any, seen: int | None) -> None:
    """Raises Stale when a row is not at the revision that was seen any more."""
    if seen is None or row.revision == seen:
        return
    who = _changed_by(row)
    raise Stale(
        row, "{called} was changed meanwhile{who}. Look at it again.", called=kind_of(type(row)).called(row), who=who
    )


def _changed_by(row: Any) -> str:
    """By whom a row was changed last, in words, where the history knows."""
    kind = kind_of(type(row))
    project = row if isinstance(row, Project) else row.project
    last = last_change_of(project, kind, kind.key_of(row))
    return f" by {last.by.get_username()}, {last.label!r}" if last is not None and last.by is not None else ""


def last_change_of(project: Project, kind: Kind, key: str, since: int = 0) -> Change | None:
    """The last change of a row, if there is any after the change number ``since``."""
    about = Q(**{f"before__{kind.name}__has_key": key}) | Q(**{f"after__{kind.name}__has_key": key})
    rows = project.changes.filter(about, pk__gt=since, undone=False)
    return rows.select_related("by").defer("before", "after").last()


@contextmanager
def change(project: Project, by: Any, label: str) -> Iterator[Doing]:
    """Make a change to a project inside one transaction that holds it; others wait. Nothing changed, nothing kept.

    Whatever is changed, by anybody, is fetched inside.
    """
    with transaction.atomic():
        Project.objects.select_for_update(no_key=True).get(pk=project.pk)
        doing = Doing(project, by, label)
        yield doing
        before, after = doing.documents()
        if before or after:
            # What was taken back cannot be made again over something new; that it was done stays in the history.
            _mine(project, by).filter(undone=True).update(dropped=True)
            made = Change.objects.create(project=project, by=by, label=doing.label[:200], before=before, after=after)
            HistoryLine.objects.create(
                project=project, by=by, what=HistoryLine.What.CHANGE, label=made.label, change=made,
                about=about_of(doing.touched),
            )  # fmt: skip
            for hook in hooks:
                hook(project, doing.touched, by)


@contextmanager
def names_may_trade_places() -> Iterator[None]:
    """Inside, names need not be unique; at the end they must. Raises IntegrityError."""
    with connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL DEFERRED")
        yield
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")


def _mine(project: Project, by: Any) -> QuerySet[Change]:
    return project.changes.filter(by=by)


def last_undo(project: Project, by: Any) -> str | None:
    """The label of the change that somebody would take back: the last of their own."""
    return _mine(project, by).filter(undone=False).values_list("label", flat=True).last()


def last_redo(project: Project, by: Any) -> str | None:
    """The label of the change that somebody would make again."""
    return _mine(project, by).filter(undone=True, dropped=False).values_list("label", flat=True).first()
