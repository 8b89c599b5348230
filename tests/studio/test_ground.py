"""Ground in a project: layers that wear sets and casts, painting, undo, measuring, and delivery."""

import gzip
import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from studio.collecting import collect
from studio.deliveries.models import Delivery
from studio.ground.models import GroundStroke
from studio.intake.models import SourceFile
from tests.pictures import simple_set
from texel.cli import main
from texel.files import encode
from texel.ground.painting import painted
from texel.ground.patch import parse_patch
from texel.image import Texels
from texel.roles import Transfer

pytestmark = pytest.mark.django_db
MUD_RULE = [{"measure": "altitude", "to": 0.5, "fade": 0.5}]


@pytest.fixture
def sets(take_in, tmp_path):
    for seed, name in enumerate(("reeds", "mud"), 3):
        simple_set(tmp_path / "in", name, seed=seed)
    return {one["name"]: one["id"] for one in take_in(tmp_path / "in")["sets"]}


@pytest.fixture
def marsh(call, sets):
    return call("POST", "/grounds", {
        "name": "Marsh", "metres": 32, "side": 128,
        "layers": [
            {"name": "Reeds", "wears": {"kind": "set", "id": sets["reeds"]}, "tile": 4},
            {"name": "Mud", "wears": {"kind": "set", "id": sets["mud"]}, "tile": 2, "rule": MUD_RULE},
        ],
    })  # fmt: skip


def path(ground, more=""):
    return f"/grounds/{ground['id']}{more}"


def layers_of(ground, **changes):
    """Layers as they are sent back, with what is changed of each, by key."""
    sent = []
    for one in ground["layers"]:
        kept = {name: value for name, value in one.items() if name not in ("worn", "strokes")}
        worn = one["worn"] and {"kind": one["worn"]["kind"], "id": one["worn"]["id"]}
        sent.append({**kept, "wears": worn, **changes.get(one["key"], {})})
    return sent


def paint(call, ground, layer="l2", status=200, **more):
    stroke = {"layer": layer, "points": [[16, 16, 1]], "radius": 3, "strength": 1, **more}
    return call("POST", path(ground, "/strokes"), {"stroke": stroke}, status=status)


def unpacked(call, ground, what, kind):
    return np.frombuffer(gzip.decompress(call("GET", path(ground, what)).content), kind)


def test_new_ground_has_one_layer_that_wears_nothing(call):
    made = call("POST", "/grounds", {"name": "Marsh"})
    assert [one["name"] for one in made["layers"]] == ["Ground"]
    row = call("GET", "/grounds")[0]
    assert (row["name"], row["layers"], row["empty"]) == ("Marsh", 1, 1)


def test_a_second_patch_of_the_same_name_gets_a_number(call):
    names = [call("POST", "/grounds", {"name": "Marsh"})["name"] for _ in range(2)]
    assert names == ["Marsh", "Marsh 2"]


def test_a_patch_that_is_made_again_has_the_keys_that_it_had(call, marsh):
    call("POST", "/undo")
    call("POST", "/redo")
    assert [one["key"] for one in call("GET", path(marsh))["layers"]] == ["l1", "l2"]


def test_layers_keep_their_keys_and_new_ones_get_one_that_none_had(call, marsh):
    assert [one["key"] for one in marsh["layers"]] == ["l1", "l2"]
    sent = [*layers_of(marsh)[:1], {"name": "Shells", "tile": 1}]
    made = call("PATCH", path(marsh), {"layers": sent}, seen=marsh["revision"])
    assert [one["key"] for one in made["layers"]] == ["l1", "l3"]


@pytest.mark.parametrize(
    ("layer", "status", "words"),
    [
        ({"name": "Reeds", "tile": 1}, 422, "two layers are called Reeds"),
        ({"name": "x", "tile": 1, "wears": {"kind": "set", "id": 9999}}, 409, "no such set"),
        ({"name": "x", "tile": 0}, 422, "tile"),
        ({"name": "x", "tile": 1, "rule": [{"measure": "moon"}]}, 422, "measure"),
    ],
)
def test_what_cannot_be_is_refused_and_changes_nothing(call, marsh, layer, status, words):
    answer = call("PATCH", path(marsh), {"layers": [*layers_of(marsh), layer]}, status=status)
    assert words in json.dumps(answer)
    assert len(call("GET", path(marsh))["layers"]) == 2


def test_a_change_of_layers_is_undone(call, marsh):
    call("PATCH", path(marsh), {"layers": layers_of(marsh, l2={"tile": 9}), "label": "Tile of Mud"})
    assert call("POST", "/undo")["label"] == "Tile of Mud"
    assert call("GET", path(marsh))["layers"][1]["tile"] == 2


def test_who_saw_an_older_state_is_told(call, marsh):
    call("PATCH", path(marsh), {"metres": 40}, seen=marsh["revision"])
    late = call("PATCH", path(marsh), {"metres": 50}, seen=marsh["revision"], status=409)
    assert "was changed meanwhile" in late["detail"]


