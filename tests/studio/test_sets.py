"""Sets: moved, renamed, split, merged, repaired, undone; pictures, values and packed previews."""

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from studio.projects.models import Change
from studio.sets.models import TextureSet
from tests.pictures import normal_texels, random_texels, save, simple_set
from texel.files import read
from texel.image import Texels
from texel.roles import Green, Transfer

pytestmark = pytest.mark.django_db


@pytest.fixture
def roll(take_in, tmp_path):
    folder = tmp_path / "in"
    simple_set(folder, "deck")
    simple_set(folder, "hull", normal_word="nor_gl", green=Green.DOWN, seed=9)
    save(folder / "IMG_1.png", random_texels("rgb", width=64, height=64))
    return take_in(folder)


def named(roll, name):
    return next(one for one in roll["sets"] if one["name"] == name)


def map_of(one, role):
    return next(m for m in one["maps"] if m["role"] == role)


def picture(call, path):
    return np.asarray(Image.open(io.BytesIO(call("GET", path).content)))


def test_the_roll_says_what_is_wrong(roll):
    assert [one["name"] for one in roll["sets"]] == ["deck", "hull"]
    hull = named(roll, "hull")
    assert (hull["errors"], hull["judged"]) == (1, True)
    assert map_of(hull, "normal")["worst"] == "error"
    assert roll["undecided"][0]["candidates"][0]["role"] == "base_color"


def test_a_remedy_is_applied_undone_and_done_again(call, roll, run_jobs):
    hull = named(roll, "hull")
    (found,) = call("GET", f"/sets/{hull['id']}")["findings"]
    call("PUT", f"/maps/{found['map']}/recipe", {"recipe": [found["remedy"]], "label": found["remedy"]["label"]})
    assert not call("GET", f"/sets/{hull['id']}")["judged"]
    run_jobs()
    mended = call("GET", f"/sets/{hull['id']}")
    assert (mended["findings"], mended["judged"]) == ([], True)
    assert call("POST", "/undo")["label"].startswith("Flip green")
    run_jobs()
    assert len(call("GET", f"/sets/{hull['id']}")["findings"]) == 1
    assert call("GET", "/sets")["redo"].startswith("Flip green")
    call("POST", "/redo")
    run_jobs()
    assert call("GET", f"/sets/{hull['id']}")["findings"] == []
    assert call("POST", "/redo")["label"] is None


def test_moving_within_a_set_exchanges(call, roll):
    deck = named(roll, "deck")
    rough, metal = map_of(deck, "roughness"), map_of(deck, "metallic")
    call("POST", f"/maps/{rough['id']}/place", {"set": deck["id"], "role": "metallic"})
    now = call("GET", f"/sets/{deck['id']}")
    assert map_of(now, "metallic")["file"] == rough["file"]
    assert map_of(now, "roughness")["file"] == metal["file"]
    assert map_of(now, "metallic")["by_hand"]


def test_moving_to_another_set_keeps_what_was_there_as_a_spare(call, roll):
    deck, hull = named(roll, "deck"), named(roll, "hull")
    call("POST", f"/maps/{map_of(deck, 'roughness')['id']}/place", {"set": hull["id"], "role": "roughness"})
    now = call("GET", f"/sets/{hull['id']}")
    both = [m for m in now["maps"] if m["role"] == "roughness"]
    assert [(m["file"], m["in_use"]) for m in both] == [("deck_r.png", True), ("hull_r.png", False)]
    call("POST", "/undo")
    assert len(call("GET", f"/sets/{hull['id']}")["maps"]) == 6


def test_undecided_files_find_a_place_and_lose_it_again(call, roll):
    left = roll["undecided"][0]["map"]["id"]
    call("POST", f"/maps/{left}/place", {"new_set": "sky", "role": "base_color"})
    sky = named(call("GET", "/sets"), "sky")
    call("POST", f"/maps/{left}/place", {"set": None})
    after = call("GET", "/sets")
    assert [one["name"] for one in after["sets"]] == ["deck", "hull"]
    assert len(after["undecided"]) == 1
    call("POST", "/undo")
    assert named(call("GET", "/sets"), "sky")["id"] == sky["id"]


