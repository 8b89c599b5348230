"""Threads are shared out among those that work at the moment."""

import multiprocessing
import subprocess
import sys
import threading

import cv2
import numpy as np
import pytest

from texel import strips, threads


@pytest.fixture
def four(monkeypatch, tmp_path):
    """Four threads for all, and a folder of those at work; what was known of others before is put back."""
    monkeypatch.setenv("FAIR_TEXEL_THREADS", "4")
    for name in ("folder", "own", "process", "looked", "others"):
        monkeypatch.setattr(threads._Share, name, getattr(threads._Share, name))
    return tmp_path / "at-work"


# Takes part, says so, and works until its input ends.
_OTHER = (
    "import sys; from pathlib import Path; from texel.threads import take_part, may_use;"
    " take_part(Path(sys.argv[1])); print(may_use(), flush=True); sys.stdin.read()"
)


def _start(folder):
    other = subprocess.Popen(
        [sys.executable, "-c", _OTHER, str(folder)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    return other, int(other.stdout.readline())


def test_a_process_alone_may_use_all(four):
    assert threads.may_use() == 4
    threads.take_part(four)
    assert threads.may_use() == 4


@pytest.mark.parametrize(("all_together", "each_has"), [("4", 2), ("1", 1)])
def test_two_that_work_have_half_each_and_one_that_ended_leaves_all(four, monkeypatch, all_together, each_has):
    monkeypatch.setenv("FAIR_TEXEL_THREADS", all_together)
    threads.take_part(four)
    other, its = _start(four)
    threads._Share.looked = 0
    assert (threads.may_use(), its) == (each_has, each_has)
    other.kill()
    other.wait()
    threads._Share.looked = 0
    assert threads.may_use() == int(all_together)
    assert [path.name for path in four.iterdir()] == [str(threads._Share.process)]


def test_work_within_work_starts_no_more_threads(four):
    def inner(at):
        return threading.get_ident()

    def outer(at):
        return set(threads.each(inner, range(8))), threading.get_ident()

    for inside, own in threads.each(outer, range(4)):
        assert inside == {own}


def test_opencv_starts_none_of_its_own_beside_ours(four):
    inside = threads.each(lambda at: cv2.getNumThreads(), range(4))
    assert set(inside) == {1}
    assert threads.may_use() == cv2.getNumThreads() == 4


def _work_with_opencv():
    field = np.random.default_rng(0).random((2048, 2048), np.float32)
    cv2.GaussianBlur(field, (31, 31), 5)
    threads.each(lambda at: cv2.GaussianBlur(field, (31, 31), 5), range(4))
    assert threads.may_use() >= 1


def test_a_forked_process_works_on_though_opencv_had_threads(four):
    """The fault: telling OpenCV of another number of threads waited for those of the parent, for ever."""
    _work_with_opencv()
    child = multiprocessing.get_context("fork").Process(target=_work_with_opencv)
    child.start()
    child.join(120)
    child.kill()
    assert child.exitcode == 0
    _work_with_opencv()


def test_an_error_in_a_thread_is_raised(four):
    with pytest.raises(ZeroDivisionError):
        threads.each(lambda at: 1 // at, [1, 0])


@pytest.mark.parametrize("wrap", [True, False])
@pytest.mark.parametrize("height", [1, 3, 40])
def test_rows_around_a_strip_are_those_of_the_other_side_or_the_last(height, wrap):
    array = np.arange(height)[:, None]
    found = strips.rows_around(array, slice(0, min(2, height)), 5, wrap)[:, 0]
    wanted = np.pad(array[:, 0], 5, mode="wrap" if wrap else "edge")[: min(2, height) + 10]
    np.testing.assert_array_equal(found, wanted)


def test_what_is_filled_strip_by_strip_is_whole():
    wanted = np.arange(1000 * 700).reshape(1000, 700)
    np.testing.assert_array_equal(strips.filled((1000, 700), np.dtype(np.int64), lambda rows: wanted[rows]), wanted)
    assert len(strips.strips(1000, 700)) > 1
