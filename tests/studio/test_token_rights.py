"""Tokens with less than their person's right, on every route that the API's document names."""

import pytest
from django.contrib.auth import get_user_model
from django.test import Client

from studio.people.models import AccessToken
from studio.people.tokens import make
from tests.studio.routes import ROUTES, call

pytestmark = pytest.mark.django_db
CHANGING = [(method, path) for method, path in ROUTES if method not in ("GET", "HEAD", "OPTIONS")]
# What answers and keeps nothing.
ANSWERING = (
    "/api/masters/read",
    "/api/masters/chain",
    "/api/functions/read",
    "/api/functions/draw-out",
    "/api/functions/{name}/into",
)
# Signing in and health ask for no token.
WITHOUT = (
    "/api/session",
    "/api/session/elsewhere",
    "/api/session/elsewhere/back",
    "/api/health",
    "/api/invitations/look",
    "/api/invitations/take",
    "/api/new-password",
)


def status(client, method, path, headers=None):
    return call(client, method, path, headers).status_code


def bearer(user, right):
    return {"Authorization": f"Bearer {make(user, 'script', 30, right)}"}


@pytest.fixture
def owner(sign_in):
    """Somebody who may do everything in the project."""
    sign_in("manage")
    return get_user_model().objects.get()


@pytest.mark.parametrize("right", ["look", "prepare", "rules"])
def test_outside_projects_a_lesser_token_changes_nothing(owner, right):
    outside = [
        one for one in CHANGING if not one[1].startswith("/api/projects/") and one[1] not in (*ANSWERING, *WITHOUT)
    ]
    assert len(outside) >= 15
    headers = bearer(owner, right)
    told = {one: status(Client(), *one, headers) for one in outside}
    assert {one: code for one, code in told.items() if code != 403} == {}


def test_in_projects_a_token_of_a_right_may_what_a_member_of_that_right_may(owner, sign_in):
    """Another one than the other would get only where a route asks who somebody is, and not what they may."""
    # Of the three rights that are not all, the one that has operations above and below.
    right = "prepare"
    member = sign_in(right, "mel").client
    headers = bearer(owner, right)
    inside = [one for one in ROUTES if one[1].startswith("/api/projects/{slug}") and "events" not in one[1]]
    told = {one: (status(Client(), *one, headers), status(member, *one)) for one in inside}
    assert len(told) > 100
    assert {one: codes for one, codes in told.items() if codes[0] != codes[1]} == {}


def test_a_token_with_the_whole_right_is_its_person(owner):
    headers = bearer(owner, "manage")
    assert status(Client(), "GET", "/api/projects", headers) == 200
    assert status(Client(), "POST", "/api/masters", headers) == 422
    assert AccessToken.objects.get().right == "manage"


def test_answers_that_keep_nothing_are_for_every_token(owner):
    headers = bearer(owner, "look")
    told = {path: status(Client(), "POST", path, headers) for path in ANSWERING}
    assert 403 not in told.values()


def test_a_refused_token_says_what_it_lacks(owner):
    answer = Client().post("/api/masters", "{}", "application/json", headers=bearer(owner, "prepare"))
    assert "make one with all rights" in answer.json()["detail"]
    answer = Client().put("/api/projects/ferry/rules/names/x", "{}", "application/json", headers=bearer(owner, "look"))
    assert "This token may look in" in answer.json()["detail"]
