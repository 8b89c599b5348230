"""Two machines of one studio: servers and workers with separate folders, one database, one object store. One is lost in
the middle of the work, and nothing with it."""

import os
import signal
import socket
from dataclasses import replace

import boto3
import pytest
from botocore.config import Config
from moto.server import ThreadedMotoServer

from remote.client import Studio, StudioRefuses
from tests.journeys.conftest import wait_for
from tests.journeys.test_workers import Script
from tests.live import another, running
from tests.pictures import simple_set
from texel import digest

_KEY = {"AWS_ACCESS_KEY_ID": "tester", "AWS_SECRET_ACCESS_KEY": "tester", "AWS_DEFAULT_REGION": "us-east-1"}


@pytest.fixture(scope="module")
def bucket():
    """Address of an object store on this machine with the bucket "pixels" (moto's server speaks S3)."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    server = ThreadedMotoServer("127.0.0.1", port, verbose=False)
    server.start()
    address = f"http://127.0.0.1:{port}"
    names = {"aws_access_key_id": "tester", "aws_secret_access_key": "tester", "region_name": "us-east-1"}
    boto3.client("s3", endpoint_url=address, config=Config(retries={"max_attempts": 2}), **names).create_bucket(
        Bucket="pixels"
    )
    yield address
    server.stop()


@pytest.fixture(scope="module")
def machines(bucket, tmp_path_factory):
    """Two machines; the names that both are served by."""
    root = tmp_path_factory.mktemp("machines")
    (root / "one").mkdir()
    extra = {
        "FAIR_TEXEL_STORE_BUCKET": "pixels", "FAIR_TEXEL_STORE_ADDRESS": bucket,
        "FAIR_TEXEL_SECRET": "one secret for all machines of this studio", **_KEY,
    }  # fmt: skip
    with running(root / "one", **extra) as first, another(first, root / "two") as second:
        yield first, second


def test_what_one_machine_takes_in_the_other_delivers_though_one_is_lost(machines, tmp_path):
    first, second = machines
    for seed, name in enumerate(("deck", "hull", "quay", "rope", "sail", "mast"), 3):
        simple_set(tmp_path / "in", name, seed=seed, n=256)
    token = Script(first).token
    here, there = Studio(first.address, token, 300), Studio(second.address, token, 300)
    slug = here.call("POST", "/projects", {"name": "Two machines"})["slug"]
    here.take_in(slug, tmp_path / "in")
    there.wait_for_jobs(slug)
    assert [row["judged"] for row in there.sets(slug)] == [True] * 6, "as the other machine sees them"
    # The first machine's worker builds, since the second one's sleeps, and is lost in the middle.
    for worker in second.workers:
        os.killpg(worker.pid, signal.SIGSTOP)
    made = there.call("POST", f"/projects/{slug}/deliveries", {"target": "orm-y-minus"})
    folder = first.home / "deliveries" / slug
    wait_for(lambda: any(path.is_file() for path in folder.glob(".*.part-*/files/**/*")), pause=0.005)
    first.stop_workers()
    for worker in second.workers:
        os.killpg(worker.pid, signal.SIGCONT)
    there.wait_for_jobs(slug)
    told = there.call("GET", f"/projects/{slug}/deliveries/{made['number']}")
    assert told["state"] == "done", told["message"]
    # Built there, fetched here.
    assert not (folder / f"{made['number']:04d}-orm-y-minus").exists()
    here.fetch(slug, made["number"], tmp_path / "out")
    for entry in told["manifest"]["files"]:
        assert digest.of_file(tmp_path / "out" / entry["path"]) == entry["digest"]


def test_a_second_delivery_goes_on_from_the_one_that_the_other_machine_built(machines, tmp_path):
    first, second = machines
    slug = "two-machines"
    studio = Studio(first.address, Script(first).token, 300)
    second.stop_workers()
    first.start_worker()
    told = studio.deliver(slug, "orm-y-minus")
    assert set(told["counts"]) <= {"unchanged", "orphaned"}
    studio.fetch(slug, told["number"], tmp_path / "again")
    assert (tmp_path / "again/report.html").is_file()


def test_a_machine_that_does_not_reach_the_object_store_says_so_and_loses_nothing(machines, tmp_path):
    first, _ = machines
    cut_off = replace(first, env={**first.env, "FAIR_TEXEL_STORE_ADDRESS": "http://127.0.0.1:9"}, workers=[])
    token = Script(first).token
    simple_set(tmp_path / "more", "oar", seed=90)
    with another(cut_off, first.home.parent / "three") as third:
        third.stop_workers()
        with pytest.raises(StudioRefuses, match="does not answer"):
            Studio(third.address, token, 60).take_in("two-machines", tmp_path / "more")
    assert len(Studio(first.address, token).sets("two-machines")) == 6
