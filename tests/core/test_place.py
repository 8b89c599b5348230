"""A folder that deliveries are kept in step with: whole whatever happens, one at a time, never over a stranger."""

import json
import os
import shutil
import subprocess
import threading
import time
from pathlib import Path

import pytest

from texel import digest
from texel.delivery.drift import Choice, Kind
from texel.delivery.files_there import OURS
from texel.delivery.place import Drifted, FolderPlace
from texel.errors import DeliveryRefused, PlaceBusy

FIRST = {
    "deck/deck_color.png": b"one",
    "deck/deck_orm.png": b"two",
    "hull/hull_color.png": b"three",
    "manifest.json": b"{}",
}
SECOND = {"deck/deck_color.png": b"other", "pier/pier_color.png": b"new", "manifest.json": b"{ }"}


def bring(root, files, supply=None, **choices):
    """Deliver files, path to bytes, as a worker does: built elsewhere, then brought."""
    place = FolderPlace(root)
    built = root.parent / "built"
    shutil.rmtree(built, ignore_errors=True)
    for path, data in files.items():
        (built / path).parent.mkdir(parents=True, exist_ok=True)
        (built / path).write_bytes(data)
    with place.held():
        return place.bring({p: digest.of_bytes(data) for p, data in files.items()}, supply or built.joinpath, **choices)


def lying(root) -> dict[str, bytes]:
    """What lies in a folder, our own part of it left out."""
    paths = [one for one in root.rglob("*") if one.is_file() and OURS not in one.parts]
    return {one.relative_to(root).as_posix(): one.read_bytes() for one in paths}


def written(path: Path) -> tuple[int, int]:
    """Which file it is and when it was written last; when it was read last is no matter of ours."""
    found = path.stat()
    return found.st_ino, found.st_mtime_ns


def kinds(root, wanted=None):
    return {one.path: (one.kind, one.asks) for one in FolderPlace(root).drift(wanted)}


def test_what_is_not_wanted_any_more_goes_and_the_rest_is_not_touched(tmp_path):
    root = tmp_path / "art"
    bring(root, FIRST)
    (root / "deck/notes.txt").write_text("theirs")
    before = written(root / "deck/deck_orm.png")
    brought = bring(root, SECOND | {"deck/deck_orm.png": b"two"})
    assert lying(root) == SECOND | {"deck/deck_orm.png": b"two", "deck/notes.txt": b"theirs"}
    assert brought.removed == ("hull/hull_color.png",)
    assert not (root / "hull").exists()
    assert written(root / "deck/deck_orm.png") == before


def test_only_what_is_not_there_is_asked_for(tmp_path):
    bring(tmp_path / "art", FIRST)
    asked = []

    def supply(path):
        asked.append(path)
        return tmp_path / "built" / path

    bring(tmp_path / "art", FIRST | {"deck/deck_orm.png": b"changed"}, supply)
    assert asked == ["deck/deck_orm.png"]


@pytest.mark.parametrize("second", [SECOND, {}], ids=["other files", "nothing"])
def test_killed_anywhere_the_folder_is_the_former_or_the_new_one(tmp_path, second):
    """Every step on the file system may be the last one of the process. The next who holds the folder puts it right."""
    seen = set()
    for steps in range(200):
        root = tmp_path / str(steps) / "art"
        root.parent.mkdir()
        bring(root, FIRST)
        status = _in_child(steps, lambda root=root: bring(root, second))
        with FolderPlace(root).held():
            state = lying(root)
        assert state in (FIRST, second), steps
        assert set(FolderPlace(root).ledger().files) == set(state), steps
        assert [one.name for one in (root / OURS).iterdir() if one.name not in ("lock", "ledger.json")] == []
        assert kinds(root) == {}
        seen.add(state == second)
        if status == 0:
            break
    assert seen == {False, True}
    assert steps > 15


def _in_child(steps: int, work) -> int:
    """Do something in a process that ends at a step on the file system; its exit status."""
    child = os.fork()
    if child == 0:
        _die_after(steps)
        work()
        os._exit(0)
    return os.waitpid(child, 0)[1]


def _die_after(steps: int) -> None:
    left = [steps]

    def dying(function):
        def call(*args, **more):
            if left[0] == 0:
                os._exit(9)
            left[0] -= 1
            return function(*args, **more)

        return call

    for name in ("rename", "replace", "unlink", "rmdir", "mkdir", "fsync"):
        setattr(os, name, dying(getattr(os, name)))


