"""What open pages are told: nothing is missed without a word, no fault ends the listening, membership is looked at."""

import asyncio
import json

import psycopg
import pytest
from django.contrib.auth.models import AnonymousUser
from django.test import RequestFactory

from studio.api import events
from studio.projects.models import Membership


def all_of(queue):
    found = []
    while not queue.empty():
        found.append(json.loads(queue.get_nowait())["kind"])
    return found


def told(project, kind):
    return json.dumps({"project": project, "kind": kind})


@pytest.fixture
def hub(monkeypatch):
    made = events._Hub()
    monkeypatch.setattr(made, "listener", asyncio.Future(loop=asyncio.new_event_loop()))
    monkeypatch.setattr(events, "_AGAIN_SECONDS", 0)
    return made


def test_a_project_hears_of_its_own_changes_alone(hub):
    mine, other = hub.join(1), hub.join(2)
    hub.hand_on(told(1, "sets"))
    assert (all_of(mine), all_of(other)) == (["sets"], [])


def test_a_page_that_falls_behind_asks_for_everything(hub):
    """The fault: the oldest word was dropped, whatever it had been about."""
    queue = hub.join(1)
    hub.hand_on(told(1, "deliveries"))
    for _ in range(events._LONGEST_QUEUE):
        hub.hand_on(told(1, "job"))
    assert all_of(queue) == ["all"]


@pytest.mark.parametrize("payload", ["", "null", "[]", "{}", "sets", '{"project": []}'])
def test_messages_that_are_none_are_passed_over(hub, payload):
    queue = hub.join(1)
    try:
        hub.hand_on(payload)
    except TypeError:
        pytest.fail("it ended the listening")
    hub.hand_on(told(1, "sets"))
    assert all_of(queue) == ["sets"]


def test_listening_goes_on_after_any_error_and_says_that_something_was_missed(hub, monkeypatch):
    seen = []

    class Line:
        def __init__(self, notes):
            self.notes_ = notes

        async def __aenter__(self):
            return self

        async def __aexit__(self, *_):
            return False

        async def execute(self, words):
            seen.append(words)

        async def notifies(self):
            for note in self.notes_:
                yield note
            raise RuntimeError("something nobody thought of")

    class Note:
        payload = told(1, "sets")

    tries = iter([psycopg.OperationalError("away"), ValueError("odd"), Line([Note]), Line([])])

    async def connect(**_):
        try:
            one = next(tries)
        except StopIteration:
            raise asyncio.CancelledError from None
        if isinstance(one, Exception):
            raise one
        return one

    monkeypatch.setattr(events, "_parameters", dict)
    monkeypatch.setattr(psycopg.AsyncConnection, "connect", connect)
    queue = hub.join(1)
    with pytest.raises(asyncio.CancelledError):
        asyncio.run(hub._listen())
    assert all_of(queue) == ["all"], "after the last gap everything is asked for"
    assert len(seen) == 2


@pytest.mark.django_db
def test_membership_and_session_are_looked_at_again(call, project):
    request = RequestFactory().get("/")
    request.session, request.user = call.client.session, Membership.objects.get().user
    assert events._look_again(request, "ferry") == project.pk
    Membership.objects.all().delete()
    assert events._look_again(request, "ferry") is None


@pytest.mark.django_db
def test_a_session_that_ended_hears_no_more(call, project):
    request = RequestFactory().get("/")
    request.session, request.user = call.client.session, Membership.objects.get().user
    call.client.session.flush()
    assert events._look_again(request, "ferry") is None


@pytest.mark.django_db
def test_a_stranger_hears_nothing(project):
    request = RequestFactory().get("/")
    request.user = AnonymousUser()
    assert events._project_id(request, "ferry") is None
