"""Deliveries: planned, built, numbered, never half; jobs: progress, cancel, attempts."""

import io
import json
import zipfile
from pathlib import Path

import pytest

from studio.deliveries import build
from studio.deliveries.build import folder_is_whole
from studio.deliveries.models import Delivery
from studio.jobs import child
from studio.jobs.models import Job
from studio.jobs.queue import MAX_ATTEMPTS, cancel, enqueue, finish, take_up
from tests.pictures import random_texels, save, simple_set
from texel.cli import main
from texel.delivery import builtin_targets

pytestmark = pytest.mark.django_db


@pytest.fixture
def source(tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull", seed=9)
    return tmp_path / "in"


@pytest.fixture
def roll(take_in, source):
    return take_in(source)


def zip_files(answer) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def test_a_delivery_has_the_bytes_of_the_command_line(call, roll, run_jobs, source, tmp_path):
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus"})
    assert {one["status"] for one in plan["files"]} == {"new"}
    call("POST", "/deliveries", {"target": "orm-y-minus"})
    run_jobs()
    (made,) = call("GET", "/deliveries")
    assert (made["state"], made["counts"]["new"]) == ("done", len(plan["files"]))
    assert main(["deliver", str(source), "--target", "orm-y-minus", "-o", str(tmp_path / "cli")]) == 0
    by_cli = {
        p.relative_to(tmp_path / "cli").as_posix(): p.read_bytes() for p in (tmp_path / "cli").rglob("*") if p.is_file()
    }
    assert zip_files(call("GET", "/deliveries/1/zip")) == by_cli
    folder = Path(made["folder"])
    assert {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()} == by_cli
    assert folder_is_whole(Delivery.objects.get())


def test_the_exported_sets_deliver_the_same(call, roll, run_jobs, source, tmp_path):
    deck = next(one for one in roll["sets"] if one["name"] == "deck")
    normal = next(m for m in deck["maps"] if m["role"] == "normal")
    call("PUT", f"/maps/{normal['id']}/recipe", {"recipe": [{"step": "renormalise"}]})
    call("PATCH", f"/sets/{deck['id']}", {"name": "Pier Deck"})
    call("POST", "/deliveries", {"target": "gltf"})
    run_jobs()
    (tmp_path / "sets.json").write_text(json.dumps(call("GET", "/sets.json")))
    out = tmp_path / "cli"
    main(["deliver", str(source), "--target", "gltf", "--sets", str(tmp_path / "sets.json"), "-o", str(out)])
    by_cli = {p.relative_to(out).as_posix(): p.read_bytes() for p in out.rglob("*") if p.is_file()}
    assert zip_files(call("GET", "/deliveries/1/zip")) == by_cli


def test_the_next_delivery_knows_what_changed(call, roll, run_jobs):
    call("POST", "/deliveries", {"target": "orm-y-minus"})
    run_jobs()
    deck = next(one for one in roll["sets"] if one["name"] == "deck")
    rough = next(m for m in deck["maps"] if m["role"] == "roughness")
    call("PUT", f"/maps/{rough['id']}/recipe", {"recipe": [{"step": "invert"}]})
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus"})
    assert [f["path"] for f in plan["files"] if f["status"] == "changed"] == ["deck/deck_orm.png"]
    hull = next(one for one in roll["sets"] if one["name"] == "hull")
    only = call("POST", "/deliveries/plan", {"target": "orm-y-minus", "sets": [hull["id"]]})
    assert {f["status"] for f in only["files"]} == {"unchanged"}
    assert "deck/deck_orm.png" in only["orphaned"]
    call("POST", "/deliveries", {"target": "orm-y-minus"})
    run_jobs()
    assert [one["number"] for one in call("GET", "/deliveries")] == [2, 1]
    assert folder_is_whole(Delivery.objects.get(number=1))


def test_a_delivery_is_built_from_what_was_ordered(call, roll, run_jobs):
    call("POST", "/deliveries", {"target": "gltf"})
    deck = next(one for one in roll["sets"] if one["name"] == "deck")
    call("PATCH", f"/sets/{deck['id']}", {"name": "renamed"})
    run_jobs()
    assert "deck" in {one["name"] for one in call("GET", "/deliveries/1")["manifest"]["sets"]}


def test_orders_that_cannot_be_carried_out(call, roll, run_jobs):
    assert "no target" in call("POST", "/deliveries", {"target": "engine"}, 422)["detail"]
    call("POST", "/deliveries", {"target": "gltf", "sets": []}, 422)
    call("GET", "/deliveries/9/zip", status=404)


def test_a_set_with_a_broken_map_is_left_out_and_named(call, take_in, run_jobs, source):
    save(source / "hull_n.png", random_texels("y", width=64, height=64))
    take_in(source)
    call("POST", "/deliveries", {"target": "gltf"})
    run_jobs()
    (made,) = call("GET", "/deliveries")
    assert made["state"] == "done"
    assert "hull" in made["problems"][0]


def test_own_targets_have_versions_and_bad_ones_are_refused(call, roll, run_jobs):
    document = builtin_targets()["gltf"] | {"name": "mine"}
    call("PUT", "/targets/mine", document)
    call("POST", "/deliveries", {"target": "mine"})
    call("PUT", "/targets/mine", document | {"green": "down"})
    run_jobs()
    assert call("GET", "/deliveries/1")["manifest"]["target"]["green"] == "up"
    assert call("GET", "/targets/mine")["green"] == "down"
    assert "green" in call("PUT", "/targets/mine", document | {"green": "left"}, 422)["detail"]
    call("PUT", "/targets/other", document, 422)


def test_a_job_that_fails_says_so_and_leaves_nothing(call, roll, run_jobs, monkeypatch, settings):
    monkeypatch.setattr("texel.delivery.folder.gltf_material", lambda *a: 1 / 0)
    call("POST", "/deliveries", {"target": "gltf"})
    run_jobs()
    (made,) = call("GET", "/deliveries")
    assert made["state"] == "failed"
    assert "division" in made["message"]
    assert [p for p in settings.DELIVERIES_ROOT.rglob("*") if p.is_file()] == []


def test_a_cancelled_job_leaves_nothing(call, roll, run_jobs, settings, monkeypatch):
    job = call("POST", "/deliveries", {"target": "gltf"})["job"]
    write = build.write_bytes
    monkeypatch.setattr(build, "write_bytes", lambda *to: cancel(Job.objects.get(pk=job)) or write(*to))
    run_jobs()
    monkeypatch.undo()
    assert not [p for p in settings.DELIVERIES_ROOT.rglob("*") if p.is_file()]
    assert Delivery.objects.get().manifest is None
    assert Job.objects.get(pk=job).state == "cancelled"
    waiting = call("POST", "/deliveries", {"target": "gltf"})["job"]
    call("POST", f"/jobs/{waiting}/cancel")
    assert Job.objects.get(pk=waiting).state == "cancelled"


def test_an_old_attempt_may_not_write(call, roll, run_jobs, settings):
    job = call("POST", "/deliveries", {"target": "gltf"})["job"]
    old = take_up(job)
    new = take_up(job)  # its worker was thought dead; another has the job now
    assert (old.attempt, new.attempt) == (1, 2)
    child.run(job, old.attempt)
    assert Delivery.objects.get().manifest is None
    assert finish(job, old.attempt, Job.State.DONE) is False
    child.run(job, new.attempt)
    assert folder_is_whole(Delivery.objects.get())


def test_a_job_that_kills_its_worker_is_given_up(project):
    job = enqueue(project, "judge", "x", sets=[])
    for _ in range(MAX_ATTEMPTS):
        assert take_up(job.pk) is not None
    assert take_up(job.pk) is None
    job.refresh_from_db()
    assert (job.state, "died" in job.message) == ("failed", True)


def test_a_target_may_refuse_sets_with_findings_until_they_are_waived(call, run_jobs, take_in, tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull", seed=9)
    (tmp_path / "in" / "hull_n.png").unlink()
    sets = {one["name"]: one for one in take_in(tmp_path / "in")["sets"]}
    call("PUT", "/rules/target/orm-y-minus", {**builtin_targets()["orm-y-minus"], "refuses": "warning"})
    run_jobs()
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus"})
    assert any(one.startswith("hull: the target refuses sets with errors and warnings") for one in plan["problems"])
    assert "hull" not in {one["set"] for one in plan["files"]}
    for finding in call("GET", f"/sets/{sets['hull']['id']}")["findings"]:
        if finding["severity"] != "note":
            call("POST", "/waivers", {"finding": finding["id"], "reason": "seen"})
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus"})
    assert "hull" in {one["set"] for one in plan["files"]}


def test_a_target_that_refuses_findings_takes_no_set_that_was_not_checked(call, take_in, tmp_path):
    simple_set(tmp_path / "in", "deck")
    take_in(tmp_path / "in")
    # Its findings are asked for anew, and no worker has got to it.
    call("PUT", "/rules/target/orm-y-minus", {**builtin_targets()["orm-y-minus"], "refuses": "error"})
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus"})
    assert plan["problems"] == ["deck: it is not checked yet, and this target takes checked sets only"]


def test_a_plan_says_what_it_takes_of_the_targets_memory(call, take_in, tmp_path):
    simple_set(tmp_path / "in", "deck")
    take_in(tmp_path / "in")
    assert call("POST", "/deliveries/plan", {"target": "orm-y-minus"})["budget"] is None
    call("PUT", "/rules/target/orm-y-minus", {**builtin_targets()["orm-y-minus"], "budget": {"memory_mib": 2}})
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus"})
    assert plan["budget"] == 2 * 1024 * 1024
    assert plan["memory"] == sum(one["memory"] for one in plan["files"] if one["kind"] == "map")
