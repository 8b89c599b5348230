"""Risky work runs in children with limits; beyond them people are told to come again."""

import asyncio
import threading
import time

import pytest
from django.test import Client

from studio.apart.pool import Pool
from studio.apart.work import Busy, Ended
from studio.gate import Gate
from tests import work_apart
from tests.studio.conftest import Caller
from texel.errors import BadDocument

MEGABYTE = 1 << 20


@pytest.fixture
def pool(tmp_path):
    made = Pool(1, 400 * MEGABYTE, 60, tmp_path, own_share=2, everybody=4, patience=20)
    yield made
    made.close()


def run(pool, work, person=1, near="", **arguments):
    return pool.run(work.name, arguments, person, near)


def test_work_is_done_in_another_process_and_comes_back(pool):
    import os

    made = run(pool, work_apart.told, word="quay")
    assert made.data == b"quay"
    assert made.said["process"] != os.getpid()
    assert run(pool, work_apart.told, word="x").said == made.said, "the same child goes on"


def test_a_refusal_comes_back_as_one(pool):
    with pytest.raises(BadDocument, match=r"it is too \{small\}") as told:
        run(pool, work_apart.refused, word="too {small}")
    assert told.value.message.document() == {"key": "it is {word}", "values": {"word": "too {small}"}}


def test_a_process_that_dies_takes_only_its_own_work_along(pool):
    with pytest.raises(Ended, match="no reader"):
        run(pool, work_apart.dying)
    assert run(pool, work_apart.told, word="a").data == b"a"


def test_work_has_so_much_memory(pool):
    with pytest.raises(Ended, match="more than the 400 MB"):
        run(pool, work_apart.eating, megabytes=900)
    assert run(pool, work_apart.told, word="a").data == b"a"


def test_work_has_so_much_time(pool):
    run(pool, work_apart.told, word="warm")
    pool.seconds = 0.3
    with pytest.raises(Ended, match=r"longer than the 0\.3 seconds"):
        run(pool, work_apart.sleeping, seconds=600)
    pool.seconds = 60
    assert run(pool, work_apart.told, word="a").data == b"a"


def test_only_what_is_meant_for_it_runs_there(pool):
    with pytest.raises(RuntimeError):
        pool.run("tests.work_apart:not_meant_for_this", {}, 1)
    with pytest.raises(RuntimeError):
        pool.run("os:getcwd", {}, 1)


def occupied(pool, person, count, found):
    """Start work that others have to wait behind, and wait until all of it stands in the queue."""

    def ask():
        try:
            run(pool, work_apart.sleeping, person, seconds=1.5)
            found.append(person)
        except Busy as error:
            found.append(error.status)

    threads = []
    for _ in range(count):
        before = len(pool._waiting) + pool._at_work + len(found)
        threads.append(threading.Thread(target=ask))
        threads[-1].start()
        while len(pool._waiting) + pool._at_work + len(found) == before:
            time.sleep(0.01)
    return threads


def test_one_person_may_wait_for_so_much_and_everybody_for_so_much(pool):
    run(pool, work_apart.told, word="warm")
    found: list = []
    threads = occupied(pool, 1, 3, found)
    with pytest.raises(Busy) as own:
        run(pool, work_apart.told, 1, word="x")
    threads += occupied(pool, 2, 2, found)
    with pytest.raises(Busy) as all_:
        run(pool, work_apart.told, 3, word="x")
    for thread in threads:
        thread.join()
    assert (own.value.status, all_.value.status) == (429, 503)
    assert sorted(found) == [1, 1, 1, 2, 2]


def test_turns_go_round_by_person(pool):
    run(pool, work_apart.told, word="warm")
    pool.own_share = 10
    found: list = []
    threads = occupied(pool, 1, 3, found) + occupied(pool, 2, 1, found)
    for thread in threads:
        thread.join()
    assert found.index(2) <= 1, "who asked for one thing does not wait for all three of the other"


def test_two_servers_share_the_places_of_the_machine(pool, tmp_path):
    run(pool, work_apart.told, word="warm")
    other = Pool(1, 400 * MEGABYTE, 60, tmp_path, patience=0.2)
    with pool._slot(), pytest.raises(Busy) as told:
        run(other, work_apart.told, word="x")
    assert told.value.status == 503
    other.patience = 20
    assert run(other, work_apart.told, word="x").data == b"x"
    other.close()


