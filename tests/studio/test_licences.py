"""Licences through the API: said of sets, held against the project's rules, followed from project to project."""

import pytest

from demo.licences import RULES
from demo.materials import MASTERS
from studio.intake.models import Intake
from studio.intake.uploads import take_folder
from studio.jobs.queue import enqueue
from studio.projects.models import Project
from tests.pictures import normal_texels, save, simple_set
from texel.roles import Green


@pytest.fixture
def folder(tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull", seed=30)
    return tmp_path / "in"


@pytest.fixture
def roll(take_in, folder):
    return {one["name"]: one["id"] for one in take_in(folder)["sets"]}


def say(call, run_jobs, sets, licence, credit="", status=200):
    told = call("PUT", "/sets/licence", {"sets": sets, "licence": licence, "credit": credit}, status=status)
    run_jobs()
    return told


def findings(call, pk):
    return {f["check"]: f for f in call("GET", f"/sets/{pk}")["findings"] if "licence" in f["check"]}


def keep_rules(call, run_jobs):
    call("PUT", "/rules/licences/house", RULES)
    run_jobs()


def test_a_licence_is_said_of_several_sets_at_once_and_undone(call, roll, run_jobs, sign_in):
    both = list(roll.values())
    for wrong, status in (("two words", 409), ("x" * 101, 409)):
        say(call, run_jobs, both, wrong, status=status)
    say(call, run_jobs, [], "CC0-1.0", status=409)
    say(call, run_jobs, [*both, 999999], "CC0-1.0", status=404)
    sign_in("look", "cleo")("PUT", "/sets/licence", {"sets": both, "licence": "CC0-1.0"}, status=403)
    told = say(call, run_jobs, both, "CC-BY-4.0", "  Imke   of the marsh ")
    assert [(one["licence"], one["credit"]) for one in told] == [("CC-BY-4.0", "Imke of the marsh")] * 2
    assert call("GET", "/sets.json")["sets"][0]["licence"] == {"name": "CC-BY-4.0", "credit": "Imke of the marsh"}
    assert call("POST", "/undo")["label"] == "Licence of 2 sets: CC-BY-4.0"
    assert {one["licence"] for one in call("GET", "/sets")["sets"]} == {""}


def test_terms_stay_with_maps_that_change_their_set(call, roll, run_jobs):
    deck, hull = roll["deck"], roll["hull"]
    say(call, run_jobs, [deck], "CC-BY-4.0", "Imke")
    height = next(m for m in call("GET", f"/sets/{deck}")["maps"] if m["role"] == "height")
    call("POST", f"/maps/{height['id']}/place", {"set": hull, "role": "detail_mask"})
    assert [call("GET", f"/sets/{hull}")[key] for key in ("licence", "credit")] == ["CC-BY-4.0", "Imke"]
    say(call, run_jobs, [hull], "CC0-1.0")
    told = call("POST", "/sets/merge", {"into": hull, "sets": [deck, hull]}, status=409)
    assert "deck came under CC-BY-4.0" in told["detail"]
    say(call, run_jobs, [hull], "cc-by-4.0")
    call("POST", "/sets/merge", {"into": hull, "sets": [deck, hull]})
    assert len(call("GET", "/sets")["sets"]) == 1


def test_what_the_project_does_not_take_is_found_left_out_and_lived_with(call, roll, run_jobs):
    deck, hull = roll["deck"], roll["hull"]
    say(call, run_jobs, [deck], "LicenseRef-print-only")
    # The ready-made rules are an offer; nothing is held against them.
    assert findings(call, deck) == {}
    keep_rules(call, run_jobs)
    assert findings(call, hull)["licence_unknown"]["severity"] == "warning"
    refused = findings(call, deck)["licence_refused"]
    order = {"target": "orm-y-minus", "sets": [deck, hull]}
    plan = call("POST", "/deliveries/plan", order)
    assert {one["set"] for one in plan["files"]} == {"hull"}
    assert "LicenseRef-print-only" in plan["problems"][0]
    number = call("POST", "/deliveries", order)["number"]
    run_jobs()
    made = call("GET", f"/deliveries/{number}")
    assert (made["state"], [one["name"] for one in made["manifest"]["sets"]]) == ("done", ["hull"])
    # It may still be looked at.
    assert call("GET", f"/sets/{deck}/outputs?target=orm-y-minus")

    call("POST", "/waivers", {"finding": refused["id"], "reason": "Asked; the maker agrees."})
    assert {one["set"] for one in call("POST", "/deliveries/plan", order)["files"]} == {"deck", "hull"}
    # The reason holds for that licence alone.
    say(call, run_jobs, [deck], "LicenseRef-loan")
    assert findings(call, deck)["licence_refused"]["waiver"] is None
    assert {one["set"] for one in call("POST", "/deliveries/plan", order)["files"]} == {"hull"}


def test_a_cast_fed_against_a_licence_says_so_and_is_not_written(call, library, roll, run_jobs):
    library("POST", "/masters", MASTERS[0])
    library("POST", "/masters/plain-solid/publish", {"note": "First"})
    cast = call("POST", "/materials", {"name": "Deck", "master": "plain-solid"})["id"]
    call("POST", f"/materials/{cast}/fill", {"set": roll["deck"]})
    say(call, run_jobs, [roll["deck"]], "LicenseRef-print-only")
    assert call("GET", f"/materials/{cast}")["worst"] is None
    keep_rules(call, run_jobs)
    told = call("GET", f"/materials/{cast}")
    assert told["worst"] == "error"
    assert {r["slot"] for r in told["remarks"] if r["check"] == "licence_refused"} == {"colour", "pack", "bumps"}
    assert call("GET", "/materials")["casts"][0]["worst"] == "error"
    call("POST", "/materials/exports", {"casts": [cast], "format": "glb"})
    run_jobs()
    (export,) = call("GET", "/materials/exports")
    assert export["state"] == "failed"
    assert "Deck is fed with deck" in export["message"]


def test_the_licence_follows_files_into_another_project(call, roll, run_jobs, project, folder, tmp_path):
    say(call, run_jobs, [roll["deck"]], "LicenseRef-print-only")
    # One map alone, plain and the same everywhere, takes nothing along.
    simple_set(tmp_path / "again", "shed", seed=77)
    (tmp_path / "again" / "shed_ao.png").write_bytes((folder / "deck_ao.png").read_bytes())
    for path in folder.iterdir():
        (tmp_path / "again" / path.name).write_bytes(path.read_bytes())
    other = Project.objects.create(slug="orchard", name="Orchard")
    intake = Intake.objects.create(project=other, name="again", state=Intake.State.SORTING)
    take_folder(intake, tmp_path / "again")
    enqueue(other, "sort", "Sort", None, intake=intake.pk)
    run_jobs()
    told = {"deck": "LicenseRef-print-only", "hull": "", "shed": ""}
    assert dict(other.sets.values_list("name", "licence")) == told


def test_a_turned_or_unknown_green_is_told_where_it_is_fed(call, library, take_in, tmp_path):
    simple_set(tmp_path / "in", "up")
    simple_set(tmp_path / "in", "down", green=Green.DOWN, seed=9)
    simple_set(tmp_path / "in", "flat", seed=20)
    save(tmp_path / "in" / "flat_n.png", normal_texels(strength=0))
    rows = {one["name"]: one for one in take_in(tmp_path / "in")["sets"]}
    library("POST", "/masters", MASTERS[0])
    library("POST", "/masters/plain-solid/publish", {"note": "First"})
    cast = call("POST", "/materials", {"name": "Deck", "master": "plain-solid"})["id"]

    def told(name):
        call("PATCH", f"/materials/{cast}", {"slots": {"bumps": {"set": rows[name]["id"]}}})
        return {r["check"]: r for r in call("GET", f"/materials/{cast}")["remarks"] if r["slot"] == "bumps"}

    assert told("up") == {}
    assert "is Y-, and is turned to Y+ on the way" in told("down")["green_turned"]["message"]
    assert "nothing tells" in told("flat")["green_unknown"]["message"]
