"""Commands that run beside each other, each telling its own."""

import sys

from ground.command import _Lanes
from ground.places import CHECKOUT


def says(words: str, code: int = 0):
    return ([sys.executable, "-c", f"print({words!r}); raise SystemExit({code})"], CHECKOUT)


def test_all_commands_run_and_are_reported_in_their_order(capfd):
    lanes = _Lanes([says("one"), says("two"), says("three")], {})
    lanes.open()
    lanes.open()
    lanes.join()
    lanes.report()
    assert capfd.readouterr().out.split() == ["one", "two", "three"]
    assert lanes.code == 0


def test_one_that_fails_is_not_forgotten():
    lanes = _Lanes([says("one", 3), says("two")], {})
    lanes.open()
    lanes.join()
    assert lanes.code == 3


def test_what_waits_is_not_begun_once_they_are_stopped():
    lanes = _Lanes([says("one")], {})
    lanes.stop()
    lanes.open()
    lanes.join()
    assert lanes.code == 0
    assert lanes._started == []
