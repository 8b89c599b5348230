"""A project's habit: seen, taught for all files at once, undone as one, remembered, taken along to another project."""

import json

import pytest

from studio.intake.models import SourceFile
from studio.projects.models import Membership, Project
from studio.sets.models import Placement
from tests.surfaces_small import SURFACE_NAMES, map_of
from texel.files import encode
from texel.roles import Role

pytestmark = pytest.mark.django_db
TREES = ("oak", "elm")
ROLES = {"_c": Role.BASE_COLOR, "_n": Role.NORMAL, "_zub": Role.ROUGHNESS}


@pytest.fixture
def folder(tmp_path):
    """Two sets whose roughness nobody can tell by name or look."""
    root = tmp_path / "trees"
    root.mkdir()
    for at, stem in enumerate(TREES):
        for word, role in ROLES.items():
            (root / f"{stem}{word}.png").write_bytes(encode(map_of(role, SURFACE_NAMES[at]), "png"))
    return root


@pytest.fixture
def roll(take_in, folder):
    return take_in(folder)


def lines_of(call):
    return {line["suffix"]: line for line in call("GET", "/habit")["lines"]}


def teach(call, run_jobs, **line):
    call("POST", "/habit/teach", {"teach": [line]})
    run_jobs()


def placed(call):
    return {(one["name"], m["role"]): m["file"] for one in call("GET", "/sets")["sets"] for m in one["maps"]}


def test_the_habit_says_what_each_suffix_was_taken_for(call, roll):
    lines = lines_of(call)
    assert lines["n"] | {"examples": 0} == lines["n"] | {"role": "normal", "files": 2, "certain": True, "examples": 0}
    assert [m["file"] for m in lines["n"]["examples"]] == ["elm_n.png", "oak_n.png"]
    assert lines["zub"]["decided"] is False
    assert {one["suffix"] for one in roll["undecided"]} == {"_zub"}


def test_a_taught_line_places_all_its_files_and_is_undone_as_one(call, roll, run_jobs):
    teach(call, run_jobs, suffix="zub", role="roughness")
    assert {file for (_, role), file in placed(call).items() if role == "roughness"} == {"oak_zub.png", "elm_zub.png"}
    after = call("GET", "/sets")
    assert after["undecided"] == []
    assert after["undo"] == "Teach that zub means roughness"
    assert lines_of(call)["zub"]["taught"] is True
    call("POST", "/undo")
    assert len(call("GET", "/sets")["undecided"]) == 2
    assert lines_of(call)["zub"]["decided"] is False
    assert Project.objects.get().habit == []
    call("POST", "/redo")
    assert call("GET", "/sets")["undecided"] == []


def test_only_sets_that_changed_are_judged_again(call, folder, take_in, run_jobs):
    for word in ("_c", "_n"):
        (folder / f"fir{word}.png").write_bytes((folder / f"oak{word}.png").read_bytes())
    take_in(folder)
    before = {one["name"]: one["revision"] for one in call("GET", "/sets")["sets"]}
    teach(call, run_jobs, suffix="zub", role="roughness")
    after = {one["name"]: one["revision"] for one in call("GET", "/sets")["sets"]}
    assert {name for name in after if after[name] != before[name]} == {"oak", "elm"}


def test_sets_keep_their_names_and_ids_when_they_are_sorted_again(call, roll, run_jobs):
    oak = next(one for one in roll["sets"] if one["name"] == "oak")
    call("PATCH", f"/sets/{oak['id']}", {"name": "old oak"})
    teach(call, run_jobs, suffix="zub", role="roughness")
    again = {one["id"]: one["name"] for one in call("GET", "/sets")["sets"]}
    assert again[oak["id"]] == "old oak"
    assert len(again) == 2


def test_what_was_decided_by_hand_stays(call, roll, run_jobs):
    oak = next(one for one in roll["sets"] if one["name"] == "oak")
    file = next(one["map"] for one in roll["undecided"] if one["map"]["file"] == "oak_zub.png")
    call("POST", f"/maps/{file['id']}/place", {"set": oak["id"], "role": "height"})
    teach(call, run_jobs, suffix="zub", role="roughness")
    assert placed(call)["oak", "height"] == "oak_zub.png"
    assert placed(call)["elm", "roughness"] == "elm_zub.png"


def test_steps_stay_on_maps_that_keep_their_role(call, roll, run_jobs):
    oak = next(one for one in roll["sets"] if one["name"] == "oak")
    normal = next(m for m in oak["maps"] if m["role"] == "normal")
    call("PUT", f"/maps/{normal['id']}/recipe", {"recipe": [{"step": "flip_green"}], "label": "Flip green"})
    teach(call, run_jobs, suffix="zub", role="roughness")
    assert Placement.objects.get(pk=normal["id"]).recipe == [{"step": "flip_green"}]


def test_two_lines_taught_at_once_both_hold(call, roll, run_jobs):
    """Each job was asked for before the other was done."""
    call("POST", "/habit/teach", {"teach": [{"suffix": "zub", "role": "roughness"}]})
    call("POST", "/habit/teach", {"teach": [{"suffix": "n", "role": "none"}]})
    run_jobs()
    assert {line["suffix"] for line in Project.objects.get().habit} == {"zub", "n"}
    assert {role for _, role in placed(call)} == {"base_color", "roughness"}


