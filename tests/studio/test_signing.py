"""Sign-in: slowed, locked, logged; sessions and tokens end; members and keepers come and go, and all of it is noted."""

import json
from datetime import timedelta

import pytest
from django.contrib.sessions.models import Session
from django.test import Client
from django.utils import timezone

from studio.people.models import AccessToken, LogEntry
from tests.studio.conftest import Caller

pytestmark = pytest.mark.django_db
PASSWORD = "tide-table-9"


def attempt(name="ada", password="wrong", address="192.0.2.1", client=None):
    body = json.dumps({"name": name, "password": password})
    return (client or Client()).post("/api/session", body, "application/json", REMOTE_ADDR=address)


@pytest.fixture
def quick(settings, monkeypatch):
    """Seconds that sign-in would have waited, in place of waiting."""
    waited = []
    monkeypatch.setattr("studio.people.signing.time.sleep", waited.append)
    settings.AXES_FAILURE_LIMIT = 6
    return waited


def test_guessing_is_slowed_and_then_locked_by_name(sign_in, quick):
    sign_in()
    found = [attempt(address=f"192.0.2.{number}").status_code for number in range(8)]
    assert found == [401] * 5 + [429] * 3
    assert quick == sorted(quick), "each further guess waits longer"
    assert len(quick) >= 2
    locked = attempt(password=PASSWORD, address="192.0.2.99")
    assert (locked.status_code, locked.json()["detail"]) == (
        429, "Too many failed attempts. Wait 15 minutes, then try again.",
    )  # fmt: skip


def test_guessing_is_locked_by_address(sign_in, quick):
    sign_in()
    for number in range(6):
        attempt(name=f"name{number}")
    assert attempt(password=PASSWORD).status_code == 429
    assert attempt(password=PASSWORD, address="192.0.2.50").status_code == 200


def test_signing_in_forgets_failures(sign_in, quick):
    sign_in()
    for _ in range(2):
        for _ in range(4):
            attempt()
        assert attempt(password=PASSWORD).status_code == 200


def test_sign_ins_and_refusals_are_logged(sign_in, quick):
    sign_in()
    attempt(name="eve")
    attempt(password=PASSWORD)
    assert list(LogEntry.objects.values_list("event", "name", "address")) == [
        ("signed_in", "ada", "192.0.2.1"), ("sign_in_refused", "eve", "192.0.2.1"),
    ]  # fmt: skip


def test_an_address_that_a_stranger_claims_is_not_believed(sign_in, settings, quick):
    sign_in()
    claimed = {"X-Forwarded-For": "198.51.100.7, 203.0.113.5"}
    for behind, address in ((False, "127.0.0.1"), (True, "203.0.113.5")):
        settings.BEHIND_PROXY = behind
        Client().post("/api/session", '{"name": "x", "password": "y"}', "application/json", headers=claimed)
        assert LogEntry.objects.first().address == address


def test_a_session_ends_when_nobody_uses_it(sign_in, settings):
    call = sign_in()
    Session.objects.update(expire_date=timezone.now() - timedelta(seconds=1))
    call("GET", "/sets", status=401)


def test_a_session_that_is_used_goes_on(sign_in, settings):
    call = sign_in()
    late = timezone.now() + timedelta(seconds=30)
    Session.objects.update(expire_date=late)
    call("GET", "/sets")
    assert Session.objects.get().expire_date > late + timedelta(seconds=settings.SESSION_COOKIE_AGE - 60)


def test_sessions_elsewhere_are_ended(sign_in, quick):
    here = sign_in()
    there = Client()
    attempt(password=PASSWORD, client=there)
    assert Caller(here.client)("DELETE", "/sessions") == {"sessions": 1}
    assert there.get("/api/projects/ferry/sets").status_code == 401
    here("GET", "/sets")


def test_a_new_password_ends_other_sessions(sign_in, quick):
    here, there = sign_in(), Client()
    attempt(password=PASSWORD, client=there)
    change = Caller(here.client)
    change("PUT", "/password", {"old": "wrong", "new": "nine-gulls-over-the-quay"}, 409)
    assert "too short" in change("PUT", "/password", {"old": PASSWORD, "new": "short"}, 409)["detail"]
    change("PUT", "/password", {"old": PASSWORD, "new": "nine-gulls-over-the-quay"}, 204)
    assert there.get("/api/projects/ferry/sets").status_code == 401
    here("GET", "/sets")


