"""Tokens with which scripts sign in: made, found, listed, revoked."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from django.db.models import Q
from django.http import Http404
from django.utils import timezone

from studio.changes.errors import Conflict
from studio.people.log import note
from studio.people.models import AccessToken, secret_hash
from studio.projects.models import Membership

__all__ = ["has_all_rights", "make", "person_of", "revoke", "right_of", "tokens_of"]

# How often the hour of its last use is written down.
_USED_EVERY = timedelta(minutes=5)
_MAX_DAYS = 3650
_MAX_TOKENS = 100


def make(person: Any, name: str, days: int, right: str = Membership.Right.MANAGE) -> str:
    """A new token, shown this once. days: how long it holds; right: the most that it may do. Raises Conflict."""
    name = name.strip()[:100]
    if not name:
        raise Conflict("a token needs a name that tells what it is for")
    if not 1 <= days <= _MAX_DAYS:
        raise Conflict("a token holds 1 to {max_days} days", max_days=_MAX_DAYS)
    if tokens_of(person).count() >= _MAX_TOKENS:
        raise Conflict("a person has at most {max_tokens} tokens; revoke one first", max_tokens=_MAX_TOKENS)
    note("token_made", person, f"{name}, {days} days, may {right}")
    return AccessToken.make(person, name, timezone.now() + timedelta(days=days), right)


def _in_force(at: datetime) -> Q:
    return Q(revoked=False) & (Q(until__isnull=True) | Q(until__gt=at))


def person_of(token: str) -> Any:
    """Whose token it is, while it holds; else None. What the token may do at most is the person's ``token_right``."""
    now = timezone.now()
    rows = AccessToken.objects.filter(_in_force(now), hash=secret_hash(token), user__is_active=True)
    row = rows.select_related("user").first()
    if row is None:
        return None
    if row.used is None or now - row.used > _USED_EVERY:
        AccessToken.objects.filter(pk=row.pk).update(used=now)
    row.user.token_right = row.right  # type: ignore[attr-defined]  # for as long as it asks
    return row.user


def right_of(person: Any) -> str:
    """The most that somebody may do as they ask now: all that they may, or what their token allows."""
    right: str = getattr(person, "token_right", Membership.Right.MANAGE)
    return right


def has_all_rights(person: Any) -> bool:
    """Whether somebody asks by themselves, or by a token that may do all that they may."""
    return right_of(person) == Membership.Right.MANAGE


def tokens_of(person: Any) -> Any:
    """A person's tokens that were not revoked, the newest first."""
    return AccessToken.objects.filter(user=person, revoked=False).order_by("-pk")


def revoke(person: Any, pk: int) -> None:
    """Raises Http404 for a token that is not theirs."""
    token = tokens_of(person).filter(pk=pk).first()
    if token is None:
        raise Http404("You have no such token.")
    AccessToken.objects.filter(pk=pk).update(revoked=True)
    note("token_revoked", person, token.name)
