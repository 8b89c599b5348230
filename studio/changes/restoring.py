"""Take changes back and make them again: each person their own, field by field, over what others changed since.

What somebody else changed meanwhile stays, and is told. Nothing of this can stick: names that are taken by now are
given a number, what cannot come back is told, and the next step takes the next change.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

from django.db import IntegrityError, transaction

from studio.changes.engine import Doing, last_change_of, names_may_trade_places
from studio.changes.kinds import Kind, Values, about_of, hooks, kinds
from studio.projects.models import Change, HistoryLine, Project

__all__ = ["Restored", "redo", "undo"]

_MISSING = object()
_MAX_SAID = 20
State = dict[str, dict[str, Values]]


@dataclass
class Restored:
    """label: of the change. said: what could not be brought back as it was, and why."""

    label: str
    said: list[str] = field(default_factory=list)


def undo(project: Project, by: Any) -> Restored | None:
    """Take back one's own last change. None when there is none."""
    return _step(project, by, forwards=False)


def redo(project: Project, by: Any) -> Restored | None:
    """Make one's own change that was taken back last once more. None when there is none."""
    return _step(project, by, forwards=True)


def _step(project: Project, by: Any, forwards: bool) -> Restored | None:
    with transaction.atomic():
        Project.objects.select_for_update(no_key=True).get(pk=project.pk)
        rows = project.changes.filter(by=by, undone=forwards, dropped=False)
        one = rows.first() if forwards else rows.last()
        if one is None:
            return None
        wanted, other = (one.after, one.before) if forwards else (one.before, one.after)
        doing = Doing(project, by, one.label)
        restoring = _Restoring(project, one, wanted, other, doing)
        try:
            with transaction.atomic(), names_may_trade_places():
                restoring.run()
        except IntegrityError as error:
            # Whatever stands in its way does so for ever: the change is passed over, so that those before it can go.
            doing, reason = Doing(project, by, one.label), str(error).splitlines()[0]
            restoring.said = [f"It stays as it is, since something stands in its way ({reason})."]
        Change.objects.filter(pk=one.pk).update(undone=not forwards)
        HistoryLine.objects.create(
            project=project, by=by, what=HistoryLine.What.REDO if forwards else HistoryLine.What.UNDO,
            label=one.label, change=one, about=about_of(doing.touched),
        )  # fmt: skip
        for hook in hooks:
            hook(project, doing.touched, by)
        return Restored(one.label, _shortened(restoring.said))


def _shortened(said: list[str]) -> list[str]:
    said = list(dict.fromkeys(said))
    return said if len(said) <= _MAX_SAID else [*said[: _MAX_SAID - 1], f"and {len(said) - _MAX_SAID + 1} more"]


