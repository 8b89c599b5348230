"""Who may change masters and functions: all projects share them, so each belongs to those who keep it."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.http import Http404

from studio.changes.errors import Conflict
from studio.materials.library import held, tell_history
from studio.materials.models import LibraryEntry
from studio.people.accounts import is_library_keeper
from studio.people.log import note
from studio.people.tokens import has_all_rights

__all__ = ["add", "may_keep", "may_make_masters", "names_of", "remove"]


def may_make_masters(person: Any) -> bool:
    """Library keepers and administrators may add masters and functions to the library, and change all in it."""
    return has_all_rights(person) and is_library_keeper(person)


def may_keep(person: Any, master: LibraryEntry) -> bool:
    """The keepers of this one, library keepers, and administrators of the studio."""
    may = is_library_keeper(person) or master.keepers.filter(pk=person.pk).exists()
    return has_all_rights(person) and may


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
        tell_history(master, f"Make {person} a keeper of {master.title}")


def remove(kind: type[LibraryEntry], name: str, person: str, by: Any) -> None:
    """Raises Conflict for the last keeper."""
    with held(kind, name) as master:
        if not master.keepers.exclude(username=person).exists():
            raise Conflict("{title} needs a keeper; add another one first", title=master.title)
        master.keepers.remove(*master.keepers.filter(username=person))
        note("keeper_removed", by, f"{person} keeps {master.title} no more")
        tell_history(master, f"Take {person} from the keepers of {master.title}")
