"""Atlases and regions: sets put onto one, slots that come to wear it, trim sheets, and the way back; one undo each."""

import numpy as np
import pytest

from demo.materials import MASTERS
from studio.intake.models import Intake
from studio.jobs.models import Job
from studio.materials.models import Cast
from studio.meshes.measuring import core_mesh, worn_mesh
from studio.meshes.models import Mesh
from tests.meshes import glb, quad
from tests.studio.test_models import BOAT, boat, checks, send, sets, slots

__all__ = ["boat", "sets"]

pytestmark = pytest.mark.django_db
STRIPS = [
    {"name": "plank", "left": 0, "top": 0, "width": 1, "height": 0.25, "metres": [4, 0.5]},
    {"name": "rivets", "left": 0, "top": 0.25, "width": 1, "height": 0.125},
]


@pytest.fixture
def dressed(call, boat, sets):
    wears = {"M_hull": {"kind": "set", "id": sets["hull"]}, "deck": None, "rope": {"kind": "set", "id": sets["rope"]}}
    return call("PATCH", f"/models/{boat['id']}", {"wears": {k: v for k, v in wears.items() if v}})


def order(sets, models=(), **how):
    return {"name": "boat atlas", "sets": [sets["hull"], sets["rope"]], "models": list(models), **how}


def found(call, name):
    return next((one for one in call("GET", "/sets")["sets"] if one["name"] == name), None)


def made(call, run_jobs, sets, models=(), **how):
    call("POST", "/atlases", order(sets, models, **how))
    run_jobs()
    return found(call, "boat atlas")


def put_regions(call, pk, regions, status=200):
    return call("PUT", f"/sets/{pk}/regions", {"regions": regions}, status=status)


def test_a_plan_says_where_sets_would_lie_and_keeps_nothing(call, dressed, sets):
    plan = call("POST", "/atlases/plan", order(sets, [dressed["id"]], padding=4))
    assert (plan["width"], plan["height"], plan["clean"]) == (256, 128, 2)
    assert [(one["name"], one["width"], one["own"]) for one in plan["cells"]] == [
        ("hull", 64, [64, 64]), ("rope", 64, [64, 64])
    ]  # fmt: skip
    assert [(one["slot"], one["problem"]) for one in plan["moves"]] == [("M_hull", ""), ("rope", "")]
    assert found(call, "boat atlas") is None


def test_slots_of_the_models_wear_their_cells_with_uvs_moved_there(call, run_jobs, dressed, sets):
    atlas = made(call, run_jobs, sets, [dressed["id"]])
    model = call("GET", f"/models/{dressed['id']}")
    assert slots(model)["rope"]["worn"] == {
        "kind": "set", "id": atlas["id"], "name": "boat atlas", "region": "rope"
    }  # fmt: skip
    cell = next(one for one in atlas["regions"] if one["name"] == "rope")
    row = Mesh.objects.get()
    uvs = next(one for one in worn_mesh(row).pieces if one.part == "deck").uvs[0]
    assert np.allclose(uvs.min(axis=0), [cell["left"], cell["top"]])
    assert np.allclose(uvs.max(axis=0), [cell["left"] + cell["width"], cell["top"] + cell["height"]])
    assert next(one for one in core_mesh(row).pieces if one.part == "deck").uvs[0].max() == 1
    assert {m["role"] for m in atlas["maps"]} == {
        "base_color", "normal", "roughness", "metallic", "occlusion", "height"
    }  # fmt: skip


def test_one_undo_takes_the_atlas_back_and_redo_brings_it(call, run_jobs, dressed, sets):
    made(call, run_jobs, sets, [dressed["id"]])
    call("POST", "/undo")
    assert found(call, "boat atlas") is None
    assert slots(call("GET", f"/models/{dressed['id']}"))["rope"]["worn"]["id"] == sets["rope"]
    call("POST", "/redo")
    assert found(call, "boat atlas") is not None
    assert slots(call("GET", f"/models/{dressed['id']}"))["rope"]["worn"]["region"] == "rope"


def test_a_slot_whose_maps_repeat_stays_and_the_job_says_why(call, run_jobs, sets):
    model = send(call, {"boat.glb": glb(quad(part="hull", slot="hull", uv_to=(3.0, 3.0)))})
    run_jobs()
    call("PATCH", f"/models/{model['id']}", {"wears": {"hull": {"kind": "set", "id": sets["hull"]}}})
    assert made(call, run_jobs, sets, [model["id"]])
    assert slots(call("GET", f"/models/{model['id']}"))["hull"]["worn"]["id"] == sets["hull"]
    job = next(one for one in call("GET", "/jobs") if one["kind"] == "atlas")
    assert "hull of boat stays as it is: its UVs reach beyond 0 to 1" in job["message"]


def test_cells_by_density_are_as_large_as_their_slots(call, run_jobs, sets):
    """A slot of one metre and one of four, both with UVs from 0 to 1: the sides go one to four."""
    model = send(call, {"b.glb": glb(quad(part="a", slot="hull", metres=4), quad(part="b", slot="rope", at=8))})
    run_jobs()
    wears = {name: {"kind": "set", "id": sets[name]} for name in ("hull", "rope")}
    call("PATCH", f"/models/{model['id']}", {"wears": wears})
    plan = call("POST", "/atlases/plan", order(sets, [model["id"]], by_density=True))
    assert {one["name"]: one["width"] for one in plan["cells"]} == {"hull": 64, "rope": 16}
    assert {one["slot"]: one["density"] for one in plan["moves"]} == pytest.approx({"hull": 16, "rope": 16})