@pytest.mark.django_db
def test_busy_is_an_answer_that_says_when_to_come_again(call, monkeypatch, take_in, tmp_path):
    from studio.apart import work
    from tests.pictures import simple_set

    simple_set(tmp_path / "in", "deck", n=16)
    one = take_in(tmp_path / "in")["sets"][0]["maps"][0]

    def full(*_):
        raise Busy(429, "You have asked for very many pictures at once. Try again in a moment.")

    monkeypatch.setattr(work._Runs, "apart", full)
    answer = call("GET", f"/maps/{one['id']}/picture?side=33", status=429)
    assert "at once" in answer["detail"]
    assert call.client.get(f"/api{call.base}/maps/{one['id']}/histogram").headers["Retry-After"] == "2"


@pytest.mark.django_db
def test_what_is_ready_needs_no_child(call, monkeypatch, take_in, tmp_path):
    from studio.apart import work
    from tests.pictures import simple_set

    simple_set(tmp_path / "in", "deck", n=16)
    one = take_in(tmp_path / "in")["sets"][0]["maps"][0]
    addresses = ["picture?side=12", "tile/0/0/0", "misread/normal_as_srgb?side=8"]
    before = [call("GET", f"/maps/{one['id']}/{address}").content for address in addresses]
    monkeypatch.setattr(work._Runs, "apart", lambda *_: pytest.fail("a child was asked"))
    assert [call("GET", f"/maps/{one['id']}/{address}").content for address in addresses] == before


# Before a body is read.


def through(headers, path="/api/projects", body=(b"",)):
    """What the gate answers, and how much of the body was taken; 0 when the application was reached."""
    taken, sent = [], []
    pieces = list(body)

    async def receive():
        taken.append(pieces.pop(0) if pieces else b"")
        return {"type": "http.request", "body": taken[-1], "more_body": bool(pieces)}

    async def send(message):
        sent.append(message)

    async def application(scope, receive, send):
        while (message := await receive())["type"] == "http.request" and message["more_body"]:
            pass
        await send({"type": "http.response.start", "status": 0 if message["type"] == "http.request" else -1})

    scope = {"type": "http", "method": "POST", "path": path, "headers": headers}
    asyncio.run(Gate(application)(scope, receive, send))
    return sent[0]["status"], sum(map(len, taken))


@pytest.mark.parametrize(
    ("headers", "path", "status"),
    [
        ([(b"content-length", b"20")], "/api/session", 0),
        ([(b"content-length", b"9999999999")], "/api/projects/x/intakes/1/files", 413),
        ([(b"content-length", b"50000000")], "/api/projects", 413),
        ([(b"content-length", b"soon")], "/api/projects", 400),
    ],
)
def test_bodies_that_are_too_large_are_not_read(headers, path, status):
    found, taken = through(headers, path, [b"x" * 20])
    assert found == status
    assert taken == (20 if status == 0 else 0)


@pytest.mark.django_db(transaction=True)
def test_large_bodies_are_read_of_people_who_are_signed_in(sign_in):
    person = sign_in()
    session = person.client.cookies["sessionid"].value.encode()
    token = Caller(person.client)("POST", "/tokens", {"name": "x"})["token"].encode()
    large = (b"content-length", b"2000000")
    for extra, status in (
        ([], 401), ([(b"cookie", b"sessionid=" + session)], 0), ([(b"authorization", b"Bearer " + token)], 0),
        ([(b"cookie", b"sessionid=nothing")], 401), ([(b"authorization", b"Bearer nothing")], 401),
    ):  # fmt: skip
        assert through([large, *extra])[0] == status
    assert through([(b"transfer-encoding", b"chunked")])[0] == 401
    assert Client().get("/api/session").status_code == 200


@pytest.mark.django_db(transaction=True)
def test_bodies_without_a_length_end_where_they_become_too_large(sign_in, settings):
    settings.DATA_UPLOAD_MAX_MEMORY_SIZE = 1000
    session = sign_in().client.cookies["sessionid"].value.encode()
    headers = [(b"transfer-encoding", b"chunked"), (b"cookie", b"sessionid=" + session)]
    assert through(headers, body=[b"x" * 400] * 2)[0] == 0
    assert through(headers, body=[b"x" * 400] * 10) == (-1, 1200)
