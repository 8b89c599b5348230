"""Jobs survive: the database away, a place in the queue lost, too much time, memory or processor."""

import os
import time
from datetime import timedelta

import pytest
from django.db import OperationalError, connection
from django.utils import timezone

from studio.health import health_now
from studio.jobs import child, registry, tasks
from studio.jobs.away import EXIT_AWAY
from studio.jobs.models import Job
from studio.jobs.queue import MAX_ATTEMPTS, enqueue, give_back, take_up
from studio.jobs.rescue import jobs_without_place, place_again, rescue_stalled
from studio.jobs.watching import memory_of_tree

pytestmark = pytest.mark.django_db


def places(job):
    """How often a job stands in the queue."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT count(*) FROM procrastinate_jobs WHERE (args ->> 'job_id')::bigint = %s AND status = 'todo'",
            [job.pk],
        )
        return cursor.fetchone()[0]


def forget_places():
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")


@pytest.fixture
def job(project):
    return enqueue(project, "judge", "Judge deck", sets=[])


def test_a_job_that_lost_its_place_gets_one_again(job):
    """The fault: of ten jobs that were asked for while the database was started again, six waited for ever."""
    forget_places()
    assert place_again() == 0, "not while it may still be on its way"
    Job.objects.update(created=timezone.now() - timedelta(minutes=1))
    assert jobs_without_place() == [job.pk]
    assert (place_again(), places(job)) == (1, 1)
    assert place_again() == 0


def test_jobs_of_a_dead_worker_are_all_taken_up_again_and_told(project, caplog):
    """The fault: what the queue keeps of a job comes as text, so that the round ended at the first one."""
    jobs = [enqueue(project, "judge", f"Judge {n}", sets=[]) for n in range(2)]
    with connection.cursor() as cursor:
        cursor.execute("UPDATE procrastinate_jobs SET status = 'doing', worker_id = NULL")
    assert rescue_stalled() == 2
    assert [places(job) for job in jobs] == [1, 1]
    assert {record.getMessage() for record in caplog.records} >= {
        f"job {job.pk} is taken up again: its worker died" for job in jobs
    }


def test_an_attempt_that_nobody_finished_is_taken_up_again(job):
    take_up(job.pk)
    forget_places()
    past = timezone.now() - timedelta(minutes=1)
    Job.objects.update(created=past, started=past)
    assert (place_again(), places(job)) == (1, 1)
    assert take_up(job.pk).attempt == 2


def test_jobs_that_ended_are_left_alone(job):
    forget_places()
    Job.objects.update(created=timezone.now() - timedelta(minutes=1), state=Job.State.DONE)
    assert place_again() == 0


def test_attempts_that_the_database_ended_do_not_count(job):
    for number in range(1, MAX_ATTEMPTS + 3):
        assert take_up(job.pk).attempt == number
        give_back(job.pk, number)
    for _ in range(MAX_ATTEMPTS):
        assert take_up(job.pk) is not None
    assert take_up(job.pk) is None
    job.refresh_from_db()
    assert (job.state, job.message) == ("failed", "given up: its worker died each time")


def test_another_attempts_job_is_not_given_back(job):
    take_up(job.pk)
    take_up(job.pk)
    give_back(job.pk, 1)
    job.refresh_from_db()
    assert job.state == Job.State.RUNNING


def test_a_job_during_which_the_database_goes_is_no_failure(job, monkeypatch):
    def away(*_):
        raise OperationalError("server closed the connection unexpectedly")

    ended = []
    kind = registry.kind_of("judge")
    monkeypatch.setitem(registry._kinds, "judge", registry.Kind("judge", away, 1, 0, None))
    monkeypatch.setattr(child, "die_with", lambda worker: None)
    monkeypatch.setattr(child, "take_part", lambda folder: None)
    monkeypatch.setattr(child, "_limit", lambda job_id: None)
    monkeypatch.setattr(child.os, "_exit", ended.append)
    monkeypatch.setattr(child.signal, "signal", lambda *_: None)
    take_up(job.pk)
    child.run(job.pk, 1, os.getpid())
    job.refresh_from_db()
    assert (ended, job.state) == ([EXIT_AWAY], Job.State.RUNNING)
    assert kind.priority == 0


class Child:
    """A process as the worker watches it, that ends only when it is killed."""

    def __init__(self):
        self.pid, self.killed = os.getpid(), False

    def is_alive(self):
        return not self.killed

    def join(self, seconds=None):
        time.sleep(0.01)

    def kill(self):
        self.killed = True


@pytest.mark.parametrize(
    ("minutes", "limit", "words"),
    [(0.0001, 1 << 50, "longer than the 0.0001 minutes"), (60, 1 << 20, "more than the 1 MB that a job may use")],
)
def test_a_job_has_so_much_time_and_memory(job, settings, monkeypatch, minutes, limit, words):
    settings.JOB_BYTES = limit
    monkeypatch.setitem(
        registry._kinds, "judge", registry.Kind("judge", registry.kind_of("judge").run, minutes, 0, None)
    )
    process = Child()
    state, message = tasks._watched(process, job)
    assert (state, process.killed) == (Job.State.FAILED, True)
    assert words in message


def test_memory_counts_what_a_process_started_too():
    before = memory_of_tree(os.getpid())
    read, write = os.pipe()
    pid = os.fork()
    if pid == 0:
        held = bytearray(b"x" * (64 << 20))
        os.write(write, b"!")
        time.sleep(60)
        os._exit(len(held) & 1)
    os.read(read, 1)
    try:
        assert memory_of_tree(os.getpid()) - before > 48 << 20
    finally:
        os.kill(pid, 9)
        os.waitpid(pid, 0)


def test_a_fault_of_ours_names_no_path_of_this_machine(job, monkeypatch):
    def fault(*_):
        raise FileNotFoundError("/var/lib/secret/place")

    monkeypatch.setitem(registry._kinds, "judge", registry.Kind("judge", fault, 1, 0, None))
    take_up(job.pk)
    child.run(job.pk, 1)
    job.refresh_from_db()
    assert "/var" not in job.message
    assert "FileNotFoundError" in job.message


def test_every_kind_that_is_queued_anywhere_is_registered():
    import re
    from pathlib import Path

    queued = set()
    for path in Path("studio").rglob("*.py"):
        queued |= set(re.findall(r"enqueue\(\s*[\w.]+, \"(\w+)\"", path.read_text()))
    registry.load()
    assert queued
    assert queued <= set(registry._kinds)


def test_health_tells_what_is_not_well(client, job, monkeypatch, settings, tmp_path):
    settings.STORE_ROOT = tmp_path / "store"

    def parts():
        monkeypatch.setattr("studio.health._last", None)
        return {one.name: one for one in health_now().parts}

    found = parts()
    assert {name: one.well for name, one in found.items()} == {
        "database": True, "store": True, "queue": True, "workers": False,
    }  # fmt: skip
    assert "./ft worker" in found["workers"].says
    forget_places()
    Job.objects.update(created=timezone.now() - timedelta(minutes=5))
    assert "without a place" in parts()["queue"].says
    settings.STORE_ROOT = tmp_path / "file" / "store"
    (tmp_path / "file").write_text("in the way")
    told = parts()["store"]
    assert (told.well, str(tmp_path) in told.says) == (False, False)
    settings.DATABASES = {"default": {**settings.DATABASES["default"], "PORT": "1"}}
    away = parts()
    assert (away["database"].says, away["queue"].well) == ("does not answer", False)
    monkeypatch.setattr("studio.health._last", None)
    assert client.get("/api/health").status_code == 503


def test_the_keeper_of_the_workers_goes_on_after_its_connection_was_cut(monkeypatch, capsys, settings):
    """The fault: after the database had been started again, it looked for stalled jobs on the old line for ever."""
    from django.core.management import call_command
    from django.db import connections

    from studio.management.commands import work

    closed, rounds = [], []

    def cut():
        rounds.append(1)
        if len(rounds) < 3:
            raise OperationalError("server closed the connection unexpectedly")
        raise KeyboardInterrupt

    class Worker:
        def poll(self):
            return None

    monkeypatch.setattr(work, "rescue_stalled", cut)
    monkeypatch.setattr(work, "_start", Worker)
    monkeypatch.setattr(work.time, "sleep", lambda seconds: None)
    monkeypatch.setattr(work.signal, "signal", lambda *_: None)
    monkeypatch.setattr(work, "close_old_connections", lambda: None)
    monkeypatch.setattr(type(connections), "close_all", lambda self: closed.append(len(rounds)))
    with pytest.raises(KeyboardInterrupt):
        call_command("work", processes=1)
    assert closed == [1, 2]
    assert "OperationalError: server closed" in capsys.readouterr().err


def test_a_worker_ends_with_its_keeper(monkeypatch):
    from django.core.management import call_command

    from studio.management.commands import work

    told = []
    monkeypatch.setattr(work, "die_with", told.append)
    monkeypatch.setattr(work, "_run_one", lambda: told.append("runs"))
    call_command("work", one=4711)
    assert told == [4711, "runs"]
