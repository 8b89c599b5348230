"""Destinations: deliveries kept in step with named places, what others changed there, and the way back."""

import io
import json
import os
import re
import zipfile
from datetime import timedelta

import pytest
from django.utils import timezone
from moto.server import ThreadedMotoServer

from studio.collecting import collect
from studio.deliveries.models import Delivery, Destination, Transfer
from studio.intake.models import Intake
from studio.jobs.models import Job
from tests.pictures import random_texels, save, simple_set
from texel.delivery.files_there import OURS

pytestmark = pytest.mark.django_db


@pytest.fixture(autouse=True)
def roots(settings, tmp_path):
    settings.DESTINATION_ROOTS = [tmp_path / "engine"]
    settings.STORE_ROOT = tmp_path / "store"
    (tmp_path / "engine").mkdir()
    return tmp_path / "engine"


@pytest.fixture
def source(tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull", seed=9)
    return tmp_path / "in"


@pytest.fixture
def sets(take_in, source):
    return {one["name"]: one["id"] for one in take_in(source)["sets"]}


@pytest.fixture
def art(call, sets):
    return call("POST", "/destinations", {"name": "Art", "kind": "folder", "place": "art", "target": "orm-y-minus"})[
        "id"
    ]


def lying(root):
    files = [one for one in root.rglob("*") if one.is_file() and OURS not in one.parts]
    return {one.relative_to(root).as_posix(): one.read_bytes() for one in files}


def deliver(call, run_jobs, sets=None, **more):
    made = call("POST", "/deliveries", {"target": "orm-y-minus", "sets": sets, **more})
    run_jobs()
    return call("GET", f"/deliveries/{made['number']}")


def one_of(call, pk):
    return next(one for one in call("GET", "/destinations") if one["id"] == pk)


def repaint(call, run_jobs, name, seed):
    """Another roughness for a set: its map with other levels."""
    row = next(one for one in call("GET", "/sets")["sets"] if one["name"] == name)
    first = next(one for one in row["maps"] if one["role"] == "roughness")
    step = {"step": "levels", "black": 0.0, "white": 0.5 + seed / 200}
    call("PUT", f"/maps/{first['id']}/recipe", {"recipe": [step]})
    run_jobs()


def test_a_delivery_is_brought_to_its_destination_and_kept_in_step(call, run_jobs, sets, art, roots):
    made = deliver(call, run_jobs, destinations=[art])
    delivery = Delivery.objects.get()
    assert lying(roots / "art") == lying(delivery.folder)
    assert one_of(call, art)["holds"] == made["number"]
    map_ = next(m for m in call("GET", f"/sets/{sets['deck']}")["maps"] if m["role"] == "roughness")
    call("PUT", f"/maps/{map_['id']}/recipe", {"recipe": [{"step": "invert"}]})
    run_jobs()
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus"})
    changed = {one["path"]: one["why"] for one in plan["files"] if one["status"] == "changed"}
    assert changed == {"deck/deck_orm.png": ["recipe"]}
    deliver(call, run_jobs, destinations=[art])
    last = one_of(call, art)["last"]
    # The file, and of what every delivery writes about itself that which changed.
    assert (last["state"], last["written"] <= 5) == ("done", True)
    assert lying(roots / "art") == lying(Delivery.objects.order_by("number").last().folder)


def test_files_that_did_not_change_are_one_file_on_the_disk(call, run_jobs, sets):
    for _ in range(2):
        deliver(call, run_jobs)
    first, second = Delivery.objects.order_by("number")
    assert (first.folder / "deck/deck_orm.png").samefile(second.folder / "deck/deck_orm.png")


def test_what_lies_at_a_destination_is_no_link_into_what_we_keep(call, run_jobs, sets, art, roots):
    deliver(call, run_jobs, destinations=[art])
    (roots / "art/deck/deck_orm.png").write_bytes(b"edited in place")
    assert (Delivery.objects.get().folder / "deck/deck_orm.png").read_bytes() != b"edited in place"


def test_other_sets_stay_as_they_were_delivered_where_that_is_asked(call, run_jobs, sets, art, roots):
    deliver(call, run_jobs, destinations=[art])
    before = lying(roots / "art")
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus", "sets": [sets["deck"]], "keep_others": True})
    assert (plan["orphaned"], plan["carried"]) == ([], ["hull"])
    deliver(call, run_jobs, [sets["deck"]], keep_others=True, destinations=[art])
    after = lying(roots / "art")
    assert {path: data for path, data in after.items() if "/" in path} == {
        path: data for path, data in before.items() if "/" in path
    }
    deliver(call, run_jobs, [sets["deck"]], destinations=[art])
    assert not (roots / "art/hull").exists()


def test_drift_is_told_and_nothing_is_written_until_somebody_chooses(call, run_jobs, sets, art, roots):
    deliver(call, run_jobs, destinations=[art])
    (roots / "art/deck/deck_orm.png").write_bytes(b"retouched")
    (roots / "art/deck/mask.png").write_bytes(b"theirs")
    (roots / "art/hull/hull_color.png").unlink()
    told = {one["path"]: (one["kind"], one["set"]) for one in call("GET", f"/destinations/{art}/drift?delivery=1")}
    assert told == {
        "deck/deck_orm.png": ("changed", "deck"),
        "deck/mask.png": ("added", ""),
        "hull/hull_color.png": ("missing", "hull"),
    }
    call("POST", f"/destinations/{art}/bring", {"delivery": 1})
    run_jobs()
    last = one_of(call, art)["last"]
    assert (last["state"], last["drift"]) == ("failed", 1)
    assert "deck_orm.png" in last["message"]
    assert (roots / "art/deck/deck_orm.png").read_bytes() == b"retouched"
    call("POST", f"/destinations/{art}/bring", {"delivery": 1, "choices": {"deck/deck_orm.png": "keep"}})
    run_jobs()
    assert one_of(call, art)["last"]["kept"] == ["deck/deck_orm.png"]
    assert (roots / "art/hull/hull_color.png").exists()
    assert (roots / "art/deck/mask.png").read_bytes() == b"theirs"


def test_theirs_is_seen_beside_ours_and_taken_in_as_a_source(call, run_jobs, sets, art, roots):
    deliver(call, run_jobs, destinations=[art])
    save(roots / "art/deck/deck_orm.png", random_texels("rgb", width=32, height=32, seed=5))
    path = "deck/deck_orm.png"
    for address in (f"/destinations/{art}/picture?path={path}", f"/deliveries/1/picture?path={path}"):
        assert call("GET", address).content.startswith(b"\x89PNG")
    made = call("POST", f"/destinations/{art}/take", {"paths": [path]})
    run_jobs()
    intake = Intake.objects.get(pk=made["intake"])
    assert (intake.name, [one.path for one in intake.files.all()]) == ("From Art", [path])
    assert intake.state == "sorted"


@pytest.mark.parametrize("path", ["../../store", "/etc/passwd", ".fair-texel/ledger.json", "deck/none.png", "deck"])
def test_nothing_else_is_read_through_a_destination(call, run_jobs, sets, art, path):
    deliver(call, run_jobs, destinations=[art])
    call("GET", f"/destinations/{art}/picture?path={path}", status=404)
    call("POST", f"/destinations/{art}/take", {"paths": [path]}, status=404)
    assert not Intake.objects.filter(name="From Art").exists()


def test_a_former_delivery_is_brought_back_as_one_step(call, run_jobs, sets, art, roots):
    deliver(call, run_jobs, destinations=[art])
    former = lying(roots / "art")
    repaint(call, run_jobs, "deck", 44)
    deliver(call, run_jobs, destinations=[art])
    assert lying(roots / "art") != former
    told = {
        one["path"]: one["status"]
        for one in call("GET", "/deliveries/compare?old=1&new=2")
        if one["status"] != "unchanged"
    }
    assert told == {"deck/deck_orm.png": "changed"}
    call("POST", f"/destinations/{art}/bring", {"delivery": 1})
    run_jobs()
    assert lying(roots / "art") == former
    assert (one_of(call, art)["holds"], one_of(call, art)["newest"]) == (1, 2)


def test_a_zip_is_one_file_that_is_replaced_whole(call, run_jobs, sets, roots):
    given = {"name": "Package", "kind": "zip", "place": "out/ferry.zip", "target": "orm-y-minus"}
    pk = call("POST", "/destinations", given)["id"]
    deliver(call, run_jobs, destinations=[pk])
    with zipfile.ZipFile(roots / "out/ferry.zip") as archive:
        assert {name: archive.read(name) for name in archive.namelist()} == lying(Delivery.objects.get().folder)
    (roots / "out/ferry.zip").write_bytes(b"theirs")
    deliver(call, run_jobs, destinations=[pk])
    assert one_of(call, pk)["last"]["drift"] == 1
    assert (roots / "out/ferry.zip").read_bytes() == b"theirs"
    call("POST", f"/destinations/{pk}/bring", {"delivery": 2, "choices": {"ferry.zip": "overwrite"}})
    run_jobs()
    assert zipfile.is_zipfile(roots / "out/ferry.zip")
    assert call("GET", f"/destinations/{pk}/drift") == []


@pytest.mark.parametrize(
    ("place", "reason"),
    [
        ("/etc", "outside"), ("../elsewhere", "outside"), ("", "path of a folder"), ("link", "outside"),
        ("art", "another project|this project"), ("art/inner", "lies within"), (".", "outside"),
    ],
)  # fmt: skip
def test_places_outside_of_the_allowed_folders_or_within_each_other_are_refused(
    call, sets, art, roots, tmp_path, place, reason
):
    (roots / "link").symlink_to(tmp_path / "store")
    given = {"name": "Other", "kind": "folder", "place": place, "target": "orm-y-minus"}
    assert re.search(reason, call("POST", "/destinations", given, status=409)["detail"])


def test_the_studios_own_folders_are_no_destination(call, sets, settings, tmp_path):
    settings.DESTINATION_ROOTS = [tmp_path]
    for place in ("store", "deliveries/x"):
        given = {"name": "Own", "kind": "folder", "place": place, "target": "orm-y-minus"}
        assert "the studio itself" in call("POST", "/destinations", given, status=409)["detail"]


def test_a_share_that_is_away_is_told_and_not_made_anew(call, run_jobs, sets, art, roots):
    deliver(call, run_jobs, destinations=[art])
    os.rename(roots / "art", roots / "away")
    deliver(call, run_jobs, destinations=[art])
    assert "not there any more" in one_of(call, art)["last"]["message"]
    assert not (roots / "art").exists()


def test_a_delivery_is_whole_even_where_its_destination_fails(call, run_jobs, sets, art, roots):
    (roots / "art").write_text("a file where a folder has to be")
    made = deliver(call, run_jobs, destinations=[art])
    assert made["state"] == "done"
    assert "not a folder" in one_of(call, art)["last"]["message"]
    (roots / "art").unlink()
    call("POST", f"/destinations/{art}/bring", {"delivery": made["number"]})
    run_jobs()
    assert one_of(call, art)["holds"] == made["number"]


def test_a_transfer_that_was_killed_is_undone_and_done_anew(call, run_jobs, sets, art, roots, monkeypatch):
    deliver(call, run_jobs, destinations=[art])
    former = lying(roots / "art")
    repaint(call, run_jobs, "deck", 45)
    call("POST", "/deliveries", {"target": "orm-y-minus", "destinations": [art]})
    child = os.fork()
    if child == 0:  # the worker's child, which ends between two moves
        _die_while_moving(roots)
    os.waitpid(child, 0)
    assert lying(roots / "art") != former or (roots / f"art/{OURS}/journal.json").exists()
    run_jobs()
    assert lying(roots / "art") == lying(Delivery.objects.order_by("number").last().folder)


def _die_while_moving(roots):
    """Leave the place as a worker leaves it that was killed when its first file had gone aside."""
    place = roots / "art"
    (place / OURS / "former/deck").mkdir(parents=True)
    entries = [{"path": "deck/deck_orm.png", "had": True}]
    (place / OURS / "journal.json").write_text(json.dumps({"moving": entries, "going": []}))
    os.rename(place / "deck/deck_orm.png", place / OURS / "former/deck/deck_orm.png")
    os._exit(9)


def test_sets_go_to_all_their_targets_at_once(call, run_jobs, sets, art, roots):
    other = {"name": "Open", "kind": "folder", "place": "open", "target": "gltf"}
    call("POST", "/destinations", other)
    told = call("PUT", "/sets/targets", {"sets": [sets["deck"]], "targets": ["orm-y-minus", "gltf"]})
    assert told[0]["targets"] == ["orm-y-minus", "gltf"]
    made = call("POST", "/deliveries/all", {})
    run_jobs()
    assert {one["target"] for one in made} == {"orm-y-minus", "gltf"}
    assert {path.split("/")[0] for path in lying(roots / "open") if "/" in path} == {"deck"}
    assert {path.split("/")[0] for path in lying(roots / "art") if "/" in path} == {"deck", "hull"}
    call("POST", "/undo")
    assert call("GET", f"/sets/{sets['deck']}")["targets"] == []
    call("PUT", "/sets/targets", {"sets": [sets["deck"]], "targets": ["none"]}, status=422)


def test_old_deliveries_go_when_they_were_kept_long_enough(call, run_jobs, sets, art):
    deliver(call, run_jobs, destinations=[art])
    for seed in (1, 2, 3):
        repaint(call, run_jobs, "deck", 50 + seed)
        deliver(call, run_jobs)
    assert call("GET", "")["keep_days"] is None
    call("PUT", "/keeping", {"days": 0}, status=409)
    call("PUT", "/keeping", {"days": 30})
    Delivery.objects.update(created=timezone.now() - timedelta(days=31))
    collect()
    gone = {one.number: one.gone is not None and not one.folder.exists() for one in Delivery.objects.all()}
    # The first lies at a destination, the fourth is the newest.
    assert gone == {1: False, 2: True, 3: True, 4: False}
    assert call("GET", "/deliveries/2")["folder"] is None
    call("GET", "/deliveries/2/zip", status=404)
    call("POST", f"/destinations/{art}/bring", {"delivery": 2}, status=409)


def test_the_report_tells_findings_that_count_and_waivers(call, run_jobs, take_in, tmp_path):
    simple_set(tmp_path / "in", "deck", normal_word="nor_dx")
    take_in(tmp_path / "in")
    (deck,) = call("GET", "/sets")["sets"]
    findings = call("GET", f"/sets/{deck['id']}")["findings"]
    error = next(one for one in findings if one["severity"] == "error")
    call("POST", "/waivers", {"finding": error["id"], "reason": "meant so"})
    deliver(call, run_jobs)
    report = json.loads((Delivery.objects.get().folder / "report.json").read_text())
    (told,) = report["sets"]
    assert [(one["check"], one["reason"], one["by"]) for one in told["waivers"]] == [
        (error["check"], "meant so", "ada")
    ]
    assert error["check"] not in [one["check"] for one in told["findings"]]


def test_only_who_sets_rules_names_destinations_and_nobody_else_sees_them(call, sign_in, sets, art):
    looks, stranger = sign_in("look", "lena"), sign_in(None, "sten")
    assert [one["name"] for one in looks("GET", "/destinations")] == ["Art"]
    looks("POST", f"/destinations/{art}/bring", {"delivery": 1}, status=403)
    sign_in("prepare", "petra")("DELETE", f"/destinations/{art}", status=403)
    stranger("GET", "/destinations", status=404)
    stranger("GET", f"/destinations/{art}/drift", status=404)


def test_a_destination_that_somebody_else_changed_is_not_changed_unseen(call, sets, art):
    seen = one_of(call, art)["revision"]
    given = {"name": "Art", "place": "other", "target": "orm-y-minus"}
    call("PATCH", f"/destinations/{art}", given, seen=seen)
    late = call("PATCH", f"/destinations/{art}", given | {"name": "Mine"}, seen=seen, status=409)
    assert late["newest"]["place"] == "other"
    call("DELETE", f"/destinations/{art}", status=204)
    assert not Destination.objects.exists()


@pytest.fixture
def bucket(settings, monkeypatch):
    """A bucket of moto's server, which speaks S3 on this machine."""
    import boto3

    for name, value in (
        ("AWS_ACCESS_KEY_ID", "test"),
        ("AWS_SECRET_ACCESS_KEY", "test"),
        ("AWS_DEFAULT_REGION", "us-east-1"),
    ):
        monkeypatch.setenv(name, value)
    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0)
    server.start()
    host, port = server.get_host_and_port()
    settings.BUCKETS_ADDRESS = f"http://{host}:{port}"
    settings.DESTINATION_BUCKETS = ["art"]
    made = boto3.resource("s3", endpoint_url=settings.BUCKETS_ADDRESS).create_bucket(Bucket="art")
    yield made
    made.objects.all().delete()
    server.stop()


