"""Sign in, sign out, health, and tokens for scripts."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import logout
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Status
from ninja.errors import HttpError

from studio.api.access import must_come_from_the_page, user_of
from studio.api.schemas.people import SessionRow
from studio.api.schemas.session import (
    CameBack,
    Elsewhere,
    Ended,
    HealthOut,
    NewPassword,
    NewToken,
    Session,
    SignIn,
    Token,
    TokenRow,
)
from studio.health import Health, health_now
from studio.people import elsewhere, signing, tokens
from studio.people.accounts import is_library_keeper
from studio.people.address import address_of
from studio.people.log import note

router = Router(tags=["session"])


@router.get("/health", response={200: HealthOut, 503: HealthOut}, auth=None)
def health(request: HttpRequest) -> Any:
    """Whether database, store, queue and workers are well; 503 when one is not."""
    now: Health = health_now()
    parts = [{"name": one.name, "well": one.well, "says": one.says} for one in now.parts]
    status = "ok" if now.well else "ill"
    return Status(200 if now.well else 503, {"status": status, "parts": parts})


@router.get("/session", response=Session, auth=None)
def session(request: HttpRequest) -> Any:
    return _session(request, request.user if request.user.is_authenticated else None)


def _session(request: HttpRequest, person: Any) -> dict[str, object]:
    if person is None:
        return {"name": None, "csrf": get_token(request), "elsewhere": elsewhere.is_offered()}
    return {
        "name": person.get_username(), "csrf": get_token(request), "administrator": person.is_superuser,
        "keeps_library": is_library_keeper(person),
    }  # fmt: skip


@router.post("/session", response=Session, auth=None)
def sign_in(request: HttpRequest, given: SignIn, response: HttpResponse) -> Any:
    """Sign in. After several failures each further one takes longer; then name and address are locked for a while."""
    must_come_from_the_page(request)
    try:
        user = signing.sign_in(request, given.name, given.password)
    except signing.WrongPassword:
        raise HttpError(401, "Name or password is wrong.") from None
    except signing.LockedOut as error:
        raise HttpError(429, str(error)) from None
    return _session(request, user)


@router.post("/session/elsewhere", response=Elsewhere, auth=None)
def begin_elsewhere(request: HttpRequest) -> Any:
    """Begin to sign in at the provider of OpenID Connect that the administrator has set."""
    must_come_from_the_page(request)
    if not elsewhere.is_offered():
        raise HttpError(404, "There is nowhere else to sign in.")
    return {"address": elsewhere.begin(request)}


@router.post("/session/elsewhere/back", response=Session, auth=None)
def back_from_elsewhere(request: HttpRequest, given: CameBack) -> Any:
    """Sign in with what the provider gave the browser."""
    must_come_from_the_page(request)
    if not elsewhere.is_offered():
        raise HttpError(404, "There is nowhere else to sign in.")
    return _session(request, elsewhere.come_back(request, given.code, given.state))


@router.delete("/session", response={204: None})
def sign_out(request: HttpRequest) -> Any:
    note("signed_out", user_of(request), address=address_of(request))
    logout(request)
    return Status(204, None)


@router.get("/sessions", response=list[SessionRow])
def list_sessions(request: HttpRequest) -> Any:
    """Where one is signed in."""
    own = request.session.session_key
    return [
        {
            "id": row.pk, "address": row.address, "agent": row.agent, "began": row.began, "seen": row.seen,
            "own": row.key == own,
        }
        for row in signing.sessions_of(user_of(request))
    ]  # fmt: skip


@router.delete("/sessions/{int:pk}", response={204: None})
def end_session(request: HttpRequest, pk: int) -> Any:
    """Sign oneself out in one place."""
    signing.end_session(user_of(request), pk)
    return Status(204, None)


@router.delete("/sessions", response=Ended)
def end_sessions(request: HttpRequest) -> Any:
    """End all other sessions of one's own, on whatever machine."""
    return {"sessions": signing.end_other_sessions(request, user_of(request))}


@router.put("/password", response={204: None})
def put_password(request: HttpRequest, given: NewPassword) -> Any:
    """Change one's own password; other sessions end by it."""
    signing.change_password(request, user_of(request), given.old, given.new)
    return Status(204, None)


@router.get("/tokens", response=list[TokenRow])
def list_tokens(request: HttpRequest) -> Any:
    """One's own tokens; what they are is shown only when they are made."""
    return tokens.tokens_of(user_of(request))


@router.post("/tokens", response=Token)
def make_token(request: HttpRequest, given: NewToken) -> Any:
    """A token for scripts, shown this once. Send it as Authorization: Bearer TOKEN."""
    return {"token": tokens.make(user_of(request), given.name, given.days, given.right)}


@router.delete("/tokens/{int:pk}", response={204: None})
def revoke_token(request: HttpRequest, pk: int) -> Any:
    """Take a token back; whoever uses it is refused from now on."""
    tokens.revoke(user_of(request), pk)
    return Status(204, None)
