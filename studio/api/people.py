"""Accounts, for administrators; and the two links that work without an account."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router, Status
from ninja.errors import HttpError

from studio.api.access import must_administer, must_come_from_the_page, name_of, user_of
from studio.api.schemas.people import (
    AccountChange,
    AccountOut,
    InvitedTo,
    Joined,
    NewAccount,
    NewLink,
    Reset,
    Secret,
    Taking,
)
from studio.api.schemas.session import Ended
from studio.people import accounts, links, signing
from studio.people.models import ResetLink

router = Router(tags=["people"])
without_account = Router(tags=["links"])


def _out(person: Any) -> AccountOut:
    return {
        "name": person.get_username(), "active": person.is_active, "administrator": person.is_superuser,
        "keeps_library": bool(person.keeps) or person.is_superuser, "projects": person.projects,
        "last_sign_in": person.last_login, "has_password": person.has_usable_password(),
    }  # fmt: skip


def _one(name: str) -> AccountOut:
    return _out(accounts.accounts().get(pk=accounts.account(name).pk))


@router.get("", response=list[AccountOut])
def list_accounts(request: HttpRequest) -> Any:
    """Everybody who has an account. For administrators."""
    must_administer(request)
    return [_out(person) for person in accounts.accounts()]


@router.post("", response=NewLink)
def make_account(request: HttpRequest, given: NewAccount) -> Any:
    """An account without a password, and the link with which its person sets one. For administrators."""
    must_administer(request)
    row, secret = links.account_with_link(given.name, user_of(request))
    return _link(row, secret)


@router.patch("/{name}", response=AccountOut)
def change_account(request: HttpRequest, name: Path[str], given: AccountChange) -> Any:
    """Close an account or open it again; let somebody keep the library or no more. For administrators."""
    must_administer(request)
    accounts.change_account(name, given.active, given.keeps_library, user_of(request))
    return _one(name)


@router.post("/{name}/reset", response=NewLink)
def make_reset_link(request: HttpRequest, name: Path[str]) -> Any:
    """A link with which somebody sets a new password, shown this once; former ones end. For administrators."""
    must_administer(request)
    return _link(*links.reset_link(accounts.account(name), user_of(request)))


@router.delete("/{name}/sessions", response=Ended)
def end_their_sessions(request: HttpRequest, name: Path[str]) -> Any:
    """Sign somebody out everywhere. For administrators."""
    must_administer(request)
    return {"sessions": signing.end_sessions_of(accounts.account(name), user_of(request))}


def _link(row: ResetLink, secret: str) -> dict[str, object]:
    return {"secret": secret, "path": f"/new-password#{secret}", "until": row.until}


@without_account.post("/invitations/look", response=InvitedTo, auth=None)
def look_at_invitation(request: HttpRequest, given: Secret) -> Any:
    """What an invitation is for; 404 when it works no more."""
    row = links.invitation_of(given.secret)
    by = name_of(row.by)
    return {"project": row.project.name, "right": row.right, "by": by, "until": row.until}


@without_account.post("/invitations/take", response=Joined, auth=None)
def take_invitation(request: HttpRequest, given: Taking) -> Any:
    """Join the project: as whoever is signed in, or with a new account, which is signed in by it."""
    must_come_from_the_page(request)
    if not given.name:
        if not request.user.is_authenticated:
            raise HttpError(401, "Sign in first, or choose a name and a password.")
        return {"slug": links.join(given.secret, request.user).slug}
    project, person = links.join_as_newcomer(given.secret, given.name, given.password)
    signing.enter(request, person)
    return {"slug": project.slug}


@without_account.post("/new-password", response={204: None}, auth=None)
def set_new_password(request: HttpRequest, given: Reset) -> Any:
    """Set a new password with a link from an administrator; the person's sessions end by it."""
    must_come_from_the_page(request)
    links.reset_password(given.secret, given.password)
    return Status(204, None)