def test_what_was_taught_holds_for_the_next_folder_without_decoding_anew(call, roll, run_jobs, take_in, folder):
    teach(call, run_jobs, suffix="zub", role="roughness")
    assert SourceFile.objects.filter(look__isnull=False).exists()
    (folder / "oak_zub.png").rename(folder / "ash_zub.png")
    take_in(folder)
    assert any(file == "ash_zub.png" and role == "roughness" for (_, role), file in placed(call).items())


def test_everything_can_be_sorted_again_and_nothing_changes_that_was_right(call, roll, run_jobs):
    before = {one["id"]: [m["id"] for m in one["maps"]] for one in roll["sets"]}
    call("POST", "/habit/sort-again")
    run_jobs()
    after = call("GET", "/sets")
    assert {one["id"]: [m["id"] for m in one["maps"]] for one in after["sets"]} == before
    assert after["undo"] == "Sort trees", "what changed nothing is nothing to take back"


def test_a_line_can_be_forgotten(call, roll, run_jobs):
    teach(call, run_jobs, suffix="zub", role="roughness")
    call("POST", "/habit/teach", {"forget": [{"suffix": "zub"}]})
    run_jobs()
    assert len(call("GET", "/sets")["undecided"]) == 2


def test_the_habit_goes_to_another_project(call, roll, run_jobs, sign_in):
    teach(call, run_jobs, suffix="zub", role="roughness")
    document = call("GET", "/habit/document")
    assert [line["suffix"] for line in document["lines"]] == ["zub"]
    other = Project.objects.create(slug="orchard", name="Orchard")
    Membership.objects.create(project=other, user_id=Membership.objects.get().user_id, right="prepare")
    call.base = "/projects/orchard"
    call("POST", "/habit/copy", {"project": "ferry"})
    run_jobs()
    assert [line["suffix"] for line in Project.objects.get(slug="orchard").habit] == ["zub"]
    call("PUT", "/habit/document", json.loads(json.dumps(document)))
    run_jobs()
    assert len(Project.objects.get(slug="orchard").habit) == 1


@pytest.mark.parametrize(
    ("body", "word"),
    [
        ({"teach": []}, "at least one"),
        ({"teach": [{"suffix": "x", "role": "wood"}]}, "wood"),
        ({"teach": [{"suffix": "x", "role": "pack"}]}, "no channel"),
        ({"teach": [{"suffix": "x" * 100, "role": "normal"}]}, "habit"),
    ],
)
def test_lessons_that_make_no_sense_are_refused(call, body, word):
    assert word in call("POST", "/habit/teach", body, status=422)["detail"]


def test_who_may_only_look_teaches_nothing(sign_in, roll):
    cleo = sign_in("look", "cleo")
    cleo("POST", "/habit/teach", {"teach": [{"suffix": "zub", "role": "roughness"}]}, status=403)
    assert cleo("GET", "/habit")["lines"]


def test_a_map_can_belong_to_several_sets(call, take_in, tmp_path):
    root = tmp_path / "crates"
    root.mkdir()
    maps = {"crate1a": (Role.BASE_COLOR, 0), "crate1b": (Role.BASE_COLOR, 1), "crate1_n": (Role.NORMAL, 0)}
    for name, (role, at) in maps.items():
        (root / f"{name}.png").write_bytes(encode(map_of(role, SURFACE_NAMES[at]), "png"))
    sets = take_in(root)["sets"]
    assert {one["name"]: {m["file"] for m in one["maps"]} for one in sets} == {
        "crate1a": {"crate1a.png", "crate1_n.png"},
        "crate1b": {"crate1b.png", "crate1_n.png"},
    }
    details = [call("GET", f"/sets/{one['id']}") for one in sets]
    assert not any(f["check"] == "twin_across_project" for one in details for f in one["findings"])


def test_a_map_is_shared_by_hand_and_the_change_undone(call, roll):
    oak, elm = sorted(roll["sets"], key=lambda one: one["name"], reverse=True)
    normal = next(m for m in oak["maps"] if m["role"] == "normal")
    call("POST", f"/maps/{normal['id']}/share", {"set": elm["id"]})
    assert placed(call)["elm", "normal"] in ("elm_n.png", "oak_n.png")
    used = [
        m["file"] for one in call("GET", "/sets")["sets"] if one["name"] == "elm" for m in one["maps"] if m["in_use"]
    ]
    assert "oak_n.png" in used
    assert "already" in call("POST", f"/maps/{normal['id']}/share", {"set": elm["id"]}, 409)["detail"]
    call("POST", "/undo")
    assert len(next(one for one in call("GET", "/sets")["sets"] if one["name"] == "elm")["maps"]) == 2


def test_rules_for_names_are_learnt_from_the_habit(call, roll, run_jobs):
    teach(call, run_jobs, suffix="zub", role="roughness")
    assert call("POST", "/names/learn", {"names": None})["rules"]["suffixes"]["roughness"] == "zub"
