"""Sign-in by OpenID Connect against a stand-in provider (OpenID Connect Core 1.0; RFC 7636 for PKCE)."""

import time
from urllib.parse import parse_qs, urlsplit

import pytest
import requests
from django.contrib.auth import get_user_model
from django.test import Client
from joserfc.jwk import RSAKey

from studio.people import elsewhere
from studio.people.models import ForeignIdentity, LogEntry
from tests.provider import CLIENT, SECRET, Provider

pytestmark = pytest.mark.django_db


@pytest.fixture
def provider(settings):
    made = Provider()
    settings.OIDC_ISSUER, settings.OIDC_CLIENT, settings.OIDC_SECRET = made.issuer, CLIENT, SECRET
    settings.OIDC_NAME, settings.ADDRESS = "Harbour sign-in", "http://testserver"
    elsewhere._discovered.clear()
    yield made
    made.stop()


@pytest.fixture
def mira(db):
    return get_user_model().objects.create_user("mira.k", "Mira@example.com")


def begun(client):
    answer = client.post("/api/session/elsewhere")
    assert answer.status_code == 200, answer.content
    back = requests.get(answer.json()["address"], allow_redirects=False, timeout=10).headers["Location"]
    return {name: values[0] for name, values in parse_qs(urlsplit(back).query).items()}


def signed_in(client, given=None):
    return client.post("/api/session/elsewhere/back", given or begun(client), "application/json")


def test_an_account_with_the_verified_mail_address_is_entered_and_remembered(provider, mira):
    client = Client()
    assert client.get("/api/session").json()["elsewhere"] == "Harbour sign-in"
    assert signed_in(client).json()["name"] == "mira.k"
    assert client.get("/api/sessions").status_code == 200
    provider.claims["email"] = "changed@example.com"
    assert signed_in(Client()).json()["name"] == "mira.k", "the identity counts from now on"
    assert LogEntry.objects.filter(event="signed_in", person=mira).count() == 2


@pytest.mark.parametrize("verified", [False, "true", None])
def test_an_address_that_the_provider_has_not_verified_opens_nothing(provider, mira, verified):
    provider.claims["email_verified"] = verified
    answer = signed_in(Client())
    assert (answer.status_code, "not known here" in answer.json()["detail"]) == (403, True)


def test_an_administrator_is_not_entered_by_a_mail_address(provider, mira):
    get_user_model().objects.filter(pk=mira.pk).update(is_superuser=True)
    assert signed_in(Client()).status_code == 403


def test_accounts_are_made_where_the_administrator_says_so(provider, settings):
    settings.OIDC_MAKES_ACCOUNTS = True
    get_user_model().objects.create_user("mira")
    assert signed_in(Client()).json()["name"] == "mira2"
    made = get_user_model().objects.get(username="mira2")
    assert (made.has_usable_password(), made.memberships.count()) == (False, 0)


def test_a_closed_account_stays_closed(provider, mira):
    signed_in(Client())
    get_user_model().objects.filter(pk=mira.pk).update(is_active=False)
    answer = signed_in(Client())
    assert (answer.status_code, "closed" in answer.json()["detail"]) == (403, True)


def test_a_code_works_once_and_only_where_it_was_begun(provider, mira):
    client, thief = Client(), Client()
    given = begun(client)
    begun(thief)
    assert signed_in(thief, given).status_code == 502, "another session"
    assert signed_in(client, given).status_code == 200
    assert signed_in(client, given).status_code == 502, "used already"
    assert signed_in(Client(), {"code": "x", "state": ""}).status_code == 502


@pytest.mark.parametrize(
    "wrong",
    [
        {"iss": "https://elsewhere.example"}, {"aud": "another"}, {"nonce": "another"}, {"exp": int(time.time()) - 600},
        {"aud": [CLIENT, "another"]},
    ],
)  # fmt: skip
def test_tokens_that_are_not_for_this_sign_in_are_not_believed(provider, mira, wrong):
    provider.wrong = wrong
    assert signed_in(Client()).status_code == 502
    assert not ForeignIdentity.objects.exists()


@pytest.mark.parametrize("kid", ["one", "two"])
def test_a_signature_by_another_key_is_not_believed_and_one_by_a_renewed_key_is(provider, mira, kid):
    assert signed_in(Client()).status_code == 200
    provider.key = RSAKey.generate_key(2048, {"kid": kid})
    assert signed_in(Client()).status_code == 502
    provider.published = provider.key
    assert signed_in(Client()).status_code == 200, "though the former key is remembered"


def test_a_provider_that_is_away_is_told(provider, settings):
    provider.stop()
    answer = Client().post("/api/session/elsewhere")
    assert (answer.status_code, "does not answer" in answer.json()["detail"]) == (502, True)


def test_without_a_provider_there_is_no_button(settings):
    settings.OIDC_ISSUER = ""
    assert Client().get("/api/session").json()["elsewhere"] == ""
    assert Client().post("/api/session/elsewhere").status_code == 404


def test_a_forged_request_cannot_begin(provider):
    assert Client(enforce_csrf_checks=True).post("/api/session/elsewhere").status_code == 403
