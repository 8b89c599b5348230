"""Ready-made masters: each is sound, and does what its title says on a surface where that can be seen."""

import json

import numpy as np
import pytest

from tests.core.test_cli import run, run_json
from texel.errors import BadDocument
from texel.image import Texels
from texel.materials import evaluate, parse_master, remarks_on
from texel.materials.ready import ready_master, ready_masters
from texel.materials.starter import starter
from texel.materials.versions import sample_maps
from texel.roles import Role, Transfer

SIDE = 16
UP = {"world_normal": (0, 1, 0), "world_tangent": (1, 0, 0), "world_bitangent": (0, 0, -1)}
WALL = {"world_normal": (0, 0, 1), "world_tangent": (1, 0, 0), "world_bitangent": (0, 1, 0)}


def surface(name, changes=None, place=None, maps=None, vertex=(0.0, 0.0, 0.0, 1.0)):
    master = parse_master(ready_master(name))
    given = {key: tuple(np.ravel(value)) for key, value in (changes or {}).items()}
    return evaluate(master, sample_maps(master, SIDE) | (maps or {}), given, SIDE, SIDE, vertex=vertex, place=place)


def grey(value, role):
    return Texels(np.full((2, 2, 1), round(value * 255), np.uint8), "y", Transfer.LINEAR, role)


def quarters(role, letters="y"):
    """Four plain cells: 0, 80, 160, 240."""
    cells = np.array([[0, 80], [160, 240]], np.uint8).repeat(8, 0).repeat(8, 1)[..., None]
    return Texels(cells.repeat(len(letters), 2), letters, Transfer.LINEAR, role)


@pytest.mark.parametrize("name", ready_masters())
def test_each_is_sound_and_says_what_it_is_for(name):
    document = ready_master(name)
    assert document["name"] == name
    assert document["help"]
    assert [one.message for one in remarks_on(parse_master(document))] == []


@pytest.mark.parametrize("name", ["snow-by-up", "triplanar-rock-snow"])
def test_snow_lies_on_what_looks_up_and_not_on_walls(name):
    snow = np.array([0.9, 0.1, 0.2])
    roof, wall = (surface(name, {"snow": snow, "relief": 0}, place)["base_color"] for place in (UP, WALL))
    np.testing.assert_allclose(roof, np.broadcast_to(snow, roof.shape), atol=1e-5)
    assert np.abs(wall - snow).max() > 0.2


def test_triplanar_rock_is_the_same_wherever_its_coordinates_are():
    place = {**WALL, "world_position": (0.3, 1.1, 0.2)}
    made = surface("triplanar-rock-snow", {}, place)["base_color"]
    assert np.ptp(made, axis=(0, 1)).max() < 1e-5


def test_a_picture_covers_the_metres_it_is_told():
    one, two = (surface("world-size", {"metres": size})["roughness"] for size in (1, 2))
    assert np.abs(one - two).max() > 0.01
    again = surface("world-size", {"metres": 1}, {"world_position": (0.25, 0, 0.5)})["roughness"]
    beyond = surface("world-size", {"metres": 1}, {"world_position": (3.25, 9, -1.5)})["roughness"]
    np.testing.assert_allclose(again, beyond, atol=1e-5)


def test_an_atlas_prop_shows_the_cell_of_its_number_or_another_for_each_object():
    maps = {"pack": quarters(None, "rgb")}

    def middle(changes, place=None):
        made = surface("atlas-prop", {"columns": 2, "lines": 2, **changes}, place, maps)["roughness"]
        return round(float(made[8, 8, 0]) * 255)

    assert [middle({"cell": number}) for number in range(4)] == [0, 80, 160, 240]
    assert [middle({"at_random": 1}, {"object_random": (share,)}) for share in (0.1, 0.4, 0.9)] == [0, 80, 240]


def test_a_trim_sheet_shows_one_strip_and_never_the_next():
    rows = Texels(np.arange(16, dtype=np.uint8).reshape(16, 1, 1).repeat(3, 2) * 16, "rgb", Transfer.LINEAR, None)
    made = surface("trim-sheet", {"strips": 4, "strip": 2}, None, {"pack": rows})["roughness"] * 255
    assert made.min() >= 7 * 16
    assert made.max() <= 12 * 16


def test_wetness_darkens_smooths_and_fills_what_lies_low():
    low, high = ({"lie": grey(value, Role.HEIGHT)} for value in (0.05, 0.95))
    dry, wet = surface("wet", {"damp": 0}, None, high), surface("wet", {"damp": 1}, None, high)
    assert (wet["base_color"] <= dry["base_color"] + 1e-6).all()
    assert wet["roughness"].mean() < dry["roughness"].mean()
    pool = surface("wet", {"damp": 0}, None, low)
    np.testing.assert_allclose(pool["normal"], np.broadcast_to([0, 0, 1], pool["normal"].shape), atol=1e-5)


def test_light_from_behind_leaves_is_tinted_and_edges_are_cut_where_the_parameter_says():
    made = surface("foliage", {"through": 0.8, "edge": 0.3}, None, {"thin": grey(0.5, Role.DETAIL_MASK)})
    np.testing.assert_allclose(made["subsurface"], 0.4, atol=0.01)
    np.testing.assert_allclose(made["cut_off"], 0.3)


