"""Who may do what, and what the server lets through."""

import json
import os
import subprocess
import sys

import pytest
from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.test import Client

from studio.management.commands.openapi import OPENAPI, openapi_text
from tests.studio.conftest import Caller

pytestmark = pytest.mark.django_db


def test_strangers_learn_nothing(sign_in):
    stranger = sign_in(None, "eve")
    for path in ("/sets", "/intakes", "/deliveries", "/jobs", "/targets", ""):
        stranger("GET", path, status=404)
    Caller(Client(), "/projects/ferry")("GET", "/sets", status=401)


def test_rights_grow_from_look_to_prepare_to_rules(sign_in):
    look, prepare, rules = sign_in("look", "cleo"), sign_in("prepare", "bram"), sign_in("rules", "ada")
    assert "right to prepare" in look("POST", "/intakes", {"name": "x"}, 403)["detail"]
    look("POST", "/undo", status=403)
    look("GET", "/sets")
    prepare("POST", "/intakes", {"name": "x"})
    prepare("PUT", "/targets/mine", {}, 403)
    rules("PUT", "/targets/mine", {}, 422)


def test_another_projects_things_cannot_be_reached_by_number(sign_in, project):
    from studio.projects.models import Project
    from studio.sets.models import TextureSet

    other = Project.objects.create(slug="other", name="Other")
    theirs = TextureSet.objects.create(project=other, name="x")
    sign_in()("GET", f"/sets/{theirs.pk}", status=404)


def test_signing_in_needs_the_csrf_token(sign_in):
    sign_in()
    client = Client(enforce_csrf_checks=True)
    body = json.dumps({"name": "ada", "password": "tide-table-9"})
    assert client.post("/api/session", body, "application/json").status_code == 403
    token = client.get("/api/session").json()["csrf"]
    wrong = client.post("/api/session", body.replace("9", "8"), "application/json", headers={"X-CSRFToken": token})
    assert wrong.status_code == 401
    right = client.post("/api/session", body, "application/json", headers={"X-CSRFToken": token})
    assert right.json()["name"] == "ada"
    # Signed in, a change without the token is refused too.
    assert client.post("/api/projects/ferry/undo").status_code == 403


def test_scripts_sign_in_with_tokens(sign_in):
    person = sign_in()
    token = Caller(person.client)("POST", "/tokens", {"name": "pipeline"})["token"]
    bare = Client(enforce_csrf_checks=True)
    headers = {"Authorization": f"Bearer {token}"}
    assert bare.get("/api/projects/ferry/sets", headers=headers).status_code == 200
    assert bare.post("/api/projects/ferry/undo", headers=headers).status_code == 200
    assert bare.get("/api/projects/ferry/sets", headers={"Authorization": "Bearer x"}).status_code == 401


def test_projects_are_made_with_a_slug_of_their_own(sign_in):
    call = Caller(sign_in(None, "eve").client, "/projects")
    assert [call("POST", "", {"name": "Salt & Tin"})["slug"] for _ in range(2)] == ["salt-tin", "salt-tin-2"]
    call("POST", "", {"name": " "}, 422)
    assert len(call("GET", "")) == 2


def test_every_answer_forbids_other_hosts(client):
    answer = client.get("/api/health")
    assert "default-src 'self'" in answer.headers["Content-Security-Policy"]
    assert client.get("/api/health", headers={"host": "example.test"}).status_code == 400


def test_the_openapi_document_is_up_to_date():
    """`./ft manage openapi` renews it, `npm run client` the page's client."""
    assert OPENAPI.read_text() == openapi_text()


def test_answers_of_the_api_are_not_kept_and_ask_for_nothing(sign_in):
    answer = sign_in().client.get("/api/projects/ferry/sets")
    assert answer.headers["Cache-Control"] == "no-store"
    assert "camera=()" in answer.headers["Permissions-Policy"]
    assert "Access-Control-Allow-Origin" not in answer.headers


@pytest.mark.parametrize("path", ["/", "/index.html", "/api/session", "/assets/x.js"])
def test_another_hosts_requests_are_refused(path):
    answer = Client().get(path, headers={"Host": "elsewhere.example"})
    assert (answer.status_code, answer.json()) == (400, {"detail": "This server does not answer for that host."})


@pytest.mark.parametrize("password", ["short-one", "123456789012345", "password1234", "ada-lovelace"])
def test_weak_passwords_are_refused(password):
    person = get_user_model()(username="ada-lovelace")
    with pytest.raises(ValidationError):
        validate_password(password, person)
    validate_password("nine-gulls-over-the-quay", person)


def test_behind_https_cookies_travel_over_nothing_else():
    """Settings are read once, so that a process of its own tells."""
    words = (
        "from studio import settings as s; print(s.SESSION_COOKIE_SECURE, s.CSRF_COOKIE_SECURE, s.SECURE_HSTS_SECONDS)"
    )
    env = {**os.environ, "FAIR_TEXEL_HTTPS": "1"}
    told = subprocess.run([sys.executable, "-c", words], env=env, capture_output=True, text=True, check=True)
    assert told.stdout.split() == ["True", "True", "31536000"]