class _Restoring:
    """One change brought to ``wanted``, which it took to ``other``, or the other way round."""

    def __init__(self, project: Project, one: Change, wanted: State, other: State, doing: Doing):
        self.project, self.change, self.wanted, self.other, self.doing = project, one, wanted, other, doing
        self.said: list[str] = []
        self.named: dict[str, list[Any]] = defaultdict(list)

    def run(self) -> None:
        for kind in kinds():
            self._bring_back(kind)
        for kind in kinds():
            self._put_back(kind)
            self._solve_names(kind)
        for kind in reversed(kinds()):
            self._take_away(kind)

    def _pairs(self, kind: Kind) -> tuple[dict[str, Values], dict[str, Values]]:
        return self.wanted.get(kind.name, {}), self.other.get(kind.name, {})

    # Rows that the change took away.

    def _bring_back(self, kind: Kind) -> None:
        wanted, other = self._pairs(kind)
        lost = {key: dict(values) for key, values in wanted.items() if key not in other}
        there = kind.find(self.project, lost)
        for row in there.values():
            if kind.withdrawn:
                self.doing.update(row, **{kind.withdrawn: False})
        lost = {key: values for key, values in lost.items() if key not in there}
        # Parents are named when all are there.
        parents = {key: values.pop(kind.parent) for key, values in lost.items() if values.get(kind.parent)}
        standing = self._standing(kind, lost.values())
        rows = [self._row_of(kind, key, values) for key, values in lost.items() if standing(values)]
        kind.model._default_manager.bulk_create(rows)
        self._fill_what_fills_itself(kind, rows, lost)
        for row in rows:
            self.doing.noted(kind, kind.key_of(row), None, kind.values_of(row))
        self.named[kind.name] += rows
        again = kind.find(self.project, parents)
        exist = set(kind.rows(self.project).filter(pk__in=parents.values()).values_list("pk", flat=True))
        for key, parent in parents.items():
            if key in again and parent in exist:
                self.doing.update(again[key], **{kind.parent: parent})

    def _row_of(self, kind: Kind, key: str, values: Values) -> Any:
        owner = {"project_id": self.project.pk} if _has(kind, "project_id") else {}
        columns = {name: value for name, value in values.items() if name in kind.fields}
        return kind.model(**{kind.key: int(key)}, **owner, **columns)

    def _fill_what_fills_itself(self, kind: Kind, rows: list[Any], lost: dict[str, Values]) -> None:
        """Columns that are set when a row is made, such as its date, have their old values again."""
        columns = [
            one.attname
            for one in kind.model._meta.concrete_fields
            if one.attname in kind.fields and (getattr(one, "auto_now_add", False) or getattr(one, "auto_now", False))
        ]
        for row in rows if columns else ():
            values = lost[kind.key_of(row)]
            kind.model._default_manager.filter(pk=row.pk).update(**{name: values[name] for name in columns})
            row.refresh_from_db()

    def _standing(self, kind: Kind, rows: Iterable[Values]) -> Callable[[Values], bool]:
        """Tells of values of a row whether everything is there that they name; what may be missing is left empty, and
        told. One question for each column, however many rows there are."""
        there: dict[str, set[Any]] = {}
        targets: dict[str, Any] = {}
        for column in kind.model._meta.concrete_fields:
            target: Any = column.related_model
            if target is None:
                continue
            wanted = {values[column.attname] for values in rows if values.get(column.attname) is not None}
            if wanted:
                standing = target._default_manager.filter(pk__in=wanted).values_list("pk", flat=True)
                there[column.attname], targets[column.attname] = set(standing), column

        def stands(values: Values) -> bool:
            for name, known in there.items():
                if values.get(name) is None or values[name] in known:
                    continue
                column = targets[name]
                what, words = kind.model._meta.verbose_name, column.related_model._meta.verbose_name
                if not column.null:
                    self.said.append(f"A {what} could not come back: its {words} is gone.")
                    return False
                self.said.append(f"A {what} is left without its {words}, which is gone.")
                values[name] = None
            return True

        return stands

    # Rows that it changed.

    def _put_back(self, kind: Kind) -> None:
        wanted, other = self._pairs(kind)
        both = {key: (wanted[key], other[key]) for key in wanted if key in other}
        rows = kind.find(self.project, both)
        put: list[tuple[Any, Values]] = []
        for key, (to, since) in both.items():
            names = [name for name in kind.fields if name in to and to[name] != since.get(name, _MISSING)]
            if not names:
                continue
            row = rows.get(key)
            if row is None:
                self.said.append(f"A {kind.model._meta.verbose_name} is not there any more{self._by(kind, key)}.")
                continue
            put.append((row, self._possible(kind, row, names, to, since)))
        standing = self._standing(kind, [values for _, values in put])
        put = [(row, values) for row, values in put if standing(values)]
        self.named[kind.name] += [row for row, values in put if kind.name_field in values]
        self.doing.update_each(put)

    def _possible(self, kind: Kind, row: Any, names: list[str], to: Values, since: Values) -> Values:
        """What can be put back of a row; fields that go together all or none."""
        now = kind.values_of(row)
        free = set(names)
        for group in kind.together:
            if any(name in free and now[name] not in (since.get(name), to[name]) for name in group):
                self._tell(kind, row, kind.words[group[0]])
                free -= set(group)
        return {name: value for name in names if name in free for value in self._merged(kind, row, name, to, since)}

    def _merged(self, kind: Kind, row: Any, name: str, to: Values, since: Values) -> Iterator[Any]:
        """The value to put back, if any: what others changed since stays."""
        now, was = kind.values_of(row)[name], since.get(name)
        if name in kind.parts:
            apart, joined = kind.parts[name]
            old, new, parts = apart(was), apart(to[name]), apart(now)
            changed = [part for part in {**old, **new} if old.get(part, _MISSING) != new.get(part, _MISSING)]
            kept = [part for part in changed if parts.get(part, _MISSING) != old.get(part, _MISSING)]
            kept = [part for part in kept if parts.get(part, _MISSING) != new.get(part, _MISSING)]
            for part in changed:
                if part in kept:
                    self._tell(kind, row, str(part))
                elif part in new:
                    parts[part] = new[part]
                else:
                    parts.pop(part, None)
            yield joined(parts)
        elif now == was:
            yield to[name]
        elif now != to[name]:
            self._tell(kind, row, kind.words.get(name, name))

    def _tell(self, kind: Kind, row: Any, what: str) -> None:
        who = self._by(kind, kind.key_of(row))
        self.said.append(f"{kind.called(row)}: {what} was changed since{who}, and stays as it is.")

    def _by(self, kind: Kind, key: str) -> str:
        last = last_change_of(self.project, kind, key, self.change.pk)
        return f" by {last.by.get_username()}" if last is not None and last.by is not None else ""

    # Names that another row has by now.

    def _solve_names(self, kind: Kind) -> None:
        if not kind.name_field or kind.free is None:
            return
        named = self.named[kind.name]
        # One question for all of them; most names are still free.
        names = {getattr(row, kind.name_field) for row in named}
        bearers = kind.rows(self.project).filter(**{f"{kind.name_field}__in": names})
        pairs = bearers.values_list(kind.name_within, kind.name_field) if names else []
        borne = Counter(pairs)
        for row in named:
            within, name = getattr(row, kind.name_within), getattr(row, kind.name_field)
            if borne[within, name] > 1:
                free = kind.free(row, name)
                borne[within, name] -= 1
                self.doing.update(row, **{kind.name_field: free})
                self.said.append(f"{name} is called {free} now: its name was taken meanwhile.")

    # Rows that it made.

    def _take_away(self, kind: Kind) -> None:
        wanted, other = self._pairs(kind)
        made = {key: values for key, values in other.items() if key not in wanted}
        rows = kind.find(self.project, made)
        going: list[Any] = []
        for key, row in _children_first(kind, rows):
            now = kind.values_of(row)
            changed = [name for name, value in made[key].items() if name in now and now[name] != value]
            if changed and self._by(kind, key):
                self.said.append(f"{kind.called(row)} was changed since{self._by(kind, key)}, and stays.")
            elif why := kind.still_used(row):
                self.said.append(f"{kind.called(row)} stays: {why}.")
            elif kind.withdrawn:
                self.doing.update(row, **{kind.withdrawn: True})
            elif kind.parent:
                # One by one: whether others derive from it changes with each.
                self.doing.delete(row)
            else:
                going.append(row)
        self.doing.delete_many(going)


def _children_first(kind: Kind, rows: dict[str, Any]) -> Iterable[tuple[str, Any]]:
    if not kind.parent:
        return rows.items()
    depth: dict[int, int] = {}
    by_pk = {row.pk: row for row in rows.values()}

    def deep(row: Any) -> int:
        if row.pk not in depth:
            depth[row.pk] = 0
            parent = by_pk.get(getattr(row, kind.parent))
            depth[row.pk] = deep(parent) + 1 if parent is not None else 0
        return depth[row.pk]

    return sorted(rows.items(), key=lambda one: -deep(one[1]))


def _has(kind: Kind, column: str) -> bool:
    return any(one.attname == column for one in kind.model._meta.concrete_fields)
