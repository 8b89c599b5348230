"""Who may change masters and functions: all projects share them, so each belongs to those who keep it."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.http import Http404

from studio.changes.errors import Conflict
from studio.materials.library import held
from studio.materials.models import LibraryEntry
from studio.people.log import note
from studio.projects.models import Membership

__all__ = ["add", "may_keep", "may_make_masters", "names_of", "remove"]


def may_make_masters(person: Any) -> bool:
    """Whoever may set the rules of a project may add masters and functions to the library, and keeps those."""
    may = Membership.objects.filter(user=person, right=Membership.Right.RULES)
    return _has_whole_right(person) and may.exists()


def may_keep(person: Any, master: LibraryEntry) -> bool:
    """Keepers, and administrators of the studio."""
    return _has_whole_right(person) and (person.is_superuser or master.keepers.filter(pk=person.pk).exists())


def _has_whole_right(person: Any) -> bool:
    """Whether somebody asks by themselves, or by a token that may set rules."""
    return getattr(person, "token_right", Membership.Right.RULES) == Membership.Right.RULES


def names_of(master: LibraryEntry) -> list[str]:
    return list(master.keepers.order_by("username").values_list("username", flat=True))


def add(kind: type[LibraryEntry], name: str, person: str, by: Any) -> None:
    """Raises Http404 for a person that there is not."""
    someone = get_user_model().objects.filter(username=person).first()
    if someone is None:
        raise Http404(f"There is nobody called {person}.")
    with held(kind, name) as master:
        master.keepers.add(someone)
        note("keeper_added", by, f"{person} keeps {master.title}")


def remove(kind: type[LibraryEntry], name: str, person: str, by: Any) -> None:
    """Raises Conflict for the last keeper."""
    with held(kind, name) as master:
        if not master.keepers.exclude(username=person).exists():
            raise Conflict("{title} needs a keeper; add another one first", title=master.title)
        master.keepers.remove(*master.keepers.filter(username=person))
        note("keeper_removed", by, f"{person} keeps {master.title} no more")
