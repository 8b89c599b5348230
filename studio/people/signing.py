"""Sign in and out: slowed and locked after failures, logged; sessions end after idling, and can be ended."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction, sync_to_async
from axes.handlers.proxy import AxesProxyHandler
from django.conf import settings
from django.contrib.auth import SESSION_KEY, authenticate, login, update_session_auth_hash
from django.contrib.sessions.models import Session
from django.http import Http404, HttpRequest
from django.utils import timezone

from studio.changes.errors import Conflict
from studio.people.address import address_of
from studio.people.links import check_password
from studio.people.log import note
from studio.people.models import OpenSession

__all__ = [
    "Idle", "LockedOut", "WrongPassword", "change_password", "end_other_sessions", "end_session", "end_sessions_of",
    "enter", "sessions_of", "sign_in",
]  # fmt: skip

_SEEN, _KEY = "seen", "key"
# How often a session's last use is written down.
_WRITE_SECONDS = 60


class WrongPassword(Exception):
    """Name or password is wrong; which of them is not told."""


class LockedOut(Exception):
    """Too many failures from this address or for this name; the message says how long to wait."""


def sign_in(request: HttpRequest, name: str, password: str) -> Any:
    """The person, signed in. Raises WrongPassword, LockedOut."""
    credentials = {"username": name}
    if not AxesProxyHandler.is_allowed(request, credentials):
        note("locked_out", name, address=address_of(request))
        raise LockedOut(_locked_words())
    failures = AxesProxyHandler.get_failures(request, credentials)
    if failures >= settings.SIGN_IN_SLOWED_AFTER:
        # Each further guess takes longer, so that machines gain nothing by being quick.
        time.sleep(min(settings.SIGN_IN_SLOWEST, 0.25 * 2 ** (failures - settings.SIGN_IN_SLOWED_AFTER)))
    person = authenticate(request, username=name, password=password)
    if person is None:
        note("sign_in_refused", name, address=address_of(request))
        if not AxesProxyHandler.is_allowed(request, credentials):
            note("locked_out", name, address=address_of(request))
            raise LockedOut(_locked_words())
        raise WrongPassword
    enter(request, person)
    return person


def enter(request: HttpRequest, person: Any) -> None:
    """Sign somebody in who has shown who they are."""
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    note("signed_in", person, address=address_of(request))


def _locked_words() -> str:
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    return f"Too many failed attempts. Wait {minutes} minutes, then try again."


def change_password(request: HttpRequest, person: Any, old: str, new: str) -> None:
    """Other sessions of the person end by it. Raises Conflict when the old one is wrong, or the new one too weak."""
    if not person.check_password(old):
        raise Conflict("the old password is wrong")
    check_password(new, person)
    person.set_password(new)
    person.save(update_fields=["password"])
    update_session_auth_hash(request, person)
    note("password_changed", person, address=address_of(request))


def sessions_of(person: Any) -> list[OpenSession]:
    """Where somebody is signed in now, the one that was used last first."""
    rows = list(person.open_sessions.all())
    alive = Session.objects.filter(session_key__in=[row.key for row in rows], expire_date__gt=timezone.now())
    keys = set(alive.values_list("session_key", flat=True))
    return [row for row in rows if row.key in keys]


def end_session(person: Any, pk: int) -> None:
    """Raises Http404 for a session that is not theirs."""
    row = person.open_sessions.filter(pk=pk).first()
    if row is None:
        raise Http404("You have no such session any more.")
    Session.objects.filter(session_key=row.key).delete()
    row.delete()
    note("sessions_ended", person, "1 session")


def end_other_sessions(request: HttpRequest, person: Any) -> int:
    """End every session of a person but the one at hand; returns how many."""
    ended = _end_sessions(person, request.session.session_key)
    note("sessions_ended", person, f"{ended} sessions", address_of(request))
    return ended


def end_sessions_of(person: Any, by: Any) -> int:
    """End all sessions of somebody; returns how many. For administrators."""
    ended = _end_sessions(person, None)
    note("sessions_ended", by, f"{ended} sessions of {person.get_username()}")
    return ended


def _end_sessions(person: Any, but: str | None) -> int:
    """Those of before sessions were listed are found by what they hold."""
    ended = 0
    for row in Session.objects.filter(expire_date__gt=timezone.now()).iterator(500):
        if row.session_key != but and row.get_decoded().get(SESSION_KEY) == str(person.pk):
            row.delete()
            ended += 1
    person.open_sessions.exclude(key=but or "").delete()
    return ended


class Idle:
    """A session ends when nobody has used it for a while (FAIR_TEXEL_IDLE_MINUTES). Django counts from when it was
    written last, so it is written again, once a minute at most, and noted for the list of sessions."""

    sync_capable = True
    async_capable = True

    def __init__(self, get_response: Callable[..., Any]):
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest) -> Any:
        if iscoroutinefunction(self):
            return self._later(request)
        self._touch(request)
        return self.get_response(request)

    async def _later(self, request: HttpRequest) -> Any:
        await sync_to_async(self._touch)(request)
        return await self.get_response(request)

    def _touch(self, request: HttpRequest) -> None:
        if settings.SESSION_COOKIE_NAME not in request.COOKIES or SESSION_KEY not in request.session:
            return
        now, key = int(time.time()), request.session.session_key
        if now - request.session.get(_SEEN, 0) > _WRITE_SECONDS or request.session.get(_KEY) != key:
            request.session[_SEEN], request.session[_KEY] = now, key
            _note_session(request, key)


def _note_session(request: HttpRequest, key: str | None) -> None:
    if not key or not request.user.is_authenticated:
        return
    facts = {"address": address_of(request), "agent": request.headers.get("User-Agent", "")[:200]}
    OpenSession.objects.update_or_create(key=key, defaults={**facts, "person": request.user})
    # Sessions that have ended leave no row behind.
    keys = Session.objects.filter(expire_date__gt=timezone.now()).values("session_key")
    OpenSession.objects.filter(person=request.user).exclude(key__in=keys).delete()
