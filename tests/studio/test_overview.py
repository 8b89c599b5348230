"""What waits in a project, and new projects that do not begin empty."""

import pytest

from studio.jobs.models import Job
from studio.projects.models import Project
from tests.pictures import simple_set

pytestmark = pytest.mark.django_db


@pytest.fixture
def sets(take_in, tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull", seed=9)
    return {one["name"]: one for one in take_in(tmp_path / "in")["sets"]}


def test_counts_are_those_of_the_list_of_sets(call, sets):
    told = call("GET", "/overview")
    listed = call("GET", "/sets")["sets"]
    assert told["sets"] == len(listed)
    assert told["waiting"]["errors"] == sum(one["errors"] > 0 for one in listed)
    assert told["waiting"]["warnings"] == sum(one["errors"] == 0 and one["warnings"] > 0 for one in listed)
    assert told["waiting"]["unchecked"] == 0


def test_each_check_tells_in_how_many_sets_it_found_something(call, sets):
    counted = {one["check"]: one["sets"] for one in call("GET", "/overview")["checks"]}
    listed = [check for one in call("GET", "/sets")["sets"] for check in one["checks"]]
    assert counted == {check: listed.count(check) for check in set(listed)}


def test_a_waived_finding_does_not_wait(call, sets):
    deck = call("GET", f"/sets/{sets['deck']['id']}")
    findings = [one for one in deck["findings"] if one["severity"] != "note"]
    for one in findings:
        call("POST", "/waivers", {"finding": one["id"], "reason": "meant so", "until": None})
    waiting = call("GET", "/overview")["waiting"]
    hull = sets["hull"]
    assert waiting["errors"] + waiting["warnings"] == int(bool(hull["errors"] or hull["warnings"]))
    assert call("GET", "")["waiting"] == waiting


def test_a_set_is_changed_when_it_is_another_than_was_delivered(call, sets, run_jobs):
    ids = sorted(one["id"] for one in sets.values())
    assert sorted(call("GET", "/overview")["undelivered"]) == ids
    call("POST", "/deliveries", {"target": "gltf"})
    run_jobs()
    told = call("GET", "/overview")
    assert (told["changed"], told["undelivered"]) == ([], [])
    normal = next(one for one in sets["deck"]["maps"] if one["role"] == "normal")
    call("PUT", f"/maps/{normal['id']}/recipe", {"recipe": [{"step": "renormalise"}]})
    assert call("GET", "/overview")["changed"] == [sets["deck"]["id"]]
    call("POST", "/undo")
    assert call("GET", "/overview")["changed"] == []


def test_the_last_changes_are_told_with_who_made_them(call, sets):
    call("PATCH", f"/sets/{sets['deck']['id']}", {"name": "pier"})
    first = call("GET", "/overview")["changes"][0]
    assert "pier" in first["label"]
    assert first["by"] == "ada"
    call("POST", "/undo")
    assert "pier" not in str(call("GET", "/overview")["changes"][:1])


def test_projects_tell_who_is_in_and_what_waits(call, sets):
    waiting = call("GET", "/overview")["waiting"]
    call("PATCH", f"/sets/{sets['deck']['id']}", {"name": "pier"})
    call.base = ""
    (listed,) = call("GET", "/projects")
    assert listed["people"] == ["ada"]
    assert listed["waiting"]["undecided"] == waiting["undecided"]
    assert listed["last_change"]["by"] == "ada"


def test_a_project_begins_with_anothers_rules_and_target(call, library):
    ready = next(one for one in call("GET", "/rules/target") if one["name"] == "gltf")
    document = {**ready["document"], "name": "quay", "title": "Quay"}
    call("PUT", "/rules/target/quay", document)
    call("PATCH", "", {"target": "quay"})
    call.base = ""
    made = call("POST", "/projects", {"name": "Orchard", "rules_from": "ferry"})
    assert made["target"] == "quay"
    rules = {one["name"]: one for one in call("GET", f"/projects/{made['slug']}/rules/target")}
    assert rules["quay"]["origin"]["project"] == "ferry"


def test_a_project_that_one_may_not_see_is_nothing_to_begin_from(call, sign_in):
    stranger = sign_in(None, "zoe")
    stranger.base = ""
    stranger("POST", "/projects", {"name": "Mine", "rules_from": "ferry"}, status=404)


def test_a_project_begins_with_the_sample(call):
    call.base = ""
    made = call("POST", "/projects", {"name": "Trial", "sample": True, "target": "gltf"})
    assert made["target"] == "gltf"
    assert Job.objects.filter(project__slug=made["slug"]).exists()


def test_nothing_is_begun_with_a_target_that_there_is_not(call):
    call.base = ""
    call("POST", "/projects", {"name": "Trial", "target": "toaster"}, status=422)
    assert not Project.objects.filter(name="Trial").exists()


def test_the_catalogue_names_what_the_page_must_know(call):
    call.base = ""
    told = call("GET", "/catalogue")
    assert {"check": "twin_maps", "title": "Duplicate map"} in told["checks"]
    assert {one["name"]: one["bits"] for one in told["containers"]}["tiff"] == [8, 16, 32]
    assert {one["key"]: one["bits_per_texel"] for one in told["formats"]}["bc1"] == 4
    assert {one["key"] for one in told["written_as"]} == {"mtlx", "openpbr", "glb", "usda", "glsl", "json", "maps"}


def test_a_master_begins_as_a_sheet_that_works(library):
    made = library("POST", "/masters/begin", {"title": "Wet Ground"})
    assert made["name"] == "wet-ground"
    read = library("POST", "/masters/read", made["document"])
    assert read["problem"] is None


def names(call) -> dict[str, int]:
    return {one["name"]: one["id"] for one in call("GET", "/sets")["sets"]}


def test_several_sets_are_renamed_as_one_change_and_may_exchange_names(call, sets):
    before = names(call)
    call("PUT", "/sets/names", {"names": {before["deck"]: "hull", before["hull"]: "deck"}})
    assert names(call) == {"hull": before["deck"], "deck": before["hull"]}
    call("POST", "/undo")
    assert names(call) == before


@pytest.mark.parametrize("wanted", [{"deck": "same", "hull": "same"}, {"deck": " "}, {"deck": "hull"}])
def test_no_set_is_renamed_when_one_name_cannot_be(call, sets, wanted):
    before = names(call)
    call("PUT", "/sets/names", {"names": {before[name]: to for name, to in wanted.items()}}, status=409)
    assert names(call) == before


def test_a_step_is_put_behind_those_of_several_sets(call, sets):
    ids = [one["id"] for one in sets.values()]
    asked = {"sets": ids, "role": "normal", "recipe": [{"step": "renormalise"}]}
    assert call("POST", "/sets/steps", asked) == {"maps": 2}
    rows = [m for one in call("GET", "/sets")["sets"] for m in one["maps"] if m["role"] == "normal"]
    assert [[step["step"] for step in m["recipe"]] for m in rows] == [["renormalise"]] * 2
    call("POST", "/undo")
    assert all(not m["recipe"] for one in call("GET", "/sets")["sets"] for m in one["maps"])


def test_a_step_for_a_role_that_no_set_has_changes_nothing(call, sets):
    asked = {"sets": [one["id"] for one in sets.values()], "role": "emissive", "recipe": [{"step": "invert"}]}
    call("POST", "/sets/steps", asked, status=409)
