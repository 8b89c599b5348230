"""Invitations, hand over, accounts, links for a new password, sessions: each works once, ends, and is noted."""

from datetime import timedelta

import pytest
from django.contrib.auth import get_user_model
from django.test import Client
from django.utils import timezone

from studio.people.models import Invitation, LogEntry, OpenSession, ResetLink
from studio.projects.models import Membership
from tests.studio.conftest import Caller

pytestmark = pytest.mark.django_db
PASSWORD = "nine-gulls-over-the-quay"


def anybody():
    return Caller(Client())


@pytest.fixture
def ada(sign_in):
    return sign_in()


@pytest.fixture
def admin(sign_in):
    root = sign_in(None, "root")
    get_user_model().objects.filter(username="root").update(is_superuser=True)
    return Caller(root.client)


def invited(ada, right="prepare", **more):
    return ada("POST", "/invitations", {"right": right, "about": "Bram", **more})["secret"]


def taken(secret, status=200, who=None, **account):
    return (who or anybody())("POST", "/invitations/take", {"secret": secret, **account}, status)


def test_a_newcomer_joins_by_an_invitation_and_is_signed_in(ada):
    secret = invited(ada)
    assert secret not in str(Invitation.objects.values_list())
    newcomer = anybody()
    told = newcomer("POST", "/invitations/look", {"secret": secret})
    assert (told["project"], told["right"], told["by"]) == ("Ferry", "prepare", "ada")
    assert taken(secret, who=newcomer, name="bram", password=PASSWORD) == {"slug": "ferry"}
    assert newcomer("GET", "/session")["name"] == "bram"
    assert {one["name"]: one["right"] for one in ada("GET", "/members")}["bram"] == "prepare"


def test_an_invitation_works_once(ada, sign_in):
    secret = invited(ada)
    taken(secret, name="bram", password=PASSWORD)
    assert "used, taken back, or has ended" in taken(secret, 404, name="cleo", password=PASSWORD)["detail"]
    assert not get_user_model().objects.filter(username="cleo").exists(), "all or nothing"
    assert ada("GET", "/invitations") == []


def test_an_invitation_ends_and_can_be_taken_back(ada):
    ended, back = invited(ada), invited(ada)
    Invitation.objects.filter(pk=Invitation.objects.last().pk).update(until=timezone.now() - timedelta(seconds=1))
    (row,) = ada("GET", "/invitations")
    ada("DELETE", f"/invitations/{row['id']}", status=204)
    for secret in (ended, back, "guessed"):
        anybody()("POST", "/invitations/look", {"secret": secret}, 404)
    ada("DELETE", f"/invitations/{row['id']}", status=404)


def test_an_invitation_gives_a_member_more_and_never_less(ada, sign_in):
    bram = Caller(sign_in("prepare", "bram").client)
    taken(invited(ada, "look"), who=bram)
    assert Membership.objects.get(user__username="bram").right == "prepare"
    taken(invited(ada, "rules"), who=bram)
    assert Membership.objects.get(user__username="bram").right == "rules"


@pytest.mark.parametrize(("account", "status"), [
    ({}, 401), ({"name": "bram", "password": "short"}, 409), ({"name": "ADA", "password": PASSWORD}, 409),
    ({"name": "b ram", "password": PASSWORD}, 422), ({"name": "b" * 200, "password": PASSWORD}, 422),
])  # fmt: skip
def test_what_makes_no_account_leaves_the_invitation_as_it_was(ada, account, status):
    secret = invited(ada)
    taken(secret, status, **account)
    taken(secret, name="bram", password=PASSWORD)


@pytest.mark.parametrize("given", [{"right": "own"}, {"right": "look", "days": 0}, {"right": "look", "days": 999}])
def test_an_invitation_that_says_nothing_sensible_is_refused(ada, given):
    ada("POST", "/invitations", given, 422)


def test_only_who_manages_invites(ada, sign_in):
    sign_in("rules", "bram")("POST", "/invitations", {"right": "look"}, 403)


def test_a_project_is_handed_over(ada, sign_in):
    bram = sign_in("prepare", "bram")
    ada("POST", "/hand-over", {"to": "nobody"}, 404)
    ada("POST", "/hand-over", {"to": "ada"}, 422)
    assert {one["name"]: one["right"] for one in ada("POST", "/hand-over", {"to": "bram", "keep": "look"})} == {
        "ada": "look", "bram": "manage",
    }  # fmt: skip
    ada("POST", "/invitations", {"right": "look"}, 403)
    sign_in("look", "cleo")
    bram("POST", "/hand-over", {"to": "cleo"})
    bram("GET", "/sets", status=404)
    assert LogEntry.objects.filter(event="handed_over").count() == 2


def test_an_administrator_makes_accounts_and_links_for_passwords(admin):
    first = admin("POST", "/people", {"name": "bram"})["secret"]
    admin("POST", "/people", {"name": "Bram"}, 409)
    again = admin("POST", "/people/bram/reset")["secret"]
    assert (
        "used, taken back" in anybody()("POST", "/new-password", {"secret": first, "password": PASSWORD}, 404)["detail"]
    )
    anybody()("POST", "/new-password", {"secret": again, "password": "short"}, 409)
    anybody()("POST", "/new-password", {"secret": again, "password": PASSWORD}, 204)
    anybody()("POST", "/new-password", {"secret": again, "password": PASSWORD}, 404)
    assert anybody()("POST", "/session", {"name": "bram", "password": PASSWORD})["name"] == "bram"


