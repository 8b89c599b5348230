"""Comments, mentions, reviews, notices, presence: who is told what, and what a review keeps out of deliveries."""

from datetime import timedelta

import pytest
from django.core import mail as outbox
from django.utils import timezone

from studio.deliveries.refusing import kept_out
from studio.rules.models import target_documents
from studio.sets.models import TextureSet
from studio.team.models import Comment, Notice, Presence
from studio.team.notices import mail
from tests.studio.conftest import Caller
from tests.studio.test_changes import FLIP, a_set
from texel.delivery import parse_target

pytestmark = pytest.mark.django_db


@pytest.fixture
def deck(project):
    return a_set(project, "deck")


@pytest.fixture
def bram(sign_in):
    return sign_in("prepare", "bram")


def told(caller):
    return [one["text"] for one in Caller(caller.client)("GET", "/notices")]


def waits(caller):
    return [(one["kind"], one["text"]) for one in Caller(caller.client)("GET", "/waiting")]


def test_a_comment_stands_at_a_place_in_a_map_and_is_answered(call, bram, deck):
    one, maps = deck
    said = {"text": "Seam here?", "set": one.pk, "map": maps["normal"].pk, "x": 0.25, "y": 0.5}
    first = bram("POST", "/comments", said)
    call("POST", "/comments", {"text": "Yes, mended", "parent": first["id"]})
    (row,) = call("GET", f"/comments?about=sets:{one.pk}")
    assert (row["x"], row["y"], row["map"], row["by"], row["mine"]) == (0.25, 0.5, maps["normal"].pk, "bram", False)
    assert [(answer["text"], answer["mine"]) for answer in row["answers"]] == [("Yes, mended", True)]
    assert told(bram) == ["ada answers at deck: Yes, mended"]


@pytest.mark.parametrize(("said", "status"), [
    ({"text": "x"}, 422), ({"text": " ", "set": 0}, 422), ({"text": "x", "set": 999999}, 404),
    ({"text": "x", "set": 0, "cast": 1}, 422), ({"text": "x", "set": 0, "x": 0.5, "y": 0.5}, 422),
    ({"text": "x", "set": 0, "map": 0, "x": 2, "y": 0.5}, 422), ({"text": "x", "set": 0, "map": 999999}, 404),
    ({"text": "x", "parent": 999999}, 404), ({"text": "x" * 6000, "set": 0}, 422), ({"text": "x", "cast": 999999}, 404),
])  # fmt: skip
def test_a_comment_about_nothing_is_refused(call, deck, said, status):
    one, maps = deck
    there = {"set": one.pk, "map": maps["normal"].pk}
    call(
        "POST",
        "/comments",
        {key: there[key] if value == 0 and key in there else value for key, value in said.items()},
        status,
    )
    assert not Comment.objects.exists()


def test_members_are_mentioned_by_name_and_others_are_not(call, bram, sign_in, deck):
    one, _ = deck
    eve = sign_in(None, "eve")
    row = call("POST", "/comments", {"text": "@bram, look. And @eve, @ada, mail@bram", "set": one.pk})
    assert row["mentions"] == ["ada", "bram"]
    assert told(bram) == ["ada mentions you at deck: @bram, look. And @eve, @ada, mail@bram"]
    assert told(eve) == told(call) == [], "no stranger, and nobody hears of what they did themselves"
    assert waits(bram) == [("mention", "@bram, look. And @eve, @ada, mail@bram")]
    bram("POST", "/comments", {"text": "Done", "parent": row["id"]})
    assert waits(bram) == []


def test_words_are_changed_by_whoever_wrote_them(call, bram, deck):
    one, _ = deck
    row = bram("POST", "/comments", {"text": "Too dark", "set": one.pk})
    call("PATCH", f"/comments/{row['id']}", {"text": "x"}, 409)
    assert bram("PATCH", f"/comments/{row['id']}", {"text": "Too bright @ada"})["edited"]
    assert bram("PATCH", f"/comments/{row['id']}", {"text": "x"}, 409, seen=1)["newest"]["text"] == "Too bright @ada"
    assert len(told(call)) == 1
    call("DELETE", f"/comments/{row['id']}", status=409)
    call("POST", "/comments", {"text": "No", "parent": row["id"]})
    assert "others answered" in bram("DELETE", f"/comments/{row['id']}", status=409)["detail"]


def test_comments_are_settled_and_opened_again(call, bram, deck):
    one, _ = deck
    row = bram("POST", "/comments", {"text": "Too dark @ada", "set": one.pk})
    assert call("PUT", f"/comments/{row['id']}/closed", {"closed": True})["closed_by"] == "ada"
    assert waits(call) == []
    assert call("GET", "/comments?closed=false") == []
    call("PUT", f"/comments/{row['id']}/closed", {"closed": False})
    assert told(bram) == ["ada opened again: Too dark @ada", "ada settled: Too dark @ada"]


def step(caller, state, one, status=200, reason=""):
    return caller("POST", "/reviews", {"sets": [one.pk], "state": state, "reason": reason}, status)