@pytest.mark.parametrize("first", range(8, 26, 3))
def test_putting_back_may_be_interrupted_too(tmp_path, first):
    for second in range(10):
        root = tmp_path / str(second) / "art"
        root.parent.mkdir()
        bring(root, FIRST)
        _in_child(first, lambda root=root: bring(root, SECOND))
        _in_child(second, lambda root=root: FolderPlace(root).drift())
        with FolderPlace(root).held():
            assert lying(root) in (FIRST, SECOND)
        assert kinds(root) == {}


def test_a_stranger_in_the_way_is_told_before_anything_is_written(tmp_path):
    root = tmp_path / "art"
    (root / "deck").mkdir(parents=True)
    (root / "deck/deck_color.png").write_bytes(b"painted by hand")
    with pytest.raises(Drifted, match=r"deck_color\.png.*Nothing was written") as told:
        bring(root, FIRST)
    assert [(one.path, one.kind) for one in told.value.drift] == [("deck/deck_color.png", Kind.IN_THE_WAY)]
    assert lying(root) == {"deck/deck_color.png": b"painted by hand"}


def test_a_file_is_kept_or_overwritten_as_chosen_and_asked_about_once(tmp_path):
    root = tmp_path / "art"
    bring(root, FIRST)
    (root / "deck/deck_color.png").write_bytes(b"retouched")
    (root / "deck/deck_orm.png").write_bytes(b"retouched too")
    choices = {"deck/deck_color.png": Choice.KEEP, "deck/deck_orm.png": Choice.OVERWRITE}
    brought = bring(root, FIRST, choices=choices)
    assert brought.kept == ("deck/deck_color.png",)
    assert lying(root) == FIRST | {"deck/deck_color.png": b"retouched"}
    assert bring(root, FIRST | {"deck/deck_color.png": b"newer"}).kept == ("deck/deck_color.png",)
    (root / "deck/deck_color.png").write_bytes(b"retouched again")
    with pytest.raises(Drifted, match="deck_color"):
        bring(root, FIRST)


def test_what_others_removed_comes_back_unless_it_is_to_stay_away(tmp_path):
    root = tmp_path / "art"
    bring(root, FIRST)
    (root / "deck/deck_orm.png").unlink()
    assert kinds(root) == {"deck/deck_orm.png": (Kind.MISSING, False)}
    bring(root, FIRST, choices={"deck/deck_orm.png": Choice.KEEP})
    assert "deck/deck_orm.png" not in bring(root, FIRST).written
    assert not (root / "deck/deck_orm.png").exists()
    bring(root, FIRST, choices={"deck/deck_orm.png": Choice.OVERWRITE})
    assert lying(root) == FIRST


def test_what_others_added_among_ours_is_told_and_asks_nothing(tmp_path):
    root = tmp_path / "art"
    bring(root, FIRST)
    (root / "deck/deck_mask.png").write_bytes(b"theirs")
    (root / "level.map").write_bytes(b"not among ours")
    assert kinds(root) == {"deck/deck_mask.png": (Kind.ADDED, False)}


def test_an_edit_of_the_same_size_and_time_is_found_by_reading(tmp_path):
    root = tmp_path / "art"
    bring(root, FIRST)
    path = root / "deck/deck_orm.png"
    there = path.stat()
    ledger = root / OURS / "ledger.json"
    document = json.loads(ledger.read_text())
    ledger.write_text(json.dumps(document | {"written_ns": document["written_ns"] + 3 * 10**9}))
    path.write_bytes(b"owt")
    os.utime(path, ns=(there.st_atime_ns, there.st_mtime_ns))
    assert kinds(root) == {}
    assert [one.path for one in FolderPlace(root).drift(thorough=True)] == ["deck/deck_orm.png"]


@pytest.mark.parametrize("text", ["{", "[]", '{"format": "another"}'])
def test_a_ledger_that_cannot_be_read_costs_time_and_no_file(tmp_path, text):
    root = tmp_path / "art"
    bring(root, FIRST)
    (root / OURS / "ledger.json").write_text(text)
    bring(root, FIRST)
    assert lying(root) == FIRST
    assert set(FolderPlace(root).ledger().files) == set(FIRST)


@pytest.mark.parametrize("jump", [-3600, 3600])
def test_a_clock_that_jumps_hides_no_edit(tmp_path, monkeypatch, jump):
    root = tmp_path / "art"
    now = time.time_ns
    monkeypatch.setattr(time, "time_ns", lambda: now() + jump * 10**9)
    bring(root, FIRST)
    monkeypatch.undo()
    (root / "deck/deck_orm.png").write_bytes(b"edited")
    assert kinds(root) == {"deck/deck_orm.png": (Kind.CHANGED, False)}


