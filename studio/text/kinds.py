"""The kinds of things that a project's text consists of: each tells its documents, and writes them back."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from studio.changes.engine import Doing
from studio.projects.models import Membership, Project

__all__ = ["Document", "Documents", "TextKind", "by_name", "in_order", "register", "sets_rules"]

# A document, and documents by the name of what they describe.
Document = Mapping[str, Any]
Documents = dict[str, dict[str, object]]


def sets_rules(before: Document | None, after: Document | None) -> str:
    """The right that house rules need, whatever changes."""
    return Membership.Right.RULES


def _prepares(before: Document | None, after: Document | None) -> str:
    return Membership.Right.PREPARE


@dataclass(frozen=True)
class TextKind:
    """folder: of texel.project.kinds.KINDS, "" for the project itself. read: all that a project has. write: documents
    that are new or changed, and the names of what is to go away; a name that it deals with itself, for one since
    something was renamed, it takes from those. remove: those that go away, by name. right: that a change needs, from
    the document before and the one after."""

    folder: str
    read: Callable[[Project], Documents]
    write: Callable[[Doing, Mapping[str, Document], set[str]], None]
    remove: Callable[[Doing, set[str]], None]
    right: Callable[[Document | None, Document | None], str] = _prepares


_kinds: dict[str, TextKind] = {}


def register(kind: TextKind) -> TextKind:
    _kinds[kind.folder] = kind
    return kind


def in_order() -> list[TextKind]:
    """All kinds, those that others need first, as they are registered by studio.text.bringing."""
    return list(_kinds.values())


def by_name(rows: Any) -> list[Any]:
    """Rows by their names, as texts have them in order whatever the database takes for order."""
    return sorted(rows, key=lambda row: (row.name, row.pk))