def test_glass_lets_light_through_where_it_is_clean():
    clean, dirty = (surface("glass", {"dirty": 1}, None, {"dirt": grey(value, Role.DETAIL_MASK)}) for value in (0, 1))
    assert clean["transmission"].min() == 1
    assert dirty["transmission"].max() == 0
    assert surface("glass", {"bend": 1.8})["ior"].max() == pytest.approx(1.8)


def test_a_decal_fades_by_distance_and_by_angle():
    near, far = (surface("decal", {"far": 10}, {"camera_distance": (m,)})["opacity"].max() for m in (1, 11))
    aside = surface("decal", {}, {"view_direction": (1.0, 0.0, 0.0)})["opacity"].max()
    assert near > 0.5
    assert (far, aside) == (0, 0)


def test_water_moves_with_time_and_ends_where_it_began():
    made = [surface("water-flow", {"speed": 0.25}, {"time": (seconds,)})["normal"] for seconds in (0, 1, 4)]
    assert np.abs(made[0] - made[1]).max() > 0.02
    np.testing.assert_allclose(made[0], made[2], atol=1e-4)


def test_a_flipbook_shows_one_frame_after_the_other():
    maps = {"frames": quarters(Role.BASE_COLOR, "rgb")}
    changes = {"columns": 2, "lines": 2, "speed": 1, "smooth": 0}
    shown = [surface("flipbook", changes, {"time": (at + 0.5,)}, maps)["emissive"][8, 8, 0] for at in range(5)]
    assert np.all(np.diff(shown[:4]) > 0)
    assert shown[4] == shown[0]


def test_the_weave_of_cloth_is_repeated_on_its_own():
    flat = {"bumps": Texels(np.full((2, 2, 3), (128, 128, 255), np.uint8), "rgb", Transfer.LINEAR, Role.NORMAL)}
    made = surface("cloth", {"times": 8, "thread": 1}, None, flat)["normal"]
    np.testing.assert_allclose(made[:, :2], made[:, 2:4], atol=1e-3)
    assert surface("cloth")["sheen"].max() > 0


def test_four_tints_go_where_their_channels_are():
    masks = Texels(np.zeros((2, 2, 4), np.uint8), "rgba", Transfer.LINEAR, None)
    masks.pixels[..., 2] = 255
    white = {"colour": Texels(np.full((2, 2, 3), 255, np.uint8), "rgb", Transfer.SRGB, Role.BASE_COLOR)}
    made = surface("four-tints", {"third": (0.1, 0.2, 0.3)}, None, white | {"masks": masks})["base_color"]
    np.testing.assert_allclose(made[0, 0], [0.1, 0.2, 0.3], atol=1e-6)


def test_paint_is_gone_where_wear_is_above_the_threshold():
    def metallic(wear):
        mask = {"wear": grey(wear, Role.DETAIL_MASK)}
        return surface("worn-by-threshold", {"grain": 0, "threshold": 0.5}, None, mask)["metallic"]

    assert metallic(0.9).min() == 1
    assert metallic(0.1).max() < 1


def test_the_upper_ground_lies_where_the_vertex_is_red():
    none, full = (surface("layered-ground", {"lower_shade": (1, 1, 1), "upper_shade": (0, 0, 0)},
                          vertex=(red, 0.0, 0.0, 1.0))["base_color"] for red in (0.0, 1.0))  # fmt: skip
    assert full.max() < 1e-6 < none.max()


def test_what_looks_deep_is_moved_by_the_view():
    aside = {"view_direction": (0.6, 0.8, 0.0)}
    straight, moved = (surface("parallax", {"deep": 0.2}, place)["base_color"] for place in (None, aside))
    assert np.abs(straight - moved).max() > 0.02


def test_gloss_becomes_roughness_and_metal_keeps_its_own_colour():
    gold = Texels(np.full((2, 2, 3), (255, 220, 150), np.uint8), "rgb", Transfer.SRGB, Role.SPECULAR)
    made = surface("specular-workflow", {}, None, {"shine": gold, "gloss": grey(0.75, Role.GLOSSINESS)})
    np.testing.assert_allclose(made["roughness"], 0.25, atol=0.01)
    assert made["metallic"].min() == 1
    assert made["base_color"][0, 0, 0] == pytest.approx(1, abs=0.01)


def test_lamps_pulse_and_other_hues_come_by_object():
    lit = [surface("lit-by-mask", {"pulse": 1, "deep": 1}, {"time": (t,)})["emissive_strength"].max() for t in (0, 0.5)]
    assert max(lit) > 3.9
    assert min(lit) < 0.1
    first, second = (surface("hue-by-object", {"spread": 1}, {"object_random": (r,)})["base_color"] for r in (0.1, 0.9))
    assert np.abs(first - second).max() > 0.05


def test_a_new_master_begins_as_one_of_them_under_its_own_name():
    made = starter("Shop window", "glass")
    assert (made["name"], made["title"]) == ("shop-window", "Shop window")
    with pytest.raises(BadDocument, match="no ready-made master mud"):
        starter("Mud", "mud")


def test_the_command_line_lists_and_writes_them(capsys, tmp_path):
    code, told = run_json(capsys, "material", "ready")
    assert code == 0
    assert {one["name"] for one in told["masters"]} == set(ready_masters())
    out = tmp_path / "mine.json"
    assert run(capsys, "material", "ready", "glass", "-o", out)[0] == 0
    assert parse_master(json.loads(out.read_text())).name == "glass"
    assert run(capsys, "material", "check", out)[0] == 0
    code, _, err = run(capsys, "material", "ready", "mud")
    assert code == 2
    assert "ready-made" in err