def test_rename_merge_and_split_and_all_of_it_undone(call, roll):
    before = call("GET", "/sets")["sets"]
    deck, hull = named(roll, "deck"), named(roll, "hull")
    assert "another set is called hull" in call("PATCH", f"/sets/{deck['id']}", {"name": "hull"}, 409)["detail"]
    call("PATCH", f"/sets/{deck['id']}", {"name": " "}, 409)
    call("PATCH", f"/sets/{deck['id']}", {"name": "pier deck"})
    call("POST", "/sets/merge", {"into": deck["id"], "sets": [deck["id"], hull["id"]]})
    (one,) = call("GET", "/sets")["sets"]
    assert len(one["maps"]) == 12
    assert all(m["file"].startswith("deck") for m in one["maps"] if m["in_use"])
    spare = [m["id"] for m in one["maps"] if not m["in_use"]]
    call("POST", f"/sets/{deck['id']}/split", {"name": "off", "maps": spare})
    call("POST", f"/sets/{deck['id']}/split", {"name": "none", "maps": []}, 409)
    assert {s["name"]: len(s["maps"]) for s in call("GET", "/sets")["sets"]} == {"pier deck": 6, "off": 6}
    for _ in range(3):
        call("POST", "/undo")

    def bare(sets):
        return [(s["id"], s["name"], [(m["id"], m["role"], m["in_use"]) for m in s["maps"]]) for s in sets]

    assert bare(call("GET", "/sets")["sets"]) == bare(before)
    assert call("POST", "/undo")["label"] == "Sort in"
    assert call("POST", "/undo")["label"] is None


def test_a_new_change_forgets_what_was_undone(call, roll):
    deck = named(roll, "deck")
    call("PATCH", f"/sets/{deck['id']}", {"name": "a"})
    call("POST", "/undo")
    call("PATCH", f"/sets/{deck['id']}", {"name": "b"})
    assert call("POST", "/redo")["label"] is None
    assert [one.label for one in Change.objects.filter(dropped=False)] == ["Sort in", "Rename deck to b"]


def test_alpha_gets_a_role(call, take_in, run_jobs, tmp_path):
    folder = tmp_path / "in"
    simple_set(folder, "leaf")
    pixels = random_texels("rgba", width=64, height=64).pixels
    save(folder / "leaf_bc.png", Texels(pixels, "rgba", Transfer.SRGB))
    (leaf,) = take_in(folder)["sets"]
    colour = map_of(leaf, "base_color")
    made = call("POST", f"/maps/{colour['id']}/alpha", {"role": "opacity"})
    run_jobs()
    now = call("GET", f"/sets/{leaf['id']}")
    assert "hidden_alpha" not in {f["check"] for f in now["findings"]}
    np.testing.assert_array_equal(picture(call, f"/maps/{made['id']}/picture"), pixels[:, :, 3])
    call("POST", f"/maps/{map_of(leaf, 'roughness')['id']}/alpha", {"role": "opacity"}, 409)


def test_pictures_show_stored_numbers(call, roll, tmp_path):
    deck = named(roll, "deck")
    colour, rough = map_of(deck, "base_color"), map_of(deck, "roughness")
    stored = read(tmp_path / "in/deck_bc.png").pixels
    np.testing.assert_array_equal(picture(call, f"/maps/{colour['id']}/picture"), stored)
    np.testing.assert_array_equal(picture(call, f"/maps/{colour['id']}/picture?channel=g"), stored[:, :, 1])
    box = picture(call, f"/maps/{colour['id']}/picture?box=8,4,10,6")
    np.testing.assert_array_equal(box, stored[4:10, 8:18])
    assert picture(call, f"/maps/{rough['id']}/picture?side=16").shape == (16, 16)
    call("GET", f"/maps/{colour['id']}/picture?channel=a", status=422)
    call("GET", f"/maps/{colour['id']}/picture?box=900,900,4,4", status=422)
    call("GET", f"/maps/{colour['id']}/picture?box=nonsense", status=422)


def test_values_are_exact_at_16_bits(call, roll, tmp_path):
    height = map_of(named(roll, "deck"), "height")
    answer = call("GET", f"/maps/{height['id']}/values?x=10&y=20&width=5&height=3")
    assert (answer.headers["X-Texel-Type"], answer.headers["X-Texel-Channels"]) == ("uint16", "y")
    numbers = np.frombuffer(answer.content, "<u2").reshape(3, 5)
    np.testing.assert_array_equal(numbers, read(tmp_path / "in/deck_h.png").pixels[20:23, 10:15, 0])