def test_a_set_is_marked_ready_sent_back_with_a_reason_and_approved(call, bram, deck):
    one, _ = deck
    step(bram, "ready", one)
    assert waits(call) == [("approve", "deck")]
    step(bram, "approved", one, 403)
    step(call, "sent_back", one, 422)
    step(call, "sent_back", one, reason="The seam shows")
    assert waits(bram) == [("sent_back", "deck: The seam shows")]
    assert told(bram) == ["ada sends deck back: The seam shows"]
    step(bram, "ready", one)
    step(call, "approved", one)
    assert [row["state"] for row in call("GET", f"/reviews/{one.pk}")] == ["approved", "ready", "sent_back", "ready"]
    assert waits(call) == waits(bram) == []


def test_steps_of_a_review_follow_each_other_all_or_none(call, deck, project):
    one, _ = deck
    two, _ = a_set(project, "quay")
    assert "not in review" in step(call, "approved", one, 409)["detail"]
    step(call, "ready", two)
    call("POST", "/reviews", {"sets": [one.pk, two.pk], "state": "approved"}, 409)
    assert [row["state"] for row in call("GET", "/reviews")] == ["ready"]
    call("POST", "/reviews", {"sets": [one.pk, 999999], "state": "ready"}, 409)


def test_what_changes_after_approval_is_not_approved_any_more(call, deck):
    one, maps = deck
    step(call, "ready", one)
    step(call, "approved", one)
    call("PUT", f"/maps/{maps['normal'].pk}/recipe", {"recipe": FLIP})
    (row,) = call("GET", "/reviews")
    assert (row["state"], row["by"]) == ("changed", "ada")


def test_house_rules_keep_what_is_not_approved_out_of_deliveries(call, deck, project):
    one, _ = deck
    a_set(project, "quay")
    target = parse_target(target_documents(project)[project.target])

    def out():
        return kept_out(list(TextureSet.objects.order_by("pk")), target)

    assert out() == {}
    assert call("PUT", "/approval", {"wanted": True})["approval"] is True
    assert "ask for approval" in out()["deck"]
    step(call, "ready", one)
    step(call, "approved", one)
    assert list(out()) == ["quay"]
    call("PATCH", f"/sets/{one.pk}", {"name": "pier"})
    assert out()["pier"] == "it was changed after it was looked at"
    call("POST", "/undo")
    call("POST", "/undo")
    assert out() == {}, "the rule itself can be taken back"


def test_notices_are_seen_one_by_one_and_all(call, bram, deck):
    one, _ = deck
    for text in ("@bram a", "@bram b", "@bram c"):
        call("POST", "/comments", {"text": text, "set": one.pk})
    person = Caller(bram.client)
    last = person("GET", "/notices")[0]
    assert last["path"] == f"/p/ferry/set/{one.pk}?comment={Comment.objects.last().pk}"
    person("PUT", f"/notices/{last['id']}/seen", status=204)
    assert [bool(row["seen"]) for row in person("GET", "/notices")] == [True, False, False]
    person("PUT", "/notices/seen", status=204)
    assert Notice.objects.filter(seen=None).count() == 0
    Caller(call.client)("PUT", f"/notices/{last['id']}/seen", status=404)


def test_notices_are_mailed_to_whoever_gave_an_address(call, bram, deck, monkeypatch):
    one, _ = deck
    queued = []
    monkeypatch.setattr(mail, "defer", lambda **words: queued.append(words))
    person = Caller(bram.client)
    person("PUT", "/mail", {"address": "no address"}, 422)
    call("POST", "/comments", {"text": "@bram a", "set": one.pk})
    assert queued == []
    person("PUT", "/mail", {"address": "bram@example.com"})
    call("POST", "/comments", {"text": "@bram b\nsecond line", "set": one.pk})
    mail(**queued[0])
    (sent,) = outbox.outbox
    assert (sent.to, sent.subject) == (["bram@example.com"], "Ferry: ada mentions you at deck: @bram b second line")
    assert f"/p/ferry/set/{one.pk}" in sent.body


def test_who_has_the_same_open_is_known_until_their_window_is_silent(call, bram, deck):
    one, _ = deck
    about = f"sets:{one.pk}"
    bram("PUT", "/presence", {"tab": "t1", "about": about, "editing": True}, 204)
    assert call("GET", f"/presence?about={about}") == [{"person": "bram", "about": about, "editing": True}]
    assert bram("GET", "/presence") == [], "oneself is not told"
    Presence.objects.update(seen=timezone.now() - timedelta(minutes=2))
    assert call("GET", "/presence") == []
    bram("PUT", "/presence", {"tab": "t1", "about": about}, 204)
    bram("DELETE", "/presence/t1", status=204)
    assert call("GET", "/presence") == []
    bram("PUT", "/presence", {"tab": "t1", "about": "<b>"}, 422)


def test_comments_of_another_project_cannot_be_reached(call, sign_in, deck):
    one, _ = deck
    row = call("POST", "/comments", {"text": "x", "set": one.pk})
    eve = sign_in(None, "eve")
    for method, path in (("GET", "/comments"), ("PATCH", f"/comments/{row['id']}"), ("GET", f"/reviews/{one.pk}")):
        eve(method, path, {"text": "x"} if method == "PATCH" else None, 404)


def test_notices_of_a_project_that_one_left_are_not_shown(call, bram, deck):
    one, _ = deck
    call("POST", "/comments", {"text": "@bram, secret plans", "set": one.pk})
    call("DELETE", "/members/bram", status=204)
    assert told(bram) == waits(bram) == []
