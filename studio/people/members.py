"""Who may do what in a project."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction
from django.db.models import F
from django.http import Http404
from django.utils.text import slugify

from studio.changes.errors import Conflict, Stale
from studio.people.log import note
from studio.projects.models import Membership, Project
from texel.errors import BadDocument

__all__ = ["RIGHT_WORDS", "hand_over", "make_project", "remove", "set_right"]

RIGHT_WORDS = {
    "look": "look", "prepare": "prepare and deliver", "rules": "set the rules", "manage": "manage members",
}  # fmt: skip


def make_project(name: str, by: Any) -> Membership:
    """A new project, whose maker manages it. Raises BadDocument for a name that holds nothing."""
    name = name.strip()
    if not name:
        raise BadDocument("a project needs a name")
    base = slugify(name)[:70] or "project"
    with transaction.atomic():
        slug, number = base, 2
        while Project.objects.filter(slug=slug).exists():
            slug, number = f"{base}-{number}", number + 1
        project = Project.objects.create(slug=slug, name=name[:120])
        return Membership.objects.create(project=project, user=by, right=Membership.Right.MANAGE)


def set_right(project: Project, name: str, right: str, by: Any, seen: int | None = None) -> Membership:
    """Raises BadDocument for a right that there is not, Http404 for a person, Conflict when nobody would be left who
    manages members, Stale when the right is another one than was seen."""
    if right not in Membership.Right.values:
        raise BadDocument("a right is one of {listed}", listed=", ".join(Membership.Right.values))
    person = get_user_model().objects.filter(username=name).first()
    if person is None:
        raise Http404(f"There is nobody called {name}.")
    with transaction.atomic():
        _hold(project)
        row = project.members.select_related("user").filter(user=person).first()
        if row is not None and seen is not None and row.revision != seen:
            raise Stale(row, "the right of {name} was changed meanwhile. Look at it again.", name=name)
        if right != Membership.Right.MANAGE:
            _somebody_else_manages(project, person)
        if row is None:
            row = Membership.objects.create(project=project, user=person, right=right)
        elif row.right != right:
            Membership.objects.filter(pk=row.pk).update(right=right, revision=F("revision") + 1)
            row.refresh_from_db()
            if right != Membership.Right.MANAGE:
                _end_invitations(project, person)
        note("right_changed", by, f"{name} may {RIGHT_WORDS[right]}", project=project)
        return row


def remove(project: Project, name: str, by: Any) -> None:
    """Take somebody out of a project. Raises Http404, and Conflict for the last one who manages members."""
    with transaction.atomic():
        _hold(project)
        row = project.members.select_related("user").filter(user__username=name).first()
        if row is None:
            raise Http404(f"{name} is no member of this project.")
        _somebody_else_manages(project, row.user)
        row.delete()
        _end_invitations(project, row.user)
        note("member_removed", by, name, project=project)


def hand_over(project: Project, name: str, keep: str | None, by: Any) -> None:
    """Give a project that one manages to another member. keep: the right that one keeps oneself; None to leave.

    All or nothing. Raises Http404 for somebody who is no member, BadDocument for a right that there is not.
    """
    if name == by.get_username():
        raise BadDocument("a project is handed over to somebody else")
    with transaction.atomic():
        _hold(project)
        if not project.members.filter(user__username=name).exists():
            raise Http404(f"{name} is no member of this project.")
        set_right(project, name, Membership.Right.MANAGE, by)
        if keep is None:
            remove(project, by.get_username(), by)
        else:
            set_right(project, by.get_username(), keep, by)
        note("handed_over", by, f"to {name}", project=project)


def _end_invitations(project: Project, person: Any) -> None:
    """Whoever may not invite any more comes in again by no link of their own."""
    project.invitations.filter(by=person, used=None).update(revoked=True)


def _hold(project: Project) -> None:
    Project.objects.select_for_update(no_key=True).get(pk=project.pk)


def _somebody_else_manages(project: Project, person: Any) -> None:
    if not project.members.filter(right=Membership.Right.MANAGE).exclude(user=person).exists():
        raise Conflict("somebody must be left who manages the members")