def test_who_may_only_look_changes_nothing(sign_in, marsh):
    looker = sign_in("look", "bea")
    assert looker("GET", path(marsh))["name"] == "Marsh"
    looker("PATCH", path(marsh), {"metres": 40}, status=403)
    paint(looker, marsh, status=403)


# Painting.


def test_strokes_are_laid_over_rules_and_undone_one_by_one(call, marsh):
    paint(call, marsh)
    assert paint(call, marsh, strength=-1)["strokes"] == 2
    assert call("POST", "/undo")["label"] == "Take Mud away"
    assert call("POST", "/undo")["label"] == "Paint Mud"
    assert call("GET", path(marsh))["strokes"] == 0
    call("POST", "/redo")
    assert call("GET", path(marsh))["strokes"] == 1


def test_what_is_painted_shows_in_what_the_page_draws(call, marsh):
    before = unpacked(call, marsh, "/rules", np.uint8).reshape(4, 128, 128)
    paint(call, marsh)
    after = unpacked(call, marsh, "/rules", np.uint8).reshape(4, 128, 128)
    assert (before[2:] == 128).all()
    assert (after[3, 64, 64], after[2, 64, 64]) == (255, 128)
    assert np.array_equal(after[:2], before[:2])


def test_strokes_one_after_the_other_are_those_laid_at_once(call, marsh):
    for at in range(3):
        paint(call, marsh, points=[[8 + 4 * at, 16, 1], [12, 20, 0.5]], strength=0.4)
        shown = unpacked(call, marsh, "/rules", np.uint8)
    patch = parse_patch(call("GET", path(marsh, "/ground.json")))
    assert np.array_equal(shown.reshape(4, 128, 128)[2:], np.rint(painted(patch) * 127).astype(int) + 128)


def test_a_renamed_layer_keeps_what_was_painted(call, marsh):
    paint(call, marsh)
    call("PATCH", path(marsh), {"layers": layers_of(marsh, l2={"name": "Silt"})})
    document = call("GET", path(marsh, "/ground.json"))
    assert [one["layer"] for one in document["strokes"]] == ["Silt"]


def test_strokes_of_a_layer_that_was_taken_out_come_back_with_it(call, marsh):
    paint(call, marsh)
    call("PATCH", path(marsh), {"layers": layers_of(marsh)[:1]})
    assert call("GET", path(marsh, "/ground.json"))["strokes"] == []
    call("POST", "/undo")
    assert len(call("GET", path(marsh, "/ground.json"))["strokes"]) == 1


def test_painting_is_cleared_by_layer_as_one_step(call, marsh):
    for layer in ("l1", "l2", "l2"):
        paint(call, marsh, layer)
    assert call("DELETE", path(marsh, "/strokes?layer=l2"))["strokes"] == 1
    call("POST", "/undo")
    assert GroundStroke.objects.count() == 3


@pytest.mark.parametrize(
    ("more", "status"),
    [({"layer": "l9"}, 409), ({"radius": 0}, 422), ({"points": []}, 422), ({"strength": 2}, 422)],
)
def test_strokes_that_make_no_sense_are_refused(call, marsh, more, status):
    paint(call, marsh, status=status, **more)
    assert not GroundStroke.objects.exists()


def test_a_stroke_that_would_take_too_long_is_refused(call, marsh):
    to_and_fro = [[1 + 30 * (at % 2), 16, 1] for at in range(4000)]
    answer = paint(call, marsh, points=to_and_fro, radius=30, wrap=True, mirror="both", status=409)
    assert "too long for its radius" in answer["detail"]
    assert not GroundStroke.objects.exists()


def test_a_raster_too_fine_for_what_was_painted_is_refused(call, marsh):
    paint(call, marsh)
    GroundStroke.objects.update(reach=1e8)
    assert "too much for so fine a raster" in call("PATCH", path(marsh), {"side": 2048}, status=409)["detail"]
    assert call("GET", path(marsh))["side"] == 128


def test_a_deleted_patch_comes_back_with_its_strokes(call, marsh):
    paint(call, marsh)
    call("DELETE", path(marsh), status=204)
    assert call("GET", "/grounds") == []
    call("POST", "/undo")
    assert call("GET", path(marsh))["strokes"] == 1


# Heights.


def height_map(side=64, bits=np.uint16):
    pixels = np.random.default_rng(1).integers(0, np.iinfo(bits).max, (side, side, 1)).astype(bits)
    return pixels, encode(Texels(pixels, "y", Transfer.LINEAR), "png")


def send_height(call, ground, data, low=-1, high=3, name="land.png", status=200):
    body = {"file": SimpleUploadedFile(name, data), "low": low, "high": high}
    answer = call.client.post(f"/api{call.base}{path(ground, '/height')}", body)
    assert answer.status_code == status, answer.content[:300]
    return json.loads(answer.content)


def test_a_height_map_shapes_the_patch(call, marsh):
    pixels, data = height_map(128)
    made = send_height(call, marsh, data)
    assert (made["shape"]["kind"], made["shape"]["map"]) == ("map", "land.png")
    heights = unpacked(call, marsh, "/heights", "<f4").reshape(128, 128)
    assert np.abs(heights - (pixels[:, :, 0] / 65535 * 4 - 1)).max() < 1e-4


