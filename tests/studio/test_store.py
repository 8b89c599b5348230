"""The store: what is there is whole, what is damaged is told or made again."""

import errno
import multiprocessing
import os
import signal
import threading
from datetime import timedelta

import pytest
from blake3 import blake3
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.utils import timezone

from studio import store
from studio.collecting import Collected, collect
from studio.deliveries.models import Delivery
from studio.intake.models import SourceFile
from studio.jobs.models import Job
from studio.projects.models import Change
from tests.pictures import simple_set

DATA = os.urandom(3 << 20)
DIGEST = blake3(DATA).hexdigest()


class Slow(ContentFile):
    """Hands out its bytes in pieces, and says after each how far it is."""

    def __init__(self, data, after=lambda at: None):
        super().__init__(data)
        self._after = after

    def chunks(self, chunk_size=None):
        data = self.file.getvalue()
        for at in range(0, len(data), 1 << 16):
            yield data[at : at + (1 << 16)]
            self._after(at)


def files_of(kind="source"):
    """Everything in the store's folder of a kind, unfinished ones too."""
    root = default_storage.path(kind)
    return [os.path.join(folder, name) for folder, _, names in os.walk(root) for name in names]


def test_a_source_that_is_stored_is_whole():
    assert store.keep(ContentFile(DATA), DIGEST)
    assert store.is_whole(DIGEST)
    assert not store.keep(ContentFile(DATA), DIGEST)
    assert len(files_of()) == 1


def test_a_full_disk_leaves_nothing_behind():
    def full(at):
        if at > 1 << 20:
            raise OSError(errno.ENOSPC, "No space left on device")

    with pytest.raises(OSError, match="No space"):
        store.keep(Slow(DATA, full), DIGEST)
    assert files_of() == []
    assert not store.has(DIGEST)
    assert store.keep(ContentFile(DATA), DIGEST)


def _write_and_tell(place, half, go_on):
    def wait(at):
        if at == 1 << 20:
            half.set()
            go_on.wait(60)

    default_storage.save(place, Slow(DATA, wait))


def test_a_killed_writer_leaves_nothing_that_counts_as_stored():
    context = multiprocessing.get_context("fork")
    half, go_on = context.Event(), context.Event()
    writer = context.Process(target=_write_and_tell, args=(f"source/{DIGEST[:2]}/{DIGEST}", half, go_on))
    writer.start()
    assert half.wait(60)
    os.kill(writer.pid, signal.SIGKILL)
    writer.join()
    assert not store.has(DIGEST)
    assert store.keep(ContentFile(DATA), DIGEST)
    assert store.is_whole(DIGEST)


def test_two_that_write_the_same_at_once_both_succeed():
    barrier = threading.Barrier(2, timeout=60)
    done = []

    def write():
        store.keep(Slow(DATA, lambda at: barrier.wait() if at == 1 << 20 else None), DIGEST)
        done.append(store.is_whole(DIGEST))

    writers = [threading.Thread(target=write) for _ in range(2)]
    for one in writers:
        one.start()
    for one in writers:
        one.join()
    assert done == [True, True]
    assert len(files_of()) == 1


def test_an_upload_that_changes_on_the_way_is_refused():
    with pytest.raises(store.Damaged, match="changed"):
        store.keep(ContentFile(b"something else"), DIGEST)
    assert files_of() == []


@pytest.mark.parametrize("harm", [lambda data: data[:-1], lambda data: data[:-1] + b"?", lambda data: data[:20]])
def test_what_was_derived_and_is_damaged_is_made_again(harm):
    made = []

    def make():
        made.append(1)
        return b"a picture of a deck"

    assert store.cached("picture", DIGEST, make) == store.cached("picture", DIGEST, make) == b"a picture of a deck"
    assert len(made) == 1
    (path,) = files_of("picture")
    with open(path, "rb") as stream:
        data = stream.read()
    with open(path, "wb") as stream:
        stream.write(harm(data))
    assert store.cached("picture", DIGEST, make) == b"a picture of a deck"
    assert len(made) == 2


def test_what_was_kept_before_there_were_checksums_is_read_as_it_is():
    default_storage.save(f"picture/{DIGEST[:2]}/{DIGEST}", ContentFile(b"old"))
    assert store.read_bytes("picture", DIGEST) == b"old"


def test_a_damaged_source_is_healed_by_an_upload():
    store.keep(ContentFile(DATA), DIGEST)
    with open(files_of()[0], "r+b") as stream:
        stream.truncate(100)
    assert store.keep(ContentFile(DATA), DIGEST)
    assert store.is_whole(DIGEST)


