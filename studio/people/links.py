"""Links that work once: invitations into a project, and links with which a person sets a new password.

What a link carries is shown once, where it is made; the server keeps its hash. The page has it behind the # of its
address, which browsers send to no server, so that no log of one holds it.
"""

from __future__ import annotations

import secrets
from datetime import timedelta
from typing import Any, TypeVar

from axes.handlers.proxy import AxesProxyHandler
from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import Http404
from django.utils import timezone

from studio.changes.errors import Conflict
from studio.people.log import note
from studio.people.members import RIGHT_WORDS
from studio.people.models import Invitation, ResetLink, secret_hash
from studio.projects.models import Membership, Project
from texel.errors import BadDocument

__all__ = [
    "account_with_link", "check_password", "invitation_of", "invitations_of", "invite", "join", "join_as_newcomer",
    "new_account", "reset_link", "reset_password", "revoke_invitation",
]  # fmt: skip

_MAX_DAYS = 90
_MAX_OPEN = 200
RESET_HOURS = 24
_LONGEST_NAME = 150
Link = TypeVar("Link", Invitation, ResetLink)


def _working(kind: type[Link], secret: str, held: bool = False) -> Link:
    """Raises Http404 for a link that there is not, that was used, taken back, or has ended."""
    rows = kind._default_manager.filter(hash=secret_hash(secret))
    found = (rows.select_for_update() if held else rows).first()
    if found is None or not found.works:
        raise Http404("This link does not work: it was used, taken back, or has ended. Ask for a new one.")
    return found


def invite(project: Project, right: str, days: int, about: str, by: Any) -> tuple[Invitation, str]:
    """An invitation, and what its link carries. days: until it ends. Raises BadDocument, Conflict."""
    if right not in Membership.Right.values:
        raise BadDocument("a right is one of {listed}", listed=", ".join(Membership.Right.values))
    if not 1 <= days <= _MAX_DAYS:
        raise BadDocument("an invitation holds 1 to {most} days", most=_MAX_DAYS)
    if invitations_of(project).count() >= _MAX_OPEN:
        raise Conflict("{most} invitations are open; take some back first", most=_MAX_OPEN)
    secret = secrets.token_urlsafe(32)
    about = " ".join(about.split())[:100]
    row = Invitation.objects.create(
        hash=secret_hash(secret),
        by=by,
        until=timezone.now() + timedelta(days=days),
        project=project,
        right=right,
        about=about,
    )
    note("invited", by, f"{about or 'somebody'} may {RIGHT_WORDS[right]}", project=project)
    return row, secret


def invitations_of(project: Project) -> Any:
    """Those that still work."""
    return project.invitations.filter(used__isnull=True, revoked=False, until__gt=timezone.now()).select_related("by")


def revoke_invitation(project: Project, pk: int, by: Any) -> None:
    """Raises Http404 for one that does not work any more anyway."""
    row = invitations_of(project).filter(pk=pk).first()
    if row is None:
        raise Http404("There is no such invitation any more.")
    Invitation.objects.filter(pk=pk).update(revoked=True)
    note("invitation_revoked", by, row.about, project=project)


def invitation_of(secret: str) -> Invitation:
    """The invitation of a link. Raises Http404."""
    return _working(Invitation, secret)


def join(secret: str, person: Any) -> Project:
    """Take an invitation; a member who may less gets its right, one who may more keeps theirs. Raises Http404."""
    with transaction.atomic():
        row = _working(Invitation, secret, held=True)
        project = Project.objects.select_for_update(no_key=True).get(pk=row.project_id)
        member = project.members.filter(user=person).first()
        if member is None:
            Membership.objects.create(project=project, user=person, right=row.right)
        elif not member.may(row.right):
            project.members.filter(pk=member.pk).update(right=row.right, revision=member.revision + 1)
        Invitation.objects.filter(pk=row.pk).update(used=timezone.now(), joined=person)
        note("joined", person, f"may {RIGHT_WORDS[row.right]}", project=project)
        return project


def join_as_newcomer(secret: str, name: str, password: str) -> tuple[Project, Any]:
    """Take an invitation with a new account. All or nothing. Raises Http404, BadDocument, Conflict."""
    with transaction.atomic():
        invitation_of(secret)
        person = new_account(name, password)
        return join(secret, person), person


def check_password(password: str, person: Any) -> None:
    """Raises Conflict with what is wrong with it."""
    try:
        validate_password(password, person)
    except ValidationError as error:
        raise Conflict("{reasons}", reasons=" ".join(error.messages)) from None


def new_account(name: str, password: str | None) -> Any:
    """An account; without a password nobody can sign in to it until a link set one. Raises BadDocument, Conflict."""
    people = get_user_model()
    name = people.normalize_username(name.strip())
    if not name or len(name) > _LONGEST_NAME:
        raise BadDocument("an account needs a name of at most {most} characters", most=_LONGEST_NAME)
    try:
        people.username_validator(name)
    except ValidationError as error:
        raise BadDocument("{reasons}", reasons=" ".join(error.messages)) from None
    if people.objects.filter(username__iexact=name).exists():
        raise Conflict("There is somebody called {name} already.", name=name)
    person = people(username=name)
    if password is not None:
        check_password(password, person)
    person.set_password(password)
    person.save()
    note("account_made", person)
    return person


def reset_link(person: Any, by: Any) -> tuple[ResetLink, str]:
    """A link with which a person sets a new password, and what it carries; former ones of theirs end."""
    secret = secrets.token_urlsafe(32)
    with transaction.atomic():
        person.reset_links.filter(used__isnull=True).update(revoked=True)
        until = timezone.now() + timedelta(hours=RESET_HOURS)
        row = ResetLink.objects.create(hash=secret_hash(secret), by=by, until=until, person=person)
        note("reset_link_made", by, person.get_username())
    return row, secret


def account_with_link(name: str, by: Any) -> tuple[ResetLink, str]:
    """A new account, and the link with which its person sets a password. Raises BadDocument, Conflict."""
    with transaction.atomic():
        return reset_link(new_account(name, None), by)


def reset_password(secret: str, password: str) -> Any:
    """The person, whose password is another one from now on. Raises Http404, Conflict for one that is too weak."""
    with transaction.atomic():
        row = _working(ResetLink, secret, held=True)
        person = row.person
        if not person.is_active:
            raise Http404("This account is closed.")
        check_password(password, person)
        person.set_password(password)
        person.save(update_fields=["password"])
        ResetLink.objects.filter(pk=row.pk).update(used=timezone.now())
        AxesProxyHandler.reset_attempts(username=person.get_username())
        note("password_reset", person)
    return person