def test_its_range_in_metres_is_changed_later(call, marsh):
    made = send_height(call, marsh, height_map()[1])
    made = call("PATCH", path(marsh), {"shape": {**made["shape"], "low": 10, "high": 20}})
    heights = unpacked(call, marsh, "/heights", "<f4")
    assert 10 <= heights.min() < heights.max() <= 20


@pytest.mark.parametrize(("data", "words"), [(b"nothing", "land.png"), (height_map(8)[1], "at least 16 texels")])
def test_what_is_no_height_map_is_refused_and_leaves_nothing(call, marsh, data, words):
    before = SourceFile.objects.count()
    assert words in send_height(call, marsh, data, status=422)["detail"]
    assert SourceFile.objects.count() == before


def test_a_height_map_in_use_is_not_collected(call, marsh):
    send_height(call, marsh, height_map()[1])
    source = call("GET", path(marsh)) and SourceFile.objects.get(in_grounds__isnull=False).pk
    collect(0)
    assert SourceFile.objects.filter(pk=source).exists()


# What the page draws, and what is measured.


def test_a_layers_tile_changes_its_state_with_its_set(call, marsh, sets):
    data = unpacked(call, marsh, "/layers/0/tile", np.uint8)
    assert len(data) == 4 + 9 * 512 * 512
    before = call("GET", path(marsh))["layers"][0]["worn"]["state"]
    maps = call("GET", f"/sets/{sets['reeds']}")["maps"]
    colour = next(one for one in maps if one["role"] == "base_color")
    call("PUT", f"/maps/{colour['id']}/recipe", {"recipe": [{"step": "invert"}]})
    assert call("GET", path(marsh))["layers"][0]["worn"]["state"] != before
    assert not np.array_equal(unpacked(call, marsh, "/layers/0/tile", np.uint8), data)


def test_the_picture_from_above_is_a_png(call, marsh):
    assert call("GET", path(marsh, "/picture.png?side=64")).content.startswith(b"\x89PNG")


def test_repetition_is_told_by_layer_with_what_helps(call, marsh):
    told = {one["layer"]: one for one in call("GET", path(marsh, "/repetition?distance=20&layer=l1"))}
    assert told["Reeds"]["is_seen"]
    assert told["Reeds"]["remedies"][0]["strength"] < told["Reeds"]["strength"]
    assert told["Mud"]["remedies"] == []
    assert told["Reeds"]["density"] == 64 / 4


def test_a_distance_beyond_sense_is_refused(call, marsh):
    call("GET", path(marsh, "/repetition?distance=0"), status=409)


# Delivery.


def test_ground_is_delivered_as_the_command_line_does(call, marsh, run_jobs, tmp_path):
    paint(call, marsh)
    plan = call("POST", "/deliveries/plan", {"target": "orm-y-minus", "sets": [], "grounds": [marsh["id"]]})
    assert {one["ground"] for one in plan["files"]} == {"Marsh"}
    call("POST", "/deliveries", {"target": "orm-y-minus", "sets": [], "grounds": [marsh["id"]]})
    run_jobs()
    document = tmp_path / "marsh.json"
    document.write_text(json.dumps(call("GET", path(marsh, "/ground.json"))))
    words = ["--folder", str(tmp_path / "in"), "--target", "orm-y-minus", "-o", str(tmp_path / "out")]
    assert main(["ground", str(document), *words]) == 0
    made = next((tmp_path / "deliveries").rglob("ground"))
    named = sorted(one.relative_to(made) for one in made.rglob("*.png"))
    assert len(named) == 10
    assert all((made / one).read_bytes() == (tmp_path / "out" / "ground" / one).read_bytes() for one in named)


def test_a_layer_that_wears_nothing_keeps_its_patch_from_being_delivered(call, marsh):
    call("PATCH", path(marsh), {"layers": layers_of(marsh, l2={"wears": None})})
    order = {"target": "orm-y-minus", "sets": [], "grounds": [marsh["id"]]}
    assert "the layer Mud wears nothing" in call("POST", "/deliveries", order, status=409)["detail"]


def test_other_patches_stay_as_they_were_delivered(call, marsh, run_jobs):
    order = {"target": "orm-y-minus", "sets": [], "grounds": [marsh["id"]]}
    call("POST", "/deliveries", order)
    run_jobs()
    call("POST", "/deliveries", {"target": "orm-y-minus", "keep_others": True})
    run_jobs()
    last = Delivery.objects.order_by("-number").first()
    assert (last.number, [one["name"] for one in last.manifest["grounds"]]) == (2, ["Marsh"])


def test_a_refusal_carries_its_key_and_its_values(call, marsh):
    told = call(
        "PATCH",
        path(marsh),
        {"layers": [{**layers_of(marsh)[0], "key": "b"}, {**layers_of(marsh)[1], "key": "b"}]},
        409,
    )
    assert (told["detail"], told["key"]) == ("two layers have the key b", "two layers have the key {key}")
    assert told["values"] == {"key": "b"}
