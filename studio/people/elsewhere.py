"""Sign in where people are known already: OpenID Connect Core 1.0, authorization code flow with PKCE (RFC 7636).

The page begins, the browser goes to the provider and comes back to the page with a code, and the server asks for what
the code stands for. What belongs together is kept in the session, which no other site can make a browser send.
"""

from __future__ import annotations

import re
import secrets
import time
from collections.abc import Mapping
from typing import Any

import requests
from authlib.integrations.base_client.errors import OAuthError
from authlib.integrations.requests_client import OAuth2Session
from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import IntegrityError, transaction
from django.http import HttpRequest
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from studio.people.address import address_of
from studio.people.log import note
from studio.people.models import ForeignIdentity
from studio.people.signing import enter
from texel.errors import ToldError

__all__ = ["NotKnown", "ProviderRefuses", "begin", "come_back", "is_offered"]

_KEPT = "elsewhere"
_BACK_SECONDS, _PATIENCE = 600, 10
_DISCOVERED_SECONDS = 3600
# Signatures by a key of the provider alone: none, and those by a shared secret, are no proof.
_ALGORITHMS = ["RS256", "RS384", "RS512", "PS256", "PS384", "PS512", "ES256", "ES384", "ES512", "EdDSA"]
_discovered: dict[str, tuple[float, Mapping[str, Any]]] = {}


class ProviderRefuses(ToldError):
    """The provider said no, does not answer, or what it said cannot be believed."""


class NotKnown(ToldError):
    """The provider knows the person, and this studio does not."""


def is_offered() -> str:
    """What the button says, "" where no provider is set."""
    return settings.OIDC_NAME if settings.OIDC_ISSUER and settings.OIDC_CLIENT else ""


def _asked(address: str) -> Mapping[str, Any]:
    """A document of the provider, remembered for an hour. Raises ProviderRefuses."""
    known = _discovered.get(address)
    if known is not None and known[0] > time.monotonic():
        return known[1]
    try:
        answer = requests.get(address, timeout=_PATIENCE, allow_redirects=False)
        answer.raise_for_status()
        document = answer.json()
    except (requests.RequestException, ValueError) as error:
        raise ProviderRefuses("{name} does not answer; try again in a while", name=settings.OIDC_NAME) from error
    if not isinstance(document, dict):
        raise ProviderRefuses("{name} does not answer as it should", name=settings.OIDC_NAME)
    _discovered[address] = (time.monotonic() + _DISCOVERED_SECONDS, document)
    return document


def _provider() -> Mapping[str, Any]:
    """OpenID Connect Discovery 1.0. Raises ProviderRefuses."""
    issuer = settings.OIDC_ISSUER.rstrip("/")
    told = _asked(f"{issuer}/.well-known/openid-configuration")
    needed = ("authorization_endpoint", "token_endpoint", "jwks_uri")
    if str(told.get("issuer", "")).rstrip("/") != issuer or not all(isinstance(told.get(one), str) for one in needed):
        raise ProviderRefuses("{name} does not answer as it should", name=settings.OIDC_NAME)
    return told


def _session() -> OAuth2Session:
    return OAuth2Session(
        settings.OIDC_CLIENT, settings.OIDC_SECRET or None, scope="openid profile email",
        redirect_uri=f"{settings.ADDRESS}/sign-in", code_challenge_method="S256",
        token_endpoint_auth_method="client_secret_basic" if settings.OIDC_SECRET else "none",
    )  # fmt: skip


def begin(request: HttpRequest) -> str:
    """The address at the provider where the browser is to go. Raises ProviderRefuses."""
    verifier, nonce = secrets.token_urlsafe(48), secrets.token_urlsafe(24)
    address, state = _session().create_authorization_url(
        _provider()["authorization_endpoint"], code_verifier=verifier, nonce=nonce
    )
    request.session[_KEPT] = {"state": state, "verifier": verifier, "nonce": nonce, "at": time.time()}
    return str(address)