def test_a_damaged_source_is_never_delivered(call, take_in, run_jobs, tmp_path):
    for name in ("deck", "hull"):
        simple_set(tmp_path / "in", name, n=16, seed=len(name) + (name == "hull"))
    roll = take_in(tmp_path / "in")
    assert {one["name"] for one in roll["sets"]} == {"deck", "hull"}
    data = (tmp_path / "in" / "hull_n.png").read_bytes()
    path = default_storage.path(f"source/{blake3(data).hexdigest()[:2]}/{blake3(data).hexdigest()}")
    # The same size and a picture still: only its digest tells.
    with open(path, "r+b") as stream:
        stream.seek(len(data) - 6)
        stream.write(b"?")
    call("POST", "/deliveries", {"target": "orm-y-minus"})
    run_jobs()
    delivery = Delivery.objects.get()
    assert {entry["path"].split("/")[0] for entry in delivery.manifest["files"]} == {"deck"}
    assert "damaged" in delivery.problems[0]


def _aged(path, days):
    os.utime(path, (os.path.getmtime(path) - days * 86400,) * 2)


@pytest.mark.django_db
def test_collecting_takes_unfinished_files_and_uploads_without_a_row(call, take_in, tmp_path):
    simple_set(tmp_path / "in", "deck", n=16)
    take_in(tmp_path / "in")
    sources = len(files_of())
    store.keep(ContentFile(DATA), DIGEST)
    unfinished = os.path.join(os.path.dirname(files_of()[0]), ".unfinished-x")
    with open(unfinished, "wb") as stream:
        stream.write(b"half")
    assert collect() == Collected()
    for path in files_of():
        _aged(path, 2)
    assert collect().files == 2
    assert len(files_of()) == sources
    assert not store.has(DIGEST)


@pytest.mark.django_db
def test_collecting_takes_the_longest_unused_that_can_be_made_again(settings):
    for at in range(4):
        store.save_bytes("picture", f"{at}" * 64, b"x" * 1000)
        _aged(default_storage.path(f"picture/{at}{at}/{str(at) * 64}"), 10 - at)
    settings.DERIVED_BYTES = 2200
    assert collect().files == 2
    assert [store.has(str(at) * 64, "picture") for at in range(4)] == [False, False, True, True]


@pytest.mark.django_db
def test_collecting_is_a_command(capsys):
    call_command("collect")
    assert "0 files" in capsys.readouterr().out


def test_a_folder_that_knows_no_links_holds_whole_files_too(monkeypatch):
    def none(*args):
        raise PermissionError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr("studio.storage.os.link", none)
    assert store.keep(ContentFile(DATA), DIGEST)
    assert store.is_whole(DIGEST)
    assert len(files_of()) == 1


@pytest.mark.django_db
def test_collecting_leaves_what_is_being_written(settings):
    store.save_bytes("picture", DIGEST, b"x" * 1000)
    unfinished = os.path.join(os.path.dirname(files_of("picture")[0]), ".unfinished-x")
    with open(unfinished, "wb") as stream:
        stream.write(b"half")
    settings.DERIVED_BYTES = 0
    assert collect().files == 1
    assert files_of("picture") == [unfinished]


@pytest.mark.django_db
def test_collecting_takes_sources_whose_last_use_went(call):
    kept = call("POST", "/intakes", {"name": "kept"})["id"]
    gone = call("POST", "/intakes", {"name": "gone"})["id"]
    shared = call.upload(f"/intakes/{kept}/files", "a.png", DATA)["digest"]
    call.upload(f"/intakes/{gone}/files", "b.png", DATA)
    lost = call.upload(f"/intakes/{gone}/files", "c.png", DATA + b"!")["digest"]
    call("DELETE", f"/intakes/{gone}", status=204)
    for path in files_of():
        _aged(path, 2)
    assert collect().files == 0, "its row is young"
    SourceFile.objects.update(created=timezone.now() - timedelta(days=2))
    assert collect().files == 1
    assert (store.has(shared), store.has(lost)) == (True, False)
    assert list(SourceFile.objects.values_list("pk", flat=True)) == [shared]


@pytest.mark.django_db
def test_collecting_leaves_what_a_delivery_on_its_way_is_made_of(call, project):
    intake = call("POST", "/intakes", {"name": "gone"})["id"]
    digest = call.upload(f"/intakes/{intake}/files", "c.png", DATA)["digest"]
    job = Job.objects.create(project=project, kind="deliver", title="x")
    Delivery.objects.create(
        project=project, number=1, target={"name": "x"}, set_ids=[], job=job, sets={"files": {"c.png": digest}}
    )
    call("DELETE", f"/intakes/{intake}", status=204)
    SourceFile.objects.update(created=timezone.now() - timedelta(days=2))
    for path in files_of():
        _aged(path, 2)
    assert collect().files == 0
    Job.objects.update(state=Job.State.DONE)
    assert collect().files == 1


@pytest.mark.django_db
def test_collecting_keeps_the_newest_changes(project, monkeypatch):
    monkeypatch.setattr("studio.collecting._MAX_CHANGES", 3)
    Change.objects.bulk_create(Change(project=project, label=str(at), before={}, after={}) for at in range(5))
    collect()
    assert [one.label for one in Change.objects.all()] == ["2", "3", "4"]