def objects(bucket):
    return {
        one.key.removeprefix("ferry/"): one.get()["Body"].read()
        for one in bucket.objects.filter(Prefix="ferry/")
        if OURS not in one.key
    }


@pytest.fixture
def cloud(call, sets, bucket):
    given = {"name": "Cloud", "kind": "bucket", "place": "art/ferry", "target": "orm-y-minus"}
    return call("POST", "/destinations", given)["id"]


def test_a_bucket_is_kept_in_step_and_drift_in_it_is_told(call, run_jobs, sets, cloud, bucket):
    deliver(call, run_jobs, destinations=[cloud])
    assert objects(bucket) == lying(Delivery.objects.get().folder)
    bucket.Object("ferry/theirs.txt").put(Body=b"theirs")
    bucket.Object("ferry/deck/deck_orm.png").put(Body=b"retouched")
    repaint(call, run_jobs, "hull", 61)
    deliver(call, run_jobs, destinations=[cloud])
    assert one_of(call, cloud)["last"]["drift"] == 1
    assert [one["path"] for one in call("GET", f"/destinations/{cloud}/drift?delivery=2")] == ["deck/deck_orm.png"]
    choices = {"deck/deck_orm.png": "overwrite"}
    call("POST", f"/destinations/{cloud}/bring", {"delivery": 2, "choices": choices})
    run_jobs()
    wanted = lying(Delivery.objects.order_by("number").last().folder)
    assert objects(bucket) == wanted | {"theirs.txt": b"theirs"}