def test_a_link_for_a_password_ends(admin, sign_in):
    sign_in(None, "bram")
    secret = admin("POST", "/people/bram/reset")["secret"]
    ResetLink.objects.update(until=timezone.now() - timedelta(seconds=1))
    anybody()("POST", "/new-password", {"secret": secret, "password": PASSWORD}, 404)


def test_a_new_password_opens_what_guessing_had_locked(admin, sign_in, settings):
    settings.AXES_FAILURE_LIMIT = 2
    sign_in(None, "bram")
    for status in (401, 429):
        Caller(Client(REMOTE_ADDR="192.0.2.7"))("POST", "/session", {"name": "bram", "password": "x"}, status)
    secret = admin("POST", "/people/bram/reset")["secret"]
    anybody()("POST", "/new-password", {"secret": secret, "password": PASSWORD}, 204)
    anybody()("POST", "/session", {"name": "bram", "password": PASSWORD})


def test_a_closed_account_is_signed_in_nowhere_and_opens_again(admin, sign_in):
    bram = sign_in("look", "bram")
    token = Caller(bram.client)("POST", "/tokens", {"name": "x"})["token"]
    assert admin("PATCH", "/people/bram", {"active": False})["active"] is False
    bram("GET", "/sets", status=401)
    assert Client().get("/api/projects", headers={"Authorization": f"Bearer {token}"}).status_code == 401
    assert admin("PATCH", "/people/bram", {"active": True})["active"] is True
    bram("GET", "/sets")


def test_administrators_cannot_close_themselves(admin):
    assert "your own account" in admin("PATCH", "/people/root", {"active": False}, 409)["detail"]


def test_an_administrator_says_who_keeps_the_library(admin, sign_in):
    from tests.sheets import a_master

    eve = Caller(sign_in("rules", "eve").client)
    assert "is for its keepers" in eve("POST", "/masters", a_master(), 403)["detail"]
    assert eve("GET", "/session")["keeps_library"] is False
    assert admin("PATCH", "/people/eve", {"keeps_library": True})["keeps_library"] is True
    eve("POST", "/masters", a_master())
    admin("PATCH", "/people/eve", {"keeps_library": False})
    assert [one.event for one in LogEntry.objects.filter(event__startswith="library")] == [
        "library_keeper_removed", "library_keeper_added",
    ]  # fmt: skip


def test_accounts_are_listed_for_administrators_alone(admin, ada):
    rows = {one["name"]: one for one in admin("GET", "/people")}
    assert (rows["ada"]["projects"], rows["ada"]["keeps_library"], rows["root"]["administrator"]) == (1, True, True)
    Caller(ada.client)("GET", "/people", status=403)


def test_sessions_are_listed_and_ended_one_by_one(sign_in):
    sign_in()
    here, there = anybody(), Caller(Client(headers={"User-Agent": "Paper boat"}))
    for one in (here, there):
        one("POST", "/session", {"name": "ada", "password": "tide-table-9"})
        one("GET", "/projects")
    rows = {one["own"]: one for one in here("GET", "/sessions")}
    assert rows[False]["agent"] == "Paper boat"
    here("DELETE", f"/sessions/{rows[False]['id']}", status=204)
    there("GET", "/projects", status=401)
    assert [one["own"] for one in here("GET", "/sessions")] == [True]
    here("DELETE", f"/sessions/{rows[False]['id']}", status=404)


def test_sessions_that_have_ended_leave_the_list(sign_in):
    sign_in()
    here = anybody()
    here("POST", "/session", {"name": "ada", "password": "tide-table-9"})
    here("GET", "/projects")
    here("DELETE", "/session", status=204)
    here("POST", "/session", {"name": "ada", "password": "tide-table-9"})
    here("GET", "/projects")
    assert len(here("GET", "/sessions")) == OpenSession.objects.count() == 1


def test_an_administrator_signs_somebody_out_everywhere(admin, ada):
    assert admin("DELETE", "/people/ada/sessions")["sessions"] == 1
    ada("GET", "/sets", status=401)


@pytest.mark.parametrize("how", ["removed", "right", "closed"])
def test_invitations_of_somebody_who_may_no_longer_invite_end(ada, admin, sign_in, how):
    """Whoever is taken out could come in again by a link that they had made before."""
    bram = sign_in("manage", "bram")
    secret = invited(bram, "manage")
    if how == "removed":
        ada("DELETE", "/members/bram", status=204)
    elif how == "right":
        ada("PUT", "/members/bram", {"right": "look"})
    else:
        admin("PATCH", "/people/bram", {"active": False})
    anybody()("POST", "/invitations/look", {"secret": secret}, 404)
    assert ada("GET", "/invitations") == []


def test_links_for_passwords_end_with_the_account_of_whoever_made_them(admin, sign_in):
    sign_in(None, "cleo")
    second = sign_in(None, "second")
    get_user_model().objects.filter(username="second").update(is_superuser=True)
    secret = Caller(second.client)("POST", "/people/cleo/reset")["secret"]
    admin("PATCH", "/people/second", {"active": False})
    anybody()("POST", "/new-password", {"secret": secret, "password": PASSWORD}, 404)


def test_a_change_of_an_account_is_made_whole_or_not_at_all(admin):
    admin("PATCH", "/people/root", {"keeps_library": True, "active": False}, 409)
    assert not get_user_model().objects.get(username="root").groups.exists()
