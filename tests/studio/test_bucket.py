"""The store in a bucket: moto's server speaks S3 on this machine."""

import os
import time
from pathlib import Path

import boto3
import pytest
from blake3 import blake3
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage, storages
from moto.server import ThreadedMotoServer

from studio import store
from studio.collecting import collect
from studio.deliveries.archive import here
from studio.deliveries.models import Delivery
from studio.doctoring import examine
from studio.health import health_now
from studio.storage import StoreAway
from tests.pictures import simple_set

pytestmark = pytest.mark.django_db
DATA = b"planks of the quay"
DIGEST = blake3(DATA).hexdigest()
NAME = store.stored_name("source", DIGEST)


@pytest.fixture(scope="module")
def server():
    made = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
    made.start()
    yield made
    made.stop()


@pytest.fixture
def machines(server, settings, tmp_path, monkeypatch):
    """Lets the studio be one machine or another of those that share a bucket; and the bucket."""
    for name in ("AWS_ACCESS_KEY_ID", "AWS_SECRET_ACCESS_KEY"):
        monkeypatch.setenv(name, "tester")
    monkeypatch.setenv("AWS_DEFAULT_REGION", "us-east-1")
    host, port = server.get_host_and_port()
    address = f"http://{host}:{port}"
    bucket = boto3.resource("s3", endpoint_url=address).create_bucket(Bucket="pixels")

    def be(name, where=address):
        options = {"bucket": "pixels", "address": where, "location": str(tmp_path / name), "kept_bytes": 1 << 20}
        settings.STORAGES = {**settings.STORAGES, "default": {"BACKEND": "studio.bucket.Bucket", "OPTIONS": options}}
        settings.DELIVERIES_ROOT = tmp_path / f"{name}-deliveries"
        # What was looked up once stays with the name; here it is to be another one.
        storages._storages.clear()
        default_storage._wrapped = storages["default"]
        monkeypatch.setattr(store, "_storage", default_storage._wrapped)
        return tmp_path / name

    be("one")
    yield be, bucket
    bucket.objects.all().delete()


def test_what_one_machine_keeps_another_reads_and_keeps_beside_it(machines):
    be, bucket = machines
    assert store.keep(ContentFile(DATA), DIGEST)
    assert [one.key for one in bucket.objects.all()] == [NAME]
    assert not store.keep(ContentFile(DATA), DIGEST), "it is there"
    two = be("two")
    assert (store.has(DIGEST), store.is_whole(DIGEST)) == (True, True)
    assert (two / NAME).read_bytes() == DATA
    with store.local_copies() as copies:
        assert copies.path(DIGEST, "quay.png").read_bytes() == DATA


def test_what_was_taken_away_elsewhere_is_gone_for_all(machines):
    be, bucket = machines
    store.keep(ContentFile(DATA), DIGEST)
    bucket.Object(NAME).delete()
    assert not store.has(DIGEST), "though a copy lies here"
    assert store.keep(ContentFile(DATA), DIGEST), "so it is stored again"
    be("three")
    with pytest.raises(FileNotFoundError):
        default_storage.open(store.stored_name("source", "f" * 64))


def test_an_upload_that_is_not_what_it_was_is_not_sent(machines):
    _, bucket = machines
    with pytest.raises(store.Damaged):
        store.keep(ContentFile(DATA), "0" * 64)
    assert list(bucket.objects.all()) == []


def test_names_are_listed_by_kind(machines):
    store.keep(ContentFile(DATA), DIGEST)
    store.save_bytes("picture", "ab" * 32, b"drawn")
    assert list(store.stored_names()) == [store.stored_name("picture", "ab" * 32), NAME]
    assert [one.name for one in store.held("source")] == [NAME]
    assert store.read_bytes("picture", "ab" * 32) == b"drawn"


def test_a_machine_makes_room_by_letting_go_of_copies_alone(machines):
    be, bucket = machines
    root = be("full")
    for at in range(3):
        data = bytes([at]) * 700_000
        store.keep(ContentFile(data), blake3(data).hexdigest())
    files = sorted((path for path in root.rglob("*") if path.is_file()), key=lambda path: path.stat().st_mtime)
    for at, path in enumerate(files):
        os.utime(path, (time.time() - 9000 + at, time.time() - 9000 + at))
    store.sweep(0)
    assert [path.exists() for path in files] == [False, False, True]
    assert len(list(bucket.objects.all())) == 3


def test_a_store_that_is_away_is_told(machines):
    be, _ = machines
    be("cut-off", "http://127.0.0.1:9")
    with pytest.raises(StoreAway, match="does not answer"):
        store.has(DIGEST)
    part = next(part for part in health_now().parts if part.name == "store")
    assert not part.well


def test_a_delivery_is_put_together_on_any_machine_and_its_files_go_with_it(
    machines, call, take_in, run_jobs, tmp_path
):
    be, bucket = machines
    simple_set(tmp_path / "in", "deck", n=16)
    take_in(tmp_path / "in")
    call("POST", "/deliveries", {"target": "orm-y-minus"})
    run_jobs()
    one = Delivery.objects.get()
    built = {path.relative_to(one.folder): path.read_bytes() for path in one.folder.rglob("*") if path.is_file()}
    be("two")
    folder = here(one)
    assert folder != Path(one.folder.parent.parent.parent / "one-deliveries")
    assert {path.relative_to(folder): path.read_bytes() for path in folder.rglob("*") if path.is_file()} == built
    assert list(examine()) == []
    Delivery.objects.update(gone="2026-01-01T00:00:00Z")
    collect(-1)
    assert not [key for key in (one.key for one in bucket.objects.all()) if key.startswith("delivered/")]


def test_the_doctor_looks_at_the_bucket_not_at_its_own_copy(machines, take_in, tmp_path):
    _, bucket = machines
    simple_set(tmp_path / "in", "deck", n=16)
    take_in(tmp_path / "in")
    key = next(one.key for one in bucket.objects.filter(Prefix="source/"))
    bucket.Object(key).put(Body=b"not what it was")
    assert [(ill.kind, ill.what) for ill in examine()] == [("damaged", key)]