def test_two_at_once_the_second_waits_or_is_told(tmp_path):
    root = tmp_path / "art"
    held, done = threading.Event(), threading.Event()

    def first():
        with FolderPlace(root).held():
            held.set()
            done.wait()

    thread = threading.Thread(target=first)
    thread.start()
    held.wait()
    with pytest.raises(PlaceBusy, match="another delivery"), FolderPlace(root).held():
        pass
    threading.Timer(0.3, done.set).start()
    with FolderPlace(root).held(wait=60):
        pass
    thread.join()


def test_names_that_differ_in_case_alone_are_told(tmp_path):
    root = tmp_path / "art"
    (root / "deck").mkdir(parents=True)
    (root / "deck/Deck_Color.png").write_bytes(b"theirs")
    with pytest.raises(DeliveryRefused, match=r"Deck_Color\.png lies where deck/deck_color\.png.*case"):
        bring(root, FIRST)
    (root / "deck/Deck_Color.png").unlink()
    bring(root, FIRST)
    renamed = {path.replace("deck_color", "Deck_Color"): data for path, data in FIRST.items()}
    bring(root, renamed)
    assert lying(root) == renamed


def test_nothing_is_written_through_a_link_that_leads_elsewhere(tmp_path):
    root = tmp_path / "art"
    root.mkdir()
    (tmp_path / "elsewhere").mkdir()
    (root / "deck").symlink_to(tmp_path / "elsewhere")
    with pytest.raises(DeliveryRefused, match="outside"):
        bring(root, FIRST)
    assert list((tmp_path / "elsewhere").iterdir()) == []


def test_bytes_that_changed_on_the_way_are_not_delivered(tmp_path):
    bring(tmp_path / "art", FIRST)

    def supply(path):
        (tmp_path / "spoilt").write_bytes(b"spoilt")
        return tmp_path / "spoilt"

    with pytest.raises(DeliveryRefused, match="changed on the way"):
        bring(tmp_path / "art", SECOND, supply)
    assert lying(tmp_path / "art") == FIRST


def test_a_file_that_somebody_reads_meanwhile_stays_whole_for_them(tmp_path):
    root = tmp_path / "art"
    bring(root, FIRST)
    with (root / "deck/deck_color.png").open("rb") as reader:
        bring(root, SECOND)
        assert reader.read() == b"one"


def test_a_folder_that_vanishes_in_the_middle_is_told(tmp_path):
    root = tmp_path / "art"
    bring(root, FIRST)

    def supply(path):
        shutil.rmtree(root, ignore_errors=True)
        return tmp_path / "built" / path

    with pytest.raises(DeliveryRefused, match="not there any more"):
        bring(root, SECOND, supply)


@pytest.fixture
def small_disk(tmp_path):
    """A file system of one mebibyte; only the machine's owner may make one."""
    root = tmp_path / "disk"
    root.mkdir()
    made = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=1m", "tmpfs", str(root)], capture_output=True, check=False
    )
    if made.returncode:
        pytest.skip("no file system can be mounted here")
    yield root
    subprocess.run(["mount", "-o", "remount,rw", str(root)], check=False)
    subprocess.run(["umount", "-l", str(root)], check=False)


def test_a_full_disk_leaves_the_former_delivery(small_disk):
    built = Path(small_disk).parent / "art-built"
    root = small_disk / "art"
    root.mkdir()
    (root.parent / "built").symlink_to(built)
    built.mkdir()
    bring_from(built, root, FIRST)
    with pytest.raises(DeliveryRefused, match="no room"):
        bring_from(built, root, SECOND | {"pier/large.bin": bytes(3 << 20)})
    assert lying(root) == FIRST
    bring_from(built, root, SECOND)
    assert lying(root) == SECOND


def bring_from(built, root, files):
    for path, data in files.items():
        (built / path).parent.mkdir(parents=True, exist_ok=True)
        (built / path).write_bytes(data)
    place = FolderPlace(root)
    with place.held():
        return place.bring({path: digest.of_bytes(data) for path, data in files.items()}, built.joinpath)


def test_a_read_only_disk_is_told_and_left(small_disk, tmp_path):
    built = tmp_path / "elsewhere"
    root = small_disk / "art"
    bring_from(built, root, FIRST)
    subprocess.run(["mount", "-o", "remount,ro", str(small_disk)], check=True)
    with pytest.raises(DeliveryRefused, match="read only"):
        bring_from(built, root, SECOND)
    assert lying(root) == FIRST
