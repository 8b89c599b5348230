"""Steps through the API: tried out, kept, copied, maps made from maps, and what hangs together by them."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from studio.sets.models import Placement, TextureSet
from texel.files import read
from texel.library import Library
from texel.recipes import apply_recipe
from texel.roles import Role
from texel.sets import MapRef

pytestmark = pytest.mark.django_db


@pytest.fixture
def roll(call, take_in, tmp_path):
    from tests.pictures import simple_set

    for stem in ("deck", "hull"):
        simple_set(tmp_path / "in", stem)
    take_in(tmp_path / "in")
    return {(one["name"], m["role"]): m for one in call("GET", "/sets")["sets"] for m in one["maps"]}


def picture_of(answer) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(answer.content)))


def test_the_catalogue_says_what_there_is(call):
    answer = json.loads(call.client.get("/api/steps").content)
    levels = next(one for one in answer["steps"] if one["step"] == "levels")
    assert [option["name"] for option in levels["options"]] == ["black", "white", "gamma", "low", "high"]
    assert {"source": "height", "role": "normal"}.items() <= answer["derivations"][0].items()


def test_a_recipe_tried_out_is_not_kept(call, roll, tmp_path):
    height = roll["deck", "height"]
    recipe = [{"step": "normal_from_height", "strength": 4}]
    answer = call("GET", f"/maps/{height['id']}/preview?role=normal&recipe={json.dumps(recipe)}")
    assert (answer["X-Texel-Channels"], answer["X-Texel-Bits"], answer["Cache-Control"]) == ("rgb", "16", "no-store")
    library = Library.of_folder(tmp_path / "in")
    wanted = apply_recipe(library.source(MapRef(Role.NORMAL, "deck_h.png")), recipe).pixels
    np.testing.assert_allclose(picture_of(answer).astype(int), wanted / 257, atol=1)
    assert Placement.objects.get(pk=height["id"]).recipe == []
    for bad, word in (("[1]", "list of steps"), ("{", "not JSON"), ('[{"step": "melt"}]', "no step")):
        assert word in call("GET", f"/maps/{height['id']}/preview?recipe={bad}", status=422)["detail"]


def test_a_kept_recipe_writes_its_options_out(call, roll):
    rough = roll["deck", "roughness"]
    steps = [{"step": "levels", "black": 0.1}, {"step": "invert", "off": True}]
    kept = call("PUT", f"/maps/{rough['id']}/recipe", {"recipe": steps})
    assert kept["recipe"][0]["options"] == {"black": 0.1, "white": 1, "gamma": 1, "low": 0, "high": 1}
    assert [one["off"] for one in kept["recipe"]] == [False, True]
    assert kept["digest"] != rough["digest"]


def test_a_map_made_from_another_is_in_use_judged_and_undone(call, roll, run_jobs):
    height = roll["deck", "height"]
    steps = [{"step": "normal_from_height", "strength": 6}]
    made = call("POST", f"/maps/{height['id']}/derive", {"role": "normal", "recipe": steps})
    run_jobs()
    one = next(s for s in call("GET", "/sets")["sets"] if s["name"] == "deck")
    normals = [m for m in one["maps"] if m["role"] == "normal"]
    assert [m["id"] for m in normals if m["in_use"]] == [made["id"]]
    outputs = call("GET", f"/sets/{one['id']}/outputs?target=orm-y-minus")
    normal = next(o for o in outputs if o["output"] == "normal")
    assert {c["map"] for c in normal["channels"]} == {made["id"]}
    assert "Flip green" in normal["channels"][0]["steps"]
    call("POST", "/undo")
    assert not Placement.objects.filter(pk=made["id"]).exists()
    bad = {"role": "normal", "recipe": [{"step": "levels", "black": 9}]}
    assert "0 to 1" in call("POST", f"/maps/{height['id']}/derive", bad, status=422)["detail"]


def test_steps_that_read_another_map_follow_it(call, roll):
    colour, occlusion = roll["deck", "base_color"], roll["deck", "occlusion"]
    with_ao = call("PUT", f"/maps/{colour['id']}/recipe", {"recipe": [{"step": "remove_occlusion"}]})
    shown = picture_of(call("GET", f"/maps/{colour['id']}/picture?side=64"))
    call("PUT", f"/maps/{occlusion['id']}/recipe", {"recipe": [{"step": "invert"}]})
    after = next(m for s in call("GET", "/sets")["sets"] for m in s["maps"] if m["id"] == colour["id"])
    assert after["digest"] != with_ao["digest"]
    assert not np.array_equal(shown, picture_of(call("GET", f"/maps/{colour['id']}/picture?side=64")))
    back = [{"step": "combine_normal", "detail": "base_color"}]
    answer = call("PUT", f"/maps/{occlusion['id']}/recipe", {"recipe": back}, status=422)
    assert "circle" in answer["detail"]
    assert Placement.objects.get(pk=occlusion["id"]).recipe[0]["step"] == "invert"


def test_steps_are_copied_to_other_sets_as_one_change(call, roll):
    rough, other = roll["deck", "roughness"], roll["hull", "roughness"]
    call("PUT", f"/maps/{rough['id']}/recipe", {"recipe": [{"step": "power", "exponent": 2}]})
    sets = list(TextureSet.objects.values_list("pk", flat=True))
    assert call("POST", f"/maps/{rough['id']}/copy-recipe", {"sets": sets}) == {"maps": 1}
    assert Placement.objects.get(pk=other["id"]).recipe[0]["exponent"] == 2
    call("POST", "/undo")
    assert Placement.objects.get(pk=other["id"]).recipe == []
    none = call("POST", f"/maps/{rough['id']}/copy-recipe", {"sets": []}, status=409)
    assert "none of the chosen sets" in none["detail"]


def test_a_histogram_counts_the_map_as_it_is_kept(call, roll, tmp_path):
    rough = roll["deck", "roughness"]
    counted = call("GET", f"/maps/{rough['id']}/histogram")["y"]
    pixels = read(tmp_path / "in" / "deck_r.png").pixels
    np.testing.assert_array_equal(counted["counts"], np.bincount(pixels.ravel(), minlength=256))
    call("PUT", f"/maps/{rough['id']}/recipe", {"recipe": [{"step": "constant", "value": 1}]})
    assert call("GET", f"/maps/{rough['id']}/histogram")["y"]["white"] == 1


def test_mip_levels_are_shown_beside_plain_averaging(call, roll):
    rough, normal = roll["deck", "roughness"], roll["deck", "normal"]
    found = call("GET", f"/maps/{rough['id']}/mips")
    assert found["normals"] is True
    assert len(found["levels"]) == found["levels"][0]["width"].bit_length()
    assert found["levels"][2]["right"] > found["levels"][2]["naive"]
    level = picture_of(call("GET", f"/maps/{rough['id']}/mips/2"))
    assert level.mean() / 255 == pytest.approx(found["levels"][2]["right"], abs=1e-4)
    averaged = picture_of(call("GET", f"/maps/{rough['id']}/mips/2?naive=true"))
    assert averaged.shape == level.shape
    assert averaged.mean() < level.mean()
    # Another normal map, another chain.
    call("PUT", f"/maps/{normal['id']}/recipe", {"recipe": [{"step": "normal_strength", "strength": 0}]})
    flat = call("GET", f"/maps/{rough['id']}/mips")["levels"][2]
    assert flat["right"] == pytest.approx(flat["naive"], abs=0.004)
    assert "levels 0 to" in call("GET", f"/maps/{rough['id']}/mips/40", status=422)["detail"]


def test_a_large_map_is_shown_tile_by_tile(call, roll, tmp_path):
    colour = roll["deck", "base_color"]
    pixels = read(tmp_path / "in" / "deck_bc.png").pixels[:, :, :3]
    np.testing.assert_array_equal(picture_of(call("GET", f"/maps/{colour['id']}/tile/0/0/0")), pixels[:512, :512])
    halved = picture_of(call("GET", f"/maps/{colour['id']}/tile/1/0/0"))
    assert halved.shape[0] == pixels.shape[0] // 2
    call("GET", f"/maps/{colour['id']}/tile/0/9/0", status=422)


def test_who_may_only_look_tries_out_but_keeps_nothing(sign_in, roll):
    cleo = sign_in("look", "cleo")
    pk = roll["deck", "roughness"]["id"]
    assert cleo("GET", f'/maps/{pk}/preview?recipe=[{{"step":"invert"}}]').status_code == 200
    cleo("PUT", f"/maps/{pk}/recipe", {"recipe": []}, status=403)
    cleo("POST", f"/maps/{pk}/derive", {"role": "normal", "recipe": []}, status=403)
    cleo("POST", f"/maps/{pk}/copy-recipe", {"sets": []}, status=403)


def test_another_layer_of_a_file_is_chosen_undone_and_shown(call, take_in, tmp_path, run_jobs):
    from tests.core.test_layers_and_primaries import layered

    folder = tmp_path / "in"
    folder.mkdir()
    layered(folder / "deck.exr")
    one = take_in(folder)["sets"][0]
    normal = next(m for m in one["maps"] if m["role"] == "normal")
    assert normal["layer"] == "surface.normal"
    assert normal["layers"] == ["surface.basecolor", "surface.normal", "height"]
    assert len({m["digest"] for m in one["maps"]}) == 3
    height = call("POST", f"/maps/{normal['id']}/layer", {"layer": "height"})
    assert (height["layer"], height["channels"]) == ("height", "y")
    assert call("GET", f"/maps/{normal['id']}/picture?side=16").headers["Content-Type"] == "image/png"
    assert call("GET", f"/maps/{normal['id']}/preview?recipe=[]").headers["X-Texel-Channels"] == "y"
    call("POST", f"/maps/{normal['id']}/layer", {"layer": "albedo"}, status=422)
    call("POST", "/undo")
    roll = call("GET", "/sets")
    assert next(m for m in roll["sets"][0]["maps"] if m["id"] == normal["id"])["layer"] == "surface.normal"


def recipes_of(call, name):
    one = next(one for one in call("GET", "/sets")["sets"] if one["name"] == name)
    return one, {m["role"]: [step["step"] for step in m["recipe"]] for m in one["maps"]}


def test_a_set_is_made_tileable_as_one_change_and_back(call, roll):
    one, before = recipes_of(call, "deck")
    order = {"guide": roll["deck", "base_color"]["id"], "corners": [0, 0, 0.75, 0, 0.75, 1, 0, 1], "light": 1}
    made = call("POST", f"/sets/{one['id']}/tileable", order)
    assert made["maps"] == len(before)
    one, steps = recipes_of(call, "deck")
    assert steps["base_color"] == ["straighten", "even_light", "patch_borders"]
    assert all(added == ["straighten", "patch_borders"] for role, added in steps.items() if role != "base_color")
    plans = {step["options"]["patches"] for m in one["maps"] for step in m["recipe"] if step["step"] == "patch_borders"}
    assert len(plans) == 1
    assert plans != {""}
    call("POST", "/undo")
    assert recipes_of(call, "deck")[1] == before


def test_done_anew_it_replaces_what_it_did_and_leaves_other_steps(call, roll):
    guide = roll["deck", "base_color"]["id"]
    call("PUT", f"/maps/{guide}/recipe", {"recipe": [{"step": "levels", "black": 0.1}]})
    one, _ = recipes_of(call, "deck")
    for borders in ("patch", "fade"):
        call("POST", f"/sets/{one['id']}/tileable", {"guide": guide, "borders": borders})
    assert recipes_of(call, "deck")[1]["base_color"] == ["levels", "make_tileable"]


@pytest.mark.parametrize(
    ("wrong", "word"),
    [
        ({"corners": [0, 0, 1, 1, 1, 0, 0, 1]}, "clockwise"), ({"corners": [0, 0]}, "eight numbers"),
        ({"width": 0.9}, "width must be"), ({"light": 7}, "strength must be"),
        ({"corners": [0, 0, 2, 0, 2, 1, 0, 1]}, "must be"),
    ],
)  # fmt: skip
def test_what_cannot_be_made_tileable_is_told_and_changes_nothing(call, roll, wrong, word):
    one, before = recipes_of(call, "deck")
    told = call("POST", f"/sets/{one['id']}/tileable", {"guide": roll["deck", "base_color"]["id"], **wrong}, 422)
    assert word in told["detail"]
    assert recipes_of(call, "deck")[1] == before


def test_a_map_of_another_set_is_no_guide(call, roll):
    one, _ = recipes_of(call, "deck")
    call("POST", f"/sets/{one['id']}/tileable", {"guide": roll["hull", "base_color"]["id"]}, 409)


def test_what_is_tried_out_tells_its_seams(call, roll):
    told = [
        call("GET", f"/maps/{roll['deck', 'base_color']['id']}/preview?recipe={json.dumps(recipe)}").headers
        for recipe in ([], [{"step": "straighten", "upper_right_x": 0.6, "lower_right_x": 0.6}])
    ]
    assert all(float(one["X-Texel-Seam-X"]) >= 0 for one in told)
    assert told[0]["X-Texel-Seam-X"] != told[1]["X-Texel-Seam-X"]
