"""One job's work shared out over processes: all is done, one progress, and a process that dies takes its own along."""

import os
import signal
from functools import partial

import pytest
from django.contrib.auth import get_user_model

from studio.jobs.models import Job
from studio.jobs.progress import LeaseLost, Progress
from studio.jobs.sharing import share_out
from studio.projects.models import Project
from studio.sets import judging
from tests.pictures import simple_set

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def progress(project):
    job = Job.objects.create(project=project, kind="judge", title="x", state=Job.State.RUNNING, attempt=1)
    return Progress(job, 1)


def work(piece, dies=None, lost=None, fails=None):
    if piece == dies:
        os.kill(os.getpid(), signal.SIGKILL)
    if piece == lost:
        raise LeaseLost
    if piece == fails:
        raise ValueError("a fault of ours")
    return piece


def test_every_piece_is_done_once_by_several_processes(progress):
    done = share_out(range(1, 41), work, progress, 3)
    assert (done.total, done.ended) == (820, [])
    assert Job.objects.get().total == 40


def test_few_pieces_are_done_here(progress):
    assert share_out([5, 6], work, progress, 3).total == 11


def test_a_process_that_dies_takes_only_its_own_piece_along(progress):
    done = share_out(range(1, 41), partial(work, dies=7), progress, 2)
    assert (done.total, done.ended) == (813, [7])


def counting(piece):
    """Asks the database again and again, and dies at every tenth piece."""
    for _ in range(20):
        assert Job.objects.filter(pk__gt=0).count() == 1
    return work(piece, dies=piece if piece % 10 == 0 else None)


def test_a_process_that_takes_over_has_a_connection_of_its_own(progress, monkeypatch):
    """The fault: it was forked with the one that its parent had opened to report, and both spoke on it."""
    monkeypatch.setattr("studio.jobs.progress._EVERY_SECONDS", 0)
    done = share_out(range(1, 61), counting, progress, 2)
    assert sorted(done.ended) == [10, 20, 30, 40, 50, 60]
    assert done.total == sum(range(1, 61)) - 210


def test_a_job_that_another_holds_is_given_up(progress):
    with pytest.raises(LeaseLost):
        share_out(range(1, 41), partial(work, lost=7), progress, 2)


def test_a_fault_of_our_own_fails_the_job(progress):
    with pytest.raises(RuntimeError, match="failed"):
        share_out(range(1, 41), partial(work, fails=7), progress, 2)


@pytest.mark.parametrize("count", [5, 18], ids=["one by one", "in groups"])
def test_a_set_whose_files_end_the_reader_is_told_so_and_the_others_are_judged(
    count, settings, monkeypatch, take_in, call, run_jobs, tmp_path
):
    for stem in ("fir", *(f"oak{letter}wood" for letter in "abcdefghijklmnopq"[: count - 1])):
        simple_set(tmp_path / "in", stem, n=16)
    take_in(tmp_path / "in")
    settings.JUDGE_PROCESSES = 2
    judge = judging.judge_set

    def deadly(one, *more):
        if one.name == "fir":
            os.kill(os.getpid(), signal.SIGKILL)
        return judge(one, *more)

    monkeypatch.setattr(judging, "judge_set", deadly)
    judging.judge_again(Project.objects.get(slug="ferry"), get_user_model().objects.get(username="ada"))
    run_jobs()
    sets = {one["name"]: one for one in call("GET", "/sets")["sets"]}
    assert all(one["judged"] for one in sets.values())
    assert {name for name, one in sets.items() if one["errors"]} == {"fir"}
    assert "ended the process" in sets["fir"]["headline"]
