"""Sign in and out: slowed and locked after failures, logged; sessions end after idling, and can be ended."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction, sync_to_async
from axes.handlers.proxy import AxesProxyHandler
from django.conf import settings
from django.contrib.auth import SESSION_KEY, authenticate, login, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.http import HttpRequest
from django.utils import timezone

from studio.changes.errors import Conflict
from studio.people.address import address_of
from studio.people.log import note

__all__ = ["Idle", "LockedOut", "WrongPassword", "change_password", "end_other_sessions", "sign_in"]

_SEEN = "seen"
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
    login(request, person)
    note("signed_in", person, address=address_of(request))
    return person


def _locked_words() -> str:
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    return f"Too many failed attempts. Wait {minutes} minutes, then try again."


def change_password(request: HttpRequest, person: Any, old: str, new: str) -> None:
    """Other sessions of the person end by it. Raises Conflict when the old one is wrong, or the new one too weak."""
    if not person.check_password(old):
        raise Conflict("the old password is wrong")
    try:
        validate_password(new, person)
    except ValidationError as error:
        raise Conflict("{reasons}", reasons=" ".join(error.messages)) from None
    person.set_password(new)
    person.save(update_fields=["password"])
    update_session_auth_hash(request, person)
    note("password_changed", person, address=address_of(request))


def end_other_sessions(request: HttpRequest, person: Any) -> int:
    """End every session of a person but the one at hand; returns how many."""
    own, ended = request.session.session_key, 0
    for row in Session.objects.filter(expire_date__gt=timezone.now()).iterator(500):
        if row.session_key != own and row.get_decoded().get(SESSION_KEY) == str(person.pk):
            row.delete()
            ended += 1
    note("sessions_ended", person, f"{ended} sessions", address_of(request))
    return ended


class Idle:
    """A session ends when nobody has used it for a while (FAIR_TEXEL_IDLE_MINUTES). Django counts from when it was
    written last, so it is written again, once a minute at most."""

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
        now = int(time.time())
        if now - request.session.get(_SEEN, 0) > _WRITE_SECONDS:
            request.session[_SEEN] = now