def come_back(request: HttpRequest, code: str, state: str) -> Any:
    """The person, signed in. Raises ProviderRefuses, NotKnown."""
    kept = request.session.pop(_KEPT, None) or {}
    same = secrets.compare_digest(str(kept.get("state", "")).encode(), state.encode()) and bool(state)
    if not same or time.time() - kept.get("at", 0) > _BACK_SECONDS:
        raise ProviderRefuses("This sign-in was not begun here, or took too long. Try again.")
    provider = _provider()
    try:
        told = _session().fetch_token(
            provider["token_endpoint"], code=code, code_verifier=kept["verifier"], timeout=_PATIENCE,
            grant_type="authorization_code",
        )  # fmt: skip
    except (OAuthError, requests.RequestException, ValueError) as error:
        raise ProviderRefuses("{name} refuses this sign-in; try again", name=settings.OIDC_NAME) from error
    claims = _believed(provider, str(told.get("id_token", "")), kept["nonce"])
    person = _person(claims)
    if not person.is_active:
        note("sign_in_refused", person, "closed account", address_of(request))
        raise NotKnown("This account is closed. Ask an administrator of the studio.")
    enter(request, person)
    return person


def _believed(provider: Mapping[str, Any], token: str, nonce: str) -> dict[str, Any]:
    """The claims of an ID token that is the provider's, for us, for this sign-in, and not too old (Core 3.1.3.7)."""
    for attempt in (1, 2):
        try:
            keys = KeySet.import_key_set(_asked(provider["jwks_uri"]))  # type: ignore[arg-type]
            claims = dict(jwt.decode(token, keys, algorithms=_ALGORITHMS).claims)
            registry = jwt.JWTClaimsRegistry(
                leeway=60, iss={"essential": True, "value": provider["issuer"]},
                aud={"essential": True, "value": settings.OIDC_CLIENT}, exp={"essential": True},
                sub={"essential": True}, nonce={"essential": True, "value": nonce},
            )  # fmt: skip
            registry.validate(claims)
        except (JoseError, ValueError, KeyError, TypeError) as error:
            if attempt == 1:
                _discovered.pop(provider["jwks_uri"], None)  # it may sign with a newer key
                continue
            raise ProviderRefuses("What {name} says cannot be believed; try again", name=settings.OIDC_NAME) from error
        audiences = claims["aud"] if isinstance(claims["aud"], list) else [claims["aud"]]
        if len(audiences) > 1 and claims.get("azp") != settings.OIDC_CLIENT:
            raise ProviderRefuses("What {name} says is not meant for this studio", name=settings.OIDC_NAME)
        return claims
    raise AssertionError("the second attempt answers or raises")


def _person(claims: Mapping[str, Any]) -> Any:
    """Whose identity it is: one that was seen before; else, for the first time, the account with the same verified mail
    address; else a new one, where the administrator lets accounts be made so. Raises NotKnown."""
    issuer, subject = str(claims["iss"]), str(claims["sub"])[:255]
    known = ForeignIdentity.objects.select_related("person").filter(issuer=issuer, subject=subject).first()
    if known is not None:
        return known.person
    mail = str(claims.get("email", "")) if claims.get("email_verified") is True else ""
    people = get_user_model().objects
    same = list(people.filter(email__iexact=mail)[:2]) if mail else []
    with transaction.atomic():
        if len(same) == 1 and not same[0].is_superuser:
            person = same[0]
        elif settings.OIDC_MAKES_ACCOUNTS:
            person = _made(claims, mail)
        else:
            raise NotKnown(
                "{called} is not known here. Ask an administrator of the studio for an account with your mail address.",
                called=str(claims.get("preferred_username") or mail or "This identity")[:80],
            )
        ForeignIdentity.objects.create(person=person, issuer=issuer, subject=subject)
    return person


def _made(claims: Mapping[str, Any], mail: str) -> Any:
    wanted = str(claims.get("preferred_username") or mail.partition("@")[0] or "person")
    wanted = re.sub(r"[^\w.@+-]", "", wanted)[:140] or "person"
    people = get_user_model().objects
    name, count = wanted, 1
    while people.filter(username__iexact=name).exists():
        count += 1
        name = f"{wanted}{count}"
    try:
        person = people.create_user(name, mail)
    except IntegrityError as error:
        raise ProviderRefuses("Somebody was made at this moment; try again") from error
    note("account_made", person, f"{name}, by {settings.OIDC_NAME}")
    return person
