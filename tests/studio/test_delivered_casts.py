"""Casts in deliveries through the API: planned, built in a worker, kept in step, brought along."""

import pytest

from demo.materials import MASTERS, NEWER
from studio.deliveries.models import Delivery
from tests.pictures import simple_set
from texel.delivery import builtin_targets
from texel.materials.exchange import read_gltf

pytestmark = pytest.mark.django_db
TARGET = "orm-y-minus"


@pytest.fixture
def sets(take_in, tmp_path):
    for seed, name in enumerate(("deck", "hull"), 3):
        simple_set(tmp_path / "in", name, seed=seed)
    return {one["name"]: one["id"] for one in take_in(tmp_path / "in")["sets"]}


@pytest.fixture
def cast(call, library, sets):
    library("POST", "/masters", MASTERS[0])
    library("POST", f"/masters/{MASTERS[0]['name']}/publish", {})
    made = call("POST", "/materials", {"name": "Wet deck", "master": MASTERS[0]["name"]})["id"]
    call("POST", f"/materials/{made}/fill", {"set": sets["deck"]})
    return made


def planned(call, **order):
    plan = call("POST", "/deliveries/plan", {"target": TARGET, **order})
    return {one["path"]: (one["status"], one["why"]) for one in plan["files"] if one["cast"]}


def deliver(call, run_jobs, **order):
    made = call("POST", "/deliveries", {"target": TARGET, **order})
    run_jobs()
    return call("GET", f"/deliveries/{made['number']}")


def test_a_cast_is_delivered_with_the_sets(call, run_jobs, cast):
    assert planned(call, casts=[cast]) == {"materials/wet_deck.glb": ("new", [])}
    made = deliver(call, run_jobs, casts=[cast])
    assert [one["name"] for one in made["manifest"]["casts"]] == ["Wet deck"]
    data = (Delivery.objects.get().folder / "materials/wet_deck.glb").read_bytes()
    assert [one.document["title"] for one in read_gltf(data)] == ["Wet deck"]
    assert planned(call, casts=[cast]) == {"materials/wet_deck.glb": ("unchanged", [])}


def test_without_a_word_no_cast_is_delivered(call, run_jobs, cast):
    assert "casts" not in deliver(call, run_jobs)["manifest"]


def test_casts_alone_may_be_delivered(call, run_jobs, cast):
    made = deliver(call, run_jobs, sets=[], casts=None)
    assert made["state"] == "done", made["message"]
    assert {entry["kind"] for entry in made["manifest"]["files"]} == {"cast"}


def test_nothing_at_all_is_refused(call, cast):
    answer = call("POST", "/deliveries", {"target": TARGET, "sets": [], "casts": []}, status=422)
    assert "at least one set, cast, model or patch of ground" in answer["detail"]


def test_what_changed_about_a_cast_is_said(call, run_jobs, cast, sets, library):
    deliver(call, run_jobs, casts=[cast])
    call("PATCH", f"/materials/{cast}", {"changes": {"relief": 2}})
    assert planned(call, casts=[cast]) == {"materials/wet_deck.glb": ("changed", ["parameters"])}
    call("POST", "/undo")
    first = next(one for one in call("GET", f"/sets/{sets['deck']}")["maps"] if one["role"] == "roughness")
    call("PUT", f"/maps/{first['id']}/recipe", {"recipe": [{"step": "invert"}]})
    assert planned(call, casts=[cast]) == {"materials/wet_deck.glb": ("changed", ["recipe"])}


def test_a_newer_master_is_a_reason(call, run_jobs, cast, library):
    deliver(call, run_jobs, casts=[cast])
    name = MASTERS[0]["name"]
    newer = next((document for document, _ in NEWER if document["name"] == name), {**MASTERS[0], "title": "Newer"})
    library("PUT", f"/masters/{name}/draft", newer)
    newest = library("POST", f"/masters/{name}/publish", {})["newest"]
    call("PUT", f"/materials/masters/{name}", {"number": newest})
    assert "master" in planned(call, casts=[cast])["materials/wet_deck.glb"][1]


def test_casts_that_are_not_chosen_stay_where_others_are_kept(call, run_jobs, cast, sets):
    deliver(call, run_jobs, casts=[cast])
    made = deliver(call, run_jobs, sets=[sets["hull"]], keep_others=True)
    assert [one["name"] for one in made["manifest"]["casts"]] == ["Wet deck"]
    assert (Delivery.objects.order_by("number").last().folder / "materials/wet_deck.glb").is_file()


def test_what_changed_since_an_order_does_not_change_what_it_builds(call, run_jobs, cast):
    made = call("POST", "/deliveries", {"target": TARGET, "casts": [cast]})
    call("DELETE", f"/materials/{cast}", status=204)
    run_jobs()
    done = call("GET", f"/deliveries/{made['number']}")
    assert [one["name"] for one in done["manifest"]["casts"]] == ["Wet deck"]


def test_a_cast_of_a_set_that_the_project_refuses_is_left_out(call, run_jobs, cast, sets):
    rules = {
        "format": "fair-texel/licences", "version": 1,
        "terms": [{"licence": "CC0-1.0", "use": "free"}, {"licence": "LicenseRef-no", "use": "refused"}],
    }  # fmt: skip
    call("PUT", "/rules/licences/house", rules)
    call("PUT", "/sets/licence", {"sets": [sets["hull"]], "licence": "CC0-1.0"})
    call("PUT", "/sets/licence", {"sets": [sets["deck"]], "licence": "LicenseRef-no"})
    made = deliver(call, run_jobs, casts=[cast])
    assert any(problem.startswith("the cast Wet deck: it is fed with deck.") for problem in made["problems"])
    assert "casts" not in made["manifest"]


def test_the_target_names_the_formats(call, run_jobs, cast):
    call("PUT", f"/rules/target/{TARGET}", {**builtin_targets()[TARGET], "casts": ["mtlx", "usdz"]})
    made = deliver(call, run_jobs, casts=[cast])
    names = {entry["path"] for entry in made["manifest"]["files"] if entry.get("cast")}
    assert {"materials/wet_deck.mtlx", "materials/wet_deck.usdz"} < names
    assert any(name.startswith("materials/maps/wet_deck_") for name in names)