def test_an_interrupted_delivery_into_a_bucket_is_undone(call, run_jobs, sets, cloud, bucket, monkeypatch):
    from studio.deliveries.buckets import BucketFiles

    deliver(call, run_jobs, destinations=[cloud])
    former = objects(bucket)
    repaint(call, run_jobs, "deck", 62)
    move, moves = BucketFiles.move, []

    def failing(self, path, to):
        moves.append(path)
        if len(moves) == 2:
            raise OSError(5, "the connection was cut")
        move(self, path, to)

    with monkeypatch.context() as broken:
        broken.setattr(BucketFiles, "move", failing)
        broken.setattr("texel.delivery.place.Place._put_back", lambda self: None)
        deliver(call, run_jobs, destinations=[cloud])
    assert objects(bucket) != former
    call("GET", f"/destinations/{cloud}/drift")
    assert objects(bucket) == former


def test_buckets_that_the_server_does_not_name_are_refused(call, sets, bucket):
    given = {"name": "Cloud", "kind": "bucket", "place": "secrets/ferry", "target": "orm-y-minus"}
    assert "none of the buckets" in call("POST", "/destinations", given, status=409)["detail"]
    assert "prefix" in call("POST", "/destinations", given | {"place": "art/"}, status=409)["detail"]


def test_an_object_store_that_is_away_is_told(call, run_jobs, sets, cloud, settings):
    settings.BUCKETS_ADDRESS = "http://127.0.0.1:9"
    deliver(call, run_jobs, destinations=[cloud])
    assert "does not answer" in one_of(call, cloud)["last"]["message"]
    assert Job.objects.filter(kind="transfer", state="failed").count() == Transfer.objects.count() == 1


def test_a_zip_of_a_delivery_is_made_when_it_is_asked_for(call, run_jobs, sets):
    deliver(call, run_jobs)
    assert not Delivery.objects.get().zip_path.exists()
    data = b"".join(call("GET", "/deliveries/1/zip").streaming_content)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert set(archive.namelist()) == set(lying(Delivery.objects.get().folder))


def test_zips_that_nobody_fetches_any_more_go(call, run_jobs, sets):
    deliver(call, run_jobs)
    b"".join(call("GET", "/deliveries/1/zip").streaming_content)
    one = Delivery.objects.get()
    collect(young_seconds=3600)
    assert one.zip_path.exists()
    collect(young_seconds=-60)
    assert not one.zip_path.exists()
    assert (one.folder / "manifest.json").exists()