def test_the_packed_preview_is_what_would_be_delivered(call, roll, tmp_path):
    deck = named(roll, "deck")
    outputs = call("GET", f"/sets/{deck['id']}/outputs?target=orm-y-minus")
    orm = next(one for one in outputs if one["output"] == "orm")
    by_letter = {c["letter"]: c for c in orm["channels"]}
    assert {k: c["role"] for k, c in by_letter.items()} == {"r": "occlusion", "g": "roughness", "b": "metallic"}
    assert by_letter["g"]["map"] == map_of(deck, "roughness")["id"]
    shown = picture(call, f"/sets/{deck['id']}/packed?target=orm-y-minus&path=deck/deck_orm.png&channel=g")
    np.testing.assert_array_equal(shown, read(tmp_path / "in/deck_r.png").pixels[:, :, 0])
    call("GET", f"/sets/{deck['id']}/packed?target=orm-y-minus&path=nothing", status=422)
    call("GET", f"/sets/{deck['id']}/outputs?target=engine", status=422)
    # The glTF copy of a Y- target's normal is another file than its own normal.
    normals = [one for one in outputs if one["output"] == "normal"]
    own, copy = (picture(call, f"/sets/{deck['id']}/packed?target=orm-y-minus&path={one['path']}") for one in normals)
    np.testing.assert_array_equal(own[:, :, 1], 255 - copy[:, :, 1])


def test_one_packed_file_can_be_had_by_itself(call, roll, run_jobs):
    deck = named(roll, "deck")
    answer = call("GET", f"/sets/{deck['id']}/file?target=orm-y-minus&path=deck/deck_orm.png")
    assert "deck_orm.png" in answer.headers["Content-Disposition"]
    call("POST", "/deliveries", {"target": "orm-y-minus"})
    run_jobs()
    (made,) = call("GET", "/deliveries")
    assert (Path(made["folder"]) / "deck/deck_orm.png").read_bytes() == answer.content


def test_a_change_while_judging_is_not_overwritten(call, roll, run_jobs, monkeypatch):
    from studio.sets import judging

    deck = named(roll, "deck")
    real = judging.judge_set

    def slow(*words):
        TextureSet.objects.filter(pk=deck["id"]).update(revision=99)
        return real(*words)

    call("POST", f"/sets/{deck['id']}/judge", status=204)
    monkeypatch.setattr(judging, "judge_set", slow)
    run_jobs()
    assert not call("GET", f"/sets/{deck['id']}")["judged"]


def test_a_recipe_that_does_not_exist_is_refused(call, roll):
    normal = map_of(named(roll, "hull"), "normal")
    for step in ({"step": "sharpen"}, {"step": "resize"}, {"step": "resize", "width": -1, "height": 4}):
        call("PUT", f"/maps/{normal['id']}/recipe", {"recipe": [step]}, 422)
    call("POST", f"/maps/{normal['id']}/place", {"set": named(roll, "hull")["id"], "role": "nothing"}, 422)


def test_the_second_intake_may_hold_a_path_of_the_first(call, roll, take_in, tmp_path):
    folder = tmp_path / "again"
    simple_set(folder, "deck", seed=33)
    save(folder / "deck_n.png", normal_texels(Green.DOWN, 64))
    names = {one["name"] for one in take_in(folder)["sets"]}
    assert names == {"deck", "deck_2", "hull"}


def test_twins_are_told_in_both_sets_until_one_changes(call, take_in, tmp_path, run_jobs):
    for stem, seed in (("deck", 1), ("hull", 20)):
        simple_set(tmp_path / "in", stem, seed=seed)
    (tmp_path / "in" / "hull_h.png").write_bytes((tmp_path / "in" / "deck_h.png").read_bytes())
    sets = {one["name"]: one["id"] for one in take_in(tmp_path / "in")["sets"]}

    def twins(name):
        found = call("GET", f"/sets/{sets[name]}")["findings"]
        return [f["message"] for f in found if f["check"] == "twin_across_project"]

    assert twins("deck") == ["The same picture as height of hull: shared on purpose, or misplaced?"]
    assert twins("hull") == ["The same picture as height of deck: shared on purpose, or misplaced?"]
    height = next(m for m in call("GET", f"/sets/{sets['hull']}")["maps"] if m["role"] == "height")
    call("PUT", f"/maps/{height['id']}/recipe", {"recipe": [{"step": "power", "exponent": 3}]})
    run_jobs()
    assert twins("deck") == twins("hull") == []


def test_what_the_projects_target_takes_is_judged_when_it_changes(call, take_in, tmp_path, run_jobs):
    simple_set(tmp_path / "in", "deck")
    one = take_in(tmp_path / "in")["sets"][0]["id"]
    document = call("GET", "/targets/orm-y-plus") | {"name": "small", "largest": 32}
    call("PUT", "/targets/small", document)
    call("PATCH", "", {"target": "small"})
    run_jobs()
    found = [f for f in call("GET", f"/sets/{one}")["findings"] if f["check"] == "larger_than_target"]
    assert {(f["measure"], f["threshold"]) for f in found} == {(64, 32)}
    plan = call("POST", "/deliveries/plan", {"target": "small"})
    assert {(f["width"], f["height"]) for f in plan["files"] if f["kind"] == "map"} == {(32, 32)}
