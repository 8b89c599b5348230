"""Tokens with less than their person's right, on every route that the API's document names."""

import json
from pathlib import Path

import pytest
from django.contrib.auth import get_user_model
from django.test import Client

from studio.people.models import AccessToken
from studio.people.tokens import make

pytestmark = pytest.mark.django_db
ROUTES = [
    (method.upper(), path)
    for path, methods in json.loads(Path("studio/api/openapi.json").read_text())["paths"].items()
    for method in methods
]
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
WITHOUT = ("/api/session", "/api/health")


def filled(path):
    """The path with a project that there is, and things in it that there are not."""
    path = path.replace("{slug}", "ferry")
    while "{" in path:
        before, _, rest = path.partition("{")
        name, _, after = rest.partition("}")
        path = f"{before}{'nothing' if name in ('name', 'number', 'person') else 999999}{after}"
    return path


def status(client, method, path, headers=None):
    return client.generic(method, filled(path), "{}", "application/json", headers=headers).status_code


def bearer(user, right):
    return {"Authorization": f"Bearer {make(user, 'script', 30, right)}"}


@pytest.fixture
def owner(sign_in):
    """Somebody who may do everything in the project."""
    sign_in("rules")
    return get_user_model().objects.get()


@pytest.mark.parametrize("right", ["look", "prepare"])
def test_outside_projects_a_lesser_token_changes_nothing(owner, right):
    outside = [
        one for one in CHANGING if not one[1].startswith("/api/projects/") and one[1] not in (*ANSWERING, *WITHOUT)
    ]
    assert len(outside) >= 15
    headers = bearer(owner, right)
    told = {one: status(Client(), *one, headers) for one in outside}
    assert {one: code for one, code in told.items() if code != 403} == {}


@pytest.mark.parametrize("right", ["look", "prepare"])
def test_in_projects_a_token_of_a_right_may_what_a_member_of_that_right_may(owner, sign_in, right):
    """Another one than the other would get only where a route asks who somebody is, and not what they may."""
    member = sign_in(right, "mel").client
    headers = bearer(owner, right)
    inside = [one for one in ROUTES if one[1].startswith("/api/projects/{slug}") and "events" not in one[1]]
    told = {one: (status(Client(), *one, headers), status(member, *one)) for one in inside}
    assert len(told) > 100
    assert {one: codes for one, codes in told.items() if codes[0] != codes[1]} == {}


def test_a_token_with_the_whole_right_is_its_person(owner):
    headers = bearer(owner, "rules")
    assert status(Client(), "GET", "/api/projects", headers) == 200
    assert status(Client(), "POST", "/api/masters", headers) == 422
    assert AccessToken.objects.get().right == "rules"


def test_answers_that_keep_nothing_are_for_every_token(owner):
    headers = bearer(owner, "look")
    told = {path: status(Client(), "POST", path, headers) for path in ANSWERING}
    assert 403 not in told.values()


def test_a_refused_token_says_what_it_lacks(owner):
    answer = Client().post("/api/masters", "{}", "application/json", headers=bearer(owner, "prepare"))
    assert "make one that may set rules" in answer.json()["detail"]
    answer = Client().put("/api/projects/ferry/rules/names/x", "{}", "application/json", headers=bearer(owner, "look"))
    assert "This token may look in" in answer.json()["detail"]
