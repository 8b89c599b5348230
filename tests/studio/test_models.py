"""Models: taken in, their slots filled by hand and by proposal, exported again, and judged."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from studio.collecting import collect
from studio.intake.models import SourceFile
from studio.jobs.models import Job
from studio.meshes.measuring import measure_outdated
from studio.meshes.models import Mesh, MeshVersion
from studio.store import has
from tests.meshes import glb, gltf_parts, quad
from tests.pictures import simple_set

pytestmark = pytest.mark.django_db


def send(call, files, path="/models", status=200, seen=None):
    """Upload files of a model together."""
    body = {
        "file": [SimpleUploadedFile(name.rsplit("/", 1)[-1], data) for name, data in files.items()],
        "path": list(files),
    }
    headers = {"If-Match": f'"{seen}"'} if seen is not None else None
    answer = call.client.post(f"/api{call.base}{path}", body, headers=headers)
    assert answer.status_code == status, answer.content[:500]
    return json.loads(answer.content)


BOAT = {
    "boat.glb": glb(quad(part="hull", slot="M_hull"), quad(part="rail", slot="M_hull", at=2), quad(slot="rope", at=4))
}


@pytest.fixture
def boat(call, run_jobs):
    model = send(call, BOAT)
    run_jobs()
    return call("GET", f"/models/{model['id']}")


@pytest.fixture
def sets(take_in, tmp_path):
    for name in ("hull", "rope"):
        simple_set(tmp_path / "in", name)
    return {one["name"]: one["id"] for one in take_in(tmp_path / "in")["sets"]}


def slots(model):
    return {one["key"]: one for one in model["slots_out"]}


def checks(model):
    return [one["check"] for one in model["findings"]]


def test_a_model_is_measured_after_it_came(call, run_jobs):
    model = send(call, BOAT)
    assert model["state"] == "measuring"
    run_jobs()
    model = call("GET", f"/models/{model['id']}")
    assert (model["state"], model["triangles"], model["slots"]) == ("ready", 6, 2)
    assert model["size"] == [5, 0, 1]
    assert slots(model)["M_hull"]["parts"] == ["hull", "rail"]


@pytest.mark.django_db(transaction=True)
def test_measuring_ends_where_the_worker_holds_no_transaction(call, run_jobs):
    model = send(call, BOAT)
    run_jobs()
    assert call("GET", f"/models/{model['id']}")["state"] == "ready"


def test_a_model_whose_measuring_failed_is_measured_again(call, boat, run_jobs):
    Mesh.objects.update(problem="the worker died", facts=None)
    assert call("GET", f"/models/{boat['id']}")["state"] == "unreadable"
    assert call("POST", f"/models/{boat['id']}/measure")["state"] == "measuring"
    run_jobs()
    assert call("GET", f"/models/{boat['id']}")["state"] == "ready"


def test_models_that_an_older_release_measured_are_measured_again_once(call, boat, run_jobs):
    Mesh.objects.update(measured="of an older release")
    assert call("GET", f"/models/{boat['id']}")["state"] == "measuring"
    assert (measure_outdated(), measure_outdated()) == (1, 1)
    assert Job.objects.filter(kind="model", state=Job.State.WAITING).count() == 1
    run_jobs()
    assert call("GET", f"/models/{boat['id']}")["state"] == "ready"
    assert measure_outdated() == 0


def test_the_list_says_how_many_slots_are_empty(call, boat):
    row = call("GET", "/models")[0]
    assert (row["name"], row["empty"], row["errors"]) == ("boat", 2, 2)


def test_what_cannot_be_read_is_refused_and_leaves_nothing(call):
    refusal = send(call, {"boat.glb": b"glTF and then nothing"}, status=422)
    assert "boat.glb" in refusal["detail"]
    assert not Mesh.objects.exists()
    assert not MeshVersion.objects.exists()
    assert not SourceFile.objects.exists()


@pytest.mark.parametrize(("name", "words"), [("boat.fbx", "export glTF"), ("../boat.glb", "outside its folder")])
def test_other_files_are_refused_in_words(call, name, words):
    assert words in send(call, {name: b"x"}, status=422)["detail"]


def test_buffers_come_beside_the_mesh(call, run_jobs):
    document, data = gltf_parts([quad()])
    document["buffers"][0]["uri"] = "deck.bin"
    alone = send(call, {"in/deck.gltf": json.dumps(document).encode()}, status=422)
    assert "deck.bin" in alone["detail"]
    model = send(call, {"in/deck.gltf": json.dumps(document).encode(), "in/deck.bin": data})
    assert model["versions"][0]["files"] == ["in/deck.bin", "in/deck.gltf"]


def test_slots_are_proposed_by_name_and_taken(call, boat, sets):
    proposed = {one["key"]: one["proposals"][0] for one in call("GET", f"/models/{boat['id']}/proposals")}
    assert {key: one["name"] for key, one in proposed.items()} == {"M_hull": "hull", "rope": "rope"}
    assert all(one["is_sure"] and one["why"] == "slot" for one in proposed.values())
    wears = {key: {"kind": one["kind"], "id": one["id"]} for key, one in proposed.items()}
    model = call("PATCH", f"/models/{boat['id']}", {"wears": wears}, seen=boat["revision"])
    assert model["empty"] == 0
    assert "slot_empty" not in checks(model)
    worn = {"kind": "set", "id": sets["rope"], "name": "rope", "region": None}
    assert slots(model)["rope"]["worn"] == worn


def test_assigning_is_undone(call, boat, sets):
    call("PATCH", f"/models/{boat['id']}", {"wears": {"rope": {"kind": "set", "id": sets["rope"]}}})
    call("POST", "/undo")
    assert slots(call("GET", f"/models/{boat['id']}"))["rope"]["worn"] is None


def test_two_people_fill_two_slots(call, other, boat, sets):
    path = f"/models/{boat['id']}"
    call("PATCH", path, {"wears": {"rope": {"kind": "set", "id": sets["rope"]}}}, seen=boat["revision"])
    late = other("PATCH", path, {"wears": {"M_hull": {"kind": "set", "id": sets["hull"]}}}, 409, boat["revision"])
    assert slots(late["newest"])["rope"]["worn"]["name"] == "rope"
    both = other("PATCH", path, {"wears": {"M_hull": {"kind": "set", "id": sets["hull"]}}})
    assert both["empty"] == 0


def test_what_is_gone_is_told_and_leaves_the_slot_empty(call, boat, sets):
    call("PATCH", f"/models/{boat['id']}", {"wears": {"rope": {"kind": "set", "id": sets["rope"]}}})
    Mesh.objects.update(wears={"rope": {"kind": "set", "id": 999999}})
    model = call("GET", f"/models/{boat['id']}")
    assert slots(model)["rope"]["worn"]["name"] is None
    assert model["empty"] == 2


@pytest.mark.parametrize(
    "wears", [{"mast": None}, {"rope": {"kind": "set", "id": 999999}}, {"rope": {"kind": "cast", "id": 1}}]
)
def test_what_is_not_there_cannot_be_assigned(call, boat, wears):
    call("PATCH", f"/models/{boat['id']}", {"wears": wears}, 409)


def test_a_new_export_keeps_what_slots_wear(call, boat, sets, run_jobs):
    path = f"/models/{boat['id']}"
    call("PATCH", path, {"wears": {"rope": {"kind": "set", "id": sets["rope"]}}})
    again = {"boat.glb": glb(quad(slot="rope", metres=2), quad(part="lamp", slot="lamp", at=2))}
    send(call, again, f"{path}/models")
    run_jobs()
    model = call("GET", path)
    assert slots(model)["rope"]["worn"]["name"] == "rope"
    assert slots(model)["lamp"]["worn"] is None
    assert [one["number"] for one in model["versions"] if one["is_current"]] == [2]
    call("POST", f"{path}/versions/1")
    run_jobs()
    assert set(slots(call("GET", path))) == {"M_hull", "rope"}


def test_the_same_files_again_are_no_new_version(call, boat):
    assert "already" in send(call, BOAT, f"/models/{boat['id']}/models", 409)["detail"]
    assert MeshVersion.objects.count() == 1


def test_a_shared_slot_is_split_and_joined(call, boat, sets, run_jobs):
    path = f"/models/{boat['id']}"
    call("PATCH", path, {"wears": {"M_hull": {"kind": "set", "id": sets["hull"]}}})
    call("POST", f"{path}/split", {"slot": "M_hull", "part": "rail"})
    run_jobs()
    model = call("GET", path)
    assert slots(model)["M_hull (rail)"]["parts"] == ["rail"]
    assert slots(model)["M_hull (rail)"]["worn"]["name"] == "hull"
    assert slots(model)["M_hull (rail)"]["split_from"] == "M_hull"
    call("POST", f"{path}/join", {"slot": "M_hull", "part": "rail"})
    run_jobs()
    assert set(slots(call("GET", path))) == {"M_hull", "rope"}


def test_slots_are_called_otherwise_but_not_alike(call, boat):
    path = f"/models/{boat['id']}"
    model = call("PATCH", path, {"titles": {"M_hull": "hull"}})
    assert slots(model)["M_hull"]["title"] == "hull"
    assert "two slots" in call("PATCH", path, {"titles": {"M_hull": "rope"}}, 409)["detail"]


def test_slots_are_called_after_what_they_wear_each_once(call, boat, sets):
    path = f"/models/{boat['id']}"
    call("PATCH", path, {"wears": {key: {"kind": "set", "id": sets["hull"]} for key in ("M_hull", "rope")}})
    model = call("POST", f"{path}/call-by-worn")
    assert [one["title"] for one in model["slots_out"]] == ["hull", "hull_2"]
    call("POST", "/undo")
    assert [one["title"] for one in call("GET", path)["slots_out"]] == ["", ""]


def test_scale_changes_density(call, boat, sets, run_jobs):
    path = f"/models/{boat['id']}"
    call("PATCH", path, {"wears": {"rope": {"kind": "set", "id": sets["rope"]}}})
    before = slots(call("GET", path))["rope"]["density"]
    call("PATCH", path, {"metres": 0.5})
    run_jobs()
    assert slots(call("GET", path))["rope"]["density"] == pytest.approx(2 * before)


def test_the_houses_rules_for_models_count(call, boat):
    document = {"format": "fair-texel/models", "version": 1, "title": "Small", "materials": 1}
    call("PUT", "/rules/models/house", document)
    assert "materials_many" in checks(call("GET", f"/models/{boat['id']}"))


def test_pictures_and_the_mesh_are_drawn(call, boat):
    path = f"/models/{boat['id']}"
    assert call("GET", f"{path}/picture.png").content[:4] == b"\x89PNG"
    assert call("GET", f"{path}/slots/0/uvs.png").content[:4] == b"\x89PNG"
    assert call("GET", f"{path}/mesh").content[:4] == b"glTF"
    call("GET", f"{path}/slots/99/uvs.png", status=404)


def test_a_set_without_a_cast_is_drawn_by_a_plain_sheet(call, sets):
    worn = call("GET", f"/models/worn/set/{sets['hull']}")
    assert {one["slot"] for one in worn["fills"]} == {one["name"] for one in worn["sheet"]["slots"]}
    assert all(one["set"] == sets["hull"] for one in worn["fills"])


def test_a_deleted_model_comes_back_with_its_files(call, boat, run_jobs):
    call("DELETE", f"/models/{boat['id']}", status=204)
    assert call("GET", "/models") == []
    call("POST", "/undo")
    run_jobs()
    model = call("GET", f"/models/{boat['id']}")
    assert model["state"] == "ready"
    assert model["versions"][0]["is_current"]


def test_files_of_models_are_not_collected(boat):
    collect(-1)
    digest = SourceFile.objects.get().pk
    assert has(digest)


def test_looking_is_not_changing(sign_in, boat):
    looker = sign_in("look", "cora")
    assert looker("GET", f"/models/{boat['id']}")["name"] == "boat"
    looker("PATCH", f"/models/{boat['id']}", {"name": "ship"}, 403)
    send(looker, BOAT, status=403)


def test_strangers_see_nothing(sign_in, boat):
    stranger = sign_in(None, "dan")
    stranger("GET", f"/models/{boat['id']}", status=404)
    stranger("GET", f"/models/{boat['id']}/mesh", status=404)


# Filled between islands.


def recipes(call, one):
    return [[step["step"] for step in row["recipe"]] for row in call("GET", f"/sets/{one}")["maps"]]


def test_maps_are_filled_between_the_islands_of_a_slot(call, filled, sets):
    call("POST", f"/models/{filled['id']}/slots/1/fill")
    call("POST", f"/models/{filled['id']}/slots/1/fill")
    assert recipes(call, sets["rope"]) == [["fill_between_islands"]] * 6
    call("POST", "/undo")
    assert recipes(call, sets["hull"]) == [[]] * 6


def test_a_slot_that_wears_nothing_has_no_maps_to_fill(call, boat):
    assert "wears nothing" in call("POST", f"/models/{boat['id']}/slots/1/fill", status=409)["detail"]


def test_what_repeats_has_nothing_unused(call, sets, run_jobs):
    model = send(call, {"wall.glb": glb(quad(slot="hull", uv_to=(4, 4)))})
    run_jobs()
    call("PATCH", f"/models/{model['id']}", {"wears": {"hull": {"kind": "set", "id": sets["hull"]}}})
    assert "repeats" in call("POST", f"/models/{model['id']}/slots/0/fill", status=422)["detail"]


# Its own textures.


def textured(folder):
    """A document whose material binds pictures beside it, and one that is not there."""
    simple_set(folder, "own")
    names = {"bc": "own_bc.png", "n": "own_n.png", "r": "own_r.png"}
    document, data = gltf_parts([quad(slot="painted"), quad(slot="plain", at=2)])
    document["buffers"][0]["uri"] = "boat.bin"
    document["images"] = [{"uri": names["bc"]}, {"uri": names["n"]}, {"uri": names["r"]}, {"uri": "gone.png"}]
    document["textures"] = [{"source": at} for at in range(4)]
    document["materials"][0] |= {
        "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}, "metallicRoughnessTexture": {"index": 2}},
        "normalTexture": {"index": 1}, "emissiveTexture": {"index": 3}, "alphaMode": "MASK",
    }  # fmt: skip
    files = {"boat.gltf": json.dumps(document).encode(), "boat.bin": data}
    return files | {name: (folder / name).read_bytes() for name in names.values()}


def test_the_textures_of_its_own_materials_become_sets_that_its_slots_wear(call, run_jobs, tmp_path):
    model = send(call, textured(tmp_path / "own"))
    run_jobs()
    job = call("POST", f"/models/{model['id']}/own-textures")
    run_jobs()
    told = next(one for one in call("GET", "/jobs") if one["id"] == job["id"])
    assert told["message"] == "1 sets; not there: gone.png"
    (one,) = call("GET", "/sets")["sets"]
    maps = {(row["role"], row["channel"]) for row in call("GET", f"/sets/{one['id']}")["maps"]}
    assert maps == {
        ("base_color", None), ("opacity", "a"), ("normal", None), ("roughness", "g"), ("metallic", "b")
    }  # fmt: skip
    slots_now = slots(call("GET", f"/models/{model['id']}"))
    assert slots_now["painted"]["worn"]["name"] == "painted"
    assert slots_now["plain"]["worn"] is None
    call("POST", "/undo")
    assert call("GET", "/sets")["sets"] == []
    assert [one["state"] for one in call("GET", "/intakes")] == ["open"]
    assert slots(call("GET", f"/models/{model['id']}"))["painted"]["worn"] is None


def test_a_model_without_textures_says_which_it_names(call, boat, run_jobs):
    job = call("POST", f"/models/{boat['id']}/own-textures")
    run_jobs()
    told = next(one for one in call("GET", "/jobs") if one["id"] == job["id"])
    assert (told["state"], "has no textures of its own" in told["message"]) == ("failed", True)


# In deliveries.


def deliver(call, run_jobs, **order):
    made = call("POST", "/deliveries", {"target": "orm-y-minus", "sets": [], **order})
    run_jobs()
    return call("GET", f"/deliveries/{made['number']}")


@pytest.fixture
def filled(call, boat, sets):
    wears = {"M_hull": {"kind": "set", "id": sets["hull"]}, "rope": {"kind": "set", "id": sets["rope"]}}
    return call("PATCH", f"/models/{boat['id']}", {"wears": wears})


def test_a_model_is_planned_and_delivered_with_its_slots(call, filled, run_jobs):
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus", "sets": [], "models": [filled["id"]]})
    assert [(one["path"], one["model"], one["kind"]) for one in plan["files"]] == [("models/boat.glb", "boat", "model")]
    made = deliver(call, run_jobs, models=[filled["id"]])
    assert made["state"] == "done", made["message"]
    assert [one["wears"] for one in made["manifest"]["files"][0]["slots"]] == ["hull", "rope"]


def test_a_model_with_an_empty_slot_is_left_out_of_the_plan(call, boat):
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus", "sets": [], "models": [boat["id"]]})
    assert plan["files"] == []
    assert "wears nothing" in plan["problems"][0]


def test_models_that_are_not_chosen_stay_as_they_were_delivered(call, filled, sets, run_jobs):
    deliver(call, run_jobs, models=[filled["id"]])
    later = deliver(call, run_jobs, sets=[sets["rope"]], models=[], keep_others=True)
    assert [one["name"] for one in later["manifest"]["models"]] == ["boat"]
    gone = deliver(call, run_jobs, sets=[sets["rope"]], models=[])
    assert "models" not in gone["manifest"]


def test_a_cast_on_a_slot_is_delivered_as_it_is(call, library, filled, sets, run_jobs):
    from texel.materials.starter import starter

    master = library("POST", "/masters", starter("Plain solid"))["name"]
    library("POST", f"/masters/{master}/publish", {"note": "first"})
    cast = call("POST", "/materials", {"name": "Wet rope", "master": master})
    call("POST", f"/materials/{cast['id']}/fill", {"set": sets["rope"]})
    call("PATCH", f"/models/{filled['id']}", {"wears": {"rope": {"kind": "cast", "id": cast["id"]}}})
    made = deliver(call, run_jobs, models=[filled["id"]])
    assert [one["wears"] for one in made["manifest"]["files"][0]["slots"]] == ["hull", "Wet rope"]


def test_a_model_that_is_not_measured_yet_cannot_be_ordered(call):
    model = send(call, BOAT)
    told = call("POST", "/deliveries/plan", {"target": "orm-y-minus", "sets": [], "models": [model["id"]]}, 409)
    assert "not measured yet" in told["detail"]
