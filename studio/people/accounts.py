"""Accounts of the studio: who there is, who keeps its library, who may sign in. For administrators."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.http import Http404

from studio.changes.errors import Conflict
from studio.people.log import note
from studio.people.models import LIBRARY_KEEPERS, Invitation, ResetLink

__all__ = ["account", "accounts", "change_account", "is_library_keeper", "keep_library", "let_in"]


def is_library_keeper(person: Any) -> bool:
    """Whether somebody may add to the library and change what is in it; administrators may."""
    return bool(person.is_superuser) or person.groups.filter(name=LIBRARY_KEEPERS).exists()


def accounts() -> QuerySet[Any]:
    """All accounts by name, with ``keeps`` (1 where the person keeps the library) and ``projects``: how many."""
    return (
        get_user_model()
        .objects.annotate(
            keeps=Count("groups", filter=Q(groups__name=LIBRARY_KEEPERS), distinct=True),
            projects=Count("memberships", distinct=True),
        )
        .order_by("username")
    )


def account(name: str) -> Any:
    """Raises Http404."""
    found = get_user_model().objects.filter(username=name).first()
    if found is None:
        raise Http404(f"There is nobody called {name}.")
    return found


def keep_library(name: str, keeps: bool, by: Any) -> None:
    """Make somebody a keeper of the library, or no more."""
    person = account(name)
    group, _ = Group.objects.get_or_create(name=LIBRARY_KEEPERS)
    if keeps == person.groups.filter(pk=group.pk).exists():
        return
    if keeps:
        person.groups.add(group)
    else:
        person.groups.remove(group)
    note("library_keeper_added" if keeps else "library_keeper_removed", by, name)


def let_in(name: str, active: bool, by: Any) -> None:
    """Close an account, so that it signs in nowhere and its tokens end at once, or open it again; what it did stays.
    Raises Conflict for one's own, and for the last administrator."""
    with transaction.atomic():
        people = get_user_model().objects
        person = people.select_for_update().filter(username=name).first() or account(name)
        if person.is_active == active:
            return
        if not active and person.pk == by.pk:
            raise Conflict("you cannot close your own account; another administrator can")
        # Held as well: two administrators who close each other's account at once would leave none.
        others = list(people.select_for_update().filter(is_superuser=True, is_active=True).exclude(pk=person.pk))
        if not active and person.is_superuser and not others:
            raise Conflict("somebody must be left who administers the studio")
        people.filter(pk=person.pk).update(is_active=active)
        if not active:
            # Links for them, and links that they made for others.
            ResetLink.objects.filter(Q(person=person) | Q(by=person), used=None).update(revoked=True)
            Invitation.objects.filter(by=person, used=None).update(revoked=True)
        note("account_opened" if active else "account_closed", by, name)


def change_account(name: str, active: bool | None, keeps_library: bool | None, by: Any) -> None:
    """Both, all or nothing; None for what stays. Raises as let_in, and Http404."""
    with transaction.atomic():
        if keeps_library is not None:
            keep_library(name, keeps_library, by)
        if active is not None:
            let_in(name, active, by)
