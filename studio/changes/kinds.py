"""The kinds of rows that a project's history knows: what of them is kept, and how they are spoken of.

Each app registers its own when the application starts, so that one engine changes, takes back and makes again all of
them without knowing any.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from django.db.models import Model, QuerySet

from studio.projects.models import Project

__all__ = [
    "OBJECT", "AfterChange", "Kind", "Parts", "Touched", "Values", "about_of", "after_changes", "belongs_to",
    "free_name_in", "hooks", "kind_of", "kinds", "plain", "register",
]  # fmt: skip

Values = dict[str, object]
# By kind: the keys of the rows that a change touched, and the values that they had before or have now.
Touched = Mapping[str, Mapping[str, tuple[Values | None, Values | None]]]
AfterChange = Callable[[Project, Touched, Any], None]
# From what a change touched, what that belongs to: "sets:12".
Owners = Callable[[Touched], Iterable[str]]


# Leaves room for a number in columns of 100 characters.
_LONGEST_NAME = 90


class Parts(NamedTuple):
    """How a value is taken apart by key, and joined again."""

    apart: Callable[[Any], dict[str, object]]
    joined: Callable[[dict[str, object]], Any]


# For values that are objects anyway.
OBJECT = Parts(dict, dict)


def _never(row: Any) -> str:
    return ""


@dataclass(frozen=True)
class Kind:
    """One kind of rows.

    name: as kept in histories. place: rows of lower places exist before those of higher ones.
    fields: what is kept of a row, by the names of columns. words: what the fields are called in messages.
    rows: all rows of a project. called: what one row is called in messages.
    parts: fields whose parts are taken back one by one, so that what others changed beside them stays.
    name_field: a field that no two rows with the same ``name_within`` may share; free: gives a free value for a row.
    together: groups of fields that mean something only together, by the word of the first: all come back, or none.
    parent: a column that names another row of the same kind. still_used: why a row may not go away, "" when it may.
    withdrawn: a column that says so of rows which are kept when they go away.
    revised: whether rows have a column ``revision`` that grows with every change.
    """

    name: str
    place: int
    model: type[Model]
    fields: tuple[str, ...]
    rows: Callable[[Project], QuerySet[Any]]
    called: Callable[[Any], str]
    words: Mapping[str, str] = field(default_factory=dict)
    key: str = "pk"
    parts: Mapping[str, Parts] = field(default_factory=dict)
    together: tuple[tuple[str, ...], ...] = ()
    name_field: str = ""
    name_within: str = "project_id"
    free: Callable[[Any, str], str] | None = None
    parent: str = ""
    still_used: Callable[[Any], str] = _never
    withdrawn: str = ""
    revised: bool = True

    def key_of(self, row: Model) -> str:
        return str(getattr(row, self.key))

    def values_of(self, row: Model) -> Values:
        return {name: plain(getattr(row, name)) for name in self.fields}

    def find(self, project: Project, keys: Collection[str]) -> dict[str, Model]:
        """Rows of a project by key; those that are not there are left out."""
        rows = self.rows(project).filter(**{f"{self.key}__in": [int(key) for key in keys]})
        return {self.key_of(row): row for row in rows}


def plain(value: Any) -> Any:
    """A value as JSON keeps it: dates become text."""
    return value.isoformat() if hasattr(value, "isoformat") else value


def free_name_in(rows: Any, wanted: str, otherwise: str) -> str:
    """The name, in one line and shortened where it is too long, with a number behind it where another row has it. rows:
    all that may not share a name. otherwise: for an empty one."""
    base = " ".join(wanted.split())[:_LONGEST_NAME] or otherwise
    taken = set(rows.filter(name__startswith=base).values_list("name", flat=True))
    name, count = base, 1
    while name in taken:
        count += 1
        name = f"{base} {count}"
    return name


_kinds: dict[str, Kind] = {}
_by_model: dict[type[Model], Kind] = {}
hooks: list[AfterChange] = []
owners: list[Owners] = []


def register(*some: Kind) -> None:
    """Make kinds known; a name that is taken is replaced by the same kind, registered again."""
    for kind in some:
        _kinds[kind.name] = _by_model[kind.model] = kind


def after_changes(hook: AfterChange) -> AfterChange:
    """Call a function after every change, in its transaction, with what it touched and whoever made it."""
    if hook not in hooks:
        hooks.append(hook)
    return hook


def belongs_to(tell: Owners) -> Owners:
    """Register a function that tells what touched rows belong to, so that the history of a set names its maps."""
    if tell not in owners:
        owners.append(tell)
    return tell


def about_of(touched: Touched) -> list[str]:
    """What a change was about, as history lines name it."""
    own = [f"{kind}:{key}" for kind, rows in touched.items() for key in rows]
    return list(dict.fromkeys([*own, *(one for tell in owners for one in tell(touched))]))


def kinds() -> list[Kind]:
    """All kinds, those that others need first."""
    return sorted(_kinds.values(), key=lambda kind: kind.place)


def kind_of(model: type[Model]) -> Kind:
    return _by_model[model]