def test_tokens_are_listed_and_revoked(sign_in):
    person = Caller(sign_in().client)
    token = person("POST", "/tokens", {"name": "pipeline", "days": 30})["token"]
    headers = {"Authorization": f"Bearer {token}"}
    assert Client().get("/api/projects/ferry/sets", headers=headers).status_code == 200
    (row,) = person("GET", "/tokens")
    assert (row["name"], row["used"] is not None) == ("pipeline", True)
    assert "token" not in row
    person("DELETE", f"/tokens/{row['id']}", status=204)
    assert Client().get("/api/projects/ferry/sets", headers=headers).status_code == 401
    person("DELETE", f"/tokens/{row['id']}", status=404)


def test_tokens_end(sign_in):
    person = Caller(sign_in().client)
    token = person("POST", "/tokens", {"name": "pipeline", "days": 1})["token"]
    AccessToken.objects.update(until=timezone.now() - timedelta(seconds=1))
    assert Client().get("/api/projects", headers={"Authorization": f"Bearer {token}"}).status_code == 401
    for name, days in (("x", 0), ("x", 99999), (" ", 3)):
        person("POST", "/tokens", {"name": name, "days": days}, 409)


def test_members_are_removed(sign_in, project):
    ada, bram = sign_in(), sign_in("look", "bram")
    bram("DELETE", "/members/ada", status=403)
    ada("DELETE", "/members/bram", status=204)
    bram("GET", "/sets", status=404)
    assert "must be left" in ada("DELETE", "/members/ada", status=409)["detail"]
    ada("DELETE", "/members/nobody", status=404)


def test_a_member_may_leave(sign_in):
    sign_in()
    bram = sign_in("look", "bram")
    bram("DELETE", "/members/bram", status=204)
    bram("GET", "/sets", status=404)


def test_a_right_that_was_changed_meanwhile_is_told(sign_in):
    ada = sign_in()
    sign_in("look", "bram")
    row = next(one for one in ada("GET", "/members") if one["name"] == "bram")
    ada("PUT", "/members/bram", {"right": "prepare"}, seen=row["revision"])
    late = ada("PUT", "/members/bram", {"right": "rules"}, 409, seen=row["revision"])
    assert late["newest"]["right"] == "prepare"


def test_the_log_of_a_project_says_who_changed_rights_and_who_was_refused(sign_in):
    ada, bram = sign_in(), sign_in("look", "bram")
    bram("POST", "/undo", status=403)
    ada("PUT", "/members/bram", {"right": "prepare"})
    assert [(one["event"], one["name"]) for one in ada("GET", "/log")] == [
        ("right changed", "ada"), ("refused for want of a right", "bram"),
    ]  # fmt: skip
    bram("GET", "/log", status=403)


def test_a_master_is_changed_by_its_keepers_alone(sign_in, library):
    """The fault: whoever made a project could overwrite the draft that everybody uses."""
    from tests.sheets import a_master

    library("POST", "/masters", a_master())
    stranger = sign_in("rules", "eve")  # in a project of whose rules they decide
    stranger.base = ""
    for method, path, body in (
        ("PUT", "/draft", a_master()), ("POST", "/publish", {}), ("PUT", "/keepers/eve", None),
        ("DELETE", "/keepers/iris", None),
    ):  # fmt: skip
        assert "kept by iris" in stranger(method, f"/masters/stone{path}", body, 403)["detail"]
    assert stranger("GET", "/masters/stone")["may_write"] is False
    assert library("PUT", "/masters/stone/keepers/eve")["keepers"] == ["eve", "iris"]
    stranger("POST", "/masters/stone/publish", {})
    stranger("PUT", "/masters/stone/versions/1.0.0/deprecated", {"deprecated": True})
    stranger("DELETE", "/masters/stone/keepers/iris")
    assert "needs a keeper" in stranger("DELETE", "/masters/stone/keepers/eve", status=409)["detail"]
    library("PUT", "/masters/stone/keepers/nobody", status=404)