def test_a_cast_that_one_set_fills_gets_a_twin_on_the_atlas(call, run_jobs, dressed, sets, library):
    library("POST", "/masters", MASTERS[0])
    library("POST", f"/masters/{MASTERS[0]['name']}/publish", {})
    cast = call("POST", "/materials", {"name": "Hull paint", "master": MASTERS[0]["name"]})
    call("POST", f"/materials/{cast['id']}/fill", {"set": sets["hull"]})
    call("PATCH", f"/models/{dressed['id']}", {"wears": {"M_hull": {"kind": "cast", "id": cast["id"]}}})
    atlas = made(call, run_jobs, sets, [dressed["id"]])
    worn = slots(call("GET", f"/models/{dressed['id']}"))["M_hull"]["worn"]
    assert (worn["kind"], worn["name"], worn["region"]) == ("cast", "Hull paint on boat atlas", "hull")
    twin = Cast.objects.get(pk=worn["id"])
    assert {fill["set"] for fill in twin.slots.values()} == {atlas["id"]}
    assert {fill["set"] for fill in Cast.objects.get(pk=cast["id"]).slots.values()} == {sets["hull"]}


@pytest.mark.parametrize(
    ("how", "status", "words"),
    [
        ({"sets": []}, 422, "2 to 512"), ({"sets": [98765, 98766]}, 409, "gone"), ({"padding": 3}, 422, "room around"),
        ({"side": [100, 100]}, 422, "powers of two"), ({"side": [64]}, 409, "width and its height"),
        ({"by_density": True, "density": -1}, 422, "above 0"), ({"models": [98765]}, 409, "model that was chosen is"),
    ],
)  # fmt: skip
def test_what_cannot_be_made_is_refused_in_words(call, sets, how, status, words):
    refusal = call("POST", "/atlases/plan", {**order(sets), **how}, status=status)
    assert words in refusal["detail"]


def test_an_atlas_of_sets_under_different_terms_says_so(call, run_jobs, sets):
    call("PUT", "/sets/licence", {"sets": [sets["hull"]], "licence": "CC0-1.0", "credit": "Ada"})
    call("PUT", "/sets/licence", {"sets": [sets["rope"]], "licence": "CC-BY-4.0", "credit": "Bram"})
    atlas = made(call, run_jobs, sets)
    assert (atlas["licence"], atlas["credit"]) == ("LicenseRef-mixed", "Ada; Bram")


def test_an_attempt_after_a_lost_one_goes_on_with_its_files(call, run_jobs, sets):
    """The first attempt ended before its set was written; its intake is kept in the job."""
    made(call, run_jobs, sets)
    call("POST", "/undo")
    Job.objects.filter(kind="atlas").update(state=Job.State.WAITING)
    run_jobs()
    assert Intake.objects.filter(name="boat atlas").count() == 1
    assert len(found(call, "boat atlas")["maps"]) == 6


def test_a_job_that_fails_leaves_no_files_behind(call, run_jobs, sets, monkeypatch):
    def full(*args, **more):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("studio.meshes.atlas_job.write_down", full)
    call("POST", "/atlases", order(sets))
    run_jobs()
    assert next(one for one in call("GET", "/jobs") if one["kind"] == "atlas")["state"] == "failed"
    assert not Intake.objects.filter(name="boat atlas").exists()
    assert found(call, "boat atlas") is None


def test_regions_are_cut_into_sets_with_a_step_each_and_undone(call, run_jobs, sets):
    put_regions(call, sets["hull"], STRIPS)
    cut = call("POST", f"/sets/{sets['hull']}/cut", {"regions": ["plank"]})
    assert [(one["name"], one["metres"]) for one in cut] == [("plank", 4)]
    assert {(one["width"], one["height"]) for one in cut[0]["maps"]} == {(64, 16)}
    assert len(call("POST", f"/sets/{sets['hull']}/cut", {})) == 2
    assert call("POST", f"/sets/{sets['hull']}/cut", {"regions": ["mast"]}, status=409)["detail"]
    call("POST", "/undo")
    assert found(call, "rivets") is None


def test_a_strip_is_worn_and_follows_its_set(call, boat, sets):
    put_regions(call, sets["hull"], STRIPS)
    worn = {"kind": "set", "id": sets["hull"], "region": "plank"}
    model = call("PATCH", f"/models/{boat['id']}", {"wears": {"rope": worn}})
    assert slots(model)["rope"]["worn"]["region"] == "plank"
    assert "strip_stretched" in checks(model)
    put_regions(call, sets["hull"], [{**STRIPS[0], "metres": [4, 1]}, STRIPS[1]])
    assert "strip_stretched" not in checks(call("GET", f"/models/{boat['id']}"))
    refusal = put_regions(call, sets["hull"], STRIPS[1:], status=409)
    assert "the slot rope of boat wears plank" in refusal["detail"]
    call("POST", "/undo")
    assert "strip_stretched" in checks(call("GET", f"/models/{boat['id']}"))


def test_a_region_that_is_not_there_cannot_be_worn(call, boat, sets):
    worn = {"kind": "set", "id": sets["hull"], "region": "mast"}
    assert "no region mast" in call("PATCH", f"/models/{boat['id']}", {"wears": {"rope": worn}}, status=409)["detail"]
    thin = put_regions(call, sets["rope"], [{"name": "hair", "left": 0, "top": 0.9999999, "width": 1, "height": 1e-7}])
    assert call("POST", f"/sets/{thin['id']}/cut", {}, status=422)["detail"]
    bad = put_regions(call, sets["hull"], [{**STRIPS[0], "width": 0.5, "left": 0.9}], status=422)
    assert "beyond the map" in bad["detail"]
    assert BOAT
