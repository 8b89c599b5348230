"""Sign in, sign out, health, and tokens for scripts."""

from __future__ import annotations

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema, Status
from ninja.errors import HttpError
from ninja.utils import check_csrf

from studio.api.access import user_of
from studio.people.models import AccessToken

router = Router(tags=["session"])


class Health(Schema):
    status: str


class SignIn(Schema):
    name: str
    password: str


class Session(Schema):
    """csrf goes into the header X-CSRFToken of every request that changes something."""

    name: str | None
    csrf: str


class NewToken(Schema):
    name: str


class Token(Schema):
    token: str


@router.get("/health", response=Health, auth=None)
def health(request: HttpRequest):
    return {"status": "ok"}


@router.get("/session", response=Session, auth=None)
def session(request: HttpRequest):
    name = request.user.get_username() if request.user.is_authenticated else None
    return {"name": name, "csrf": get_token(request)}


@router.post("/session", response=Session, auth=None)
def sign_in(request: HttpRequest, given: SignIn):
    # Routes without auth are exempt from the framework's CSRF check, and signing somebody in unasked is an attack too.
    if check_csrf(request):
        raise HttpError(403, "The page is out of date; load it again.")
    user = authenticate(request, username=given.name, password=given.password)
    if user is None:
        raise HttpError(401, "Name or password is wrong.")
    login(request, user)
    return {"name": user.get_username(), "csrf": get_token(request)}


@router.delete("/session", response={204: None})
def sign_out(request: HttpRequest):
    logout(request)
    return Status(204, None)


@router.post("/tokens", response=Token)
def make_token(request: HttpRequest, given: NewToken):
    """A token for scripts, shown this once. Send it as Authorization: Bearer TOKEN."""
    return {"token": AccessToken.make(user_of(request), given.name)}
