"""The mirror in the studio: after each delivery, on folders of others, with habits that a project writes down."""

import pytest

from studio.deliveries.models import Delivery
from tests.pictures import random_texels, save, simple_set
from texel.delivery import builtin_targets
from texel.mirror import builtin_mirrors

pytestmark = pytest.mark.django_db


@pytest.fixture
def sets(take_in, tmp_path):
    simple_set(tmp_path / "in", "deck")
    return take_in(tmp_path / "in")["sets"]


def deliver(call, run_jobs, target="orm-y-minus", **more):
    call("POST", "/deliveries", {"target": target, **more})
    run_jobs()
    return call("GET", "/deliveries")[0]


def own_target(call, **change):
    document = builtin_targets()["orm-y-minus"] | {"name": "own"} | change
    return call("PUT", "/rules/target/own", document)


def test_every_delivery_is_read_back_as_its_engine_would(call, run_jobs, sets):
    made = deliver(call, run_jobs)
    assert made["mirror"] == {"title": "Reads names and tags, normals Y-", "errors": 0, "warnings": 0}
    told = call("GET", f"/deliveries/{made['number']}/mirror")
    packed = next(one for one in told["files"] if one["path"] == "deck/deck_orm.png")
    assert packed["taken"]["channels"] == packed["meant"]["channels"]
    assert told["materials"][0]["maps"]["normal"] == "deck/deck_normal.png"


def test_a_project_writes_down_its_own_engines_habits(call, run_jobs, sets):
    habits = builtin_mirrors()["all-colour"] | {"name": "own-engine", "title": "Own engine"}
    assert call("PUT", "/rules/mirror/own-engine", habits)["number"] == 1
    assert {one["name"] for one in call("GET", "/rules/mirror")} >= {"own-engine", "by-manifest"}
    own_target(call, mirror="own-engine")
    made = deliver(call, run_jobs, "own")
    assert (made["mirror"]["title"], made["mirror"]["errors"] > 0) == ("Own engine", True)
    told = call("GET", f"/deliveries/{made['number']}/mirror")
    wrong = {one["path"]: one["differences"][0]["misread"] for one in told["files"] if one["differences"]}
    assert wrong["deck/deck_orm.png"] == "data_as_srgb"


def test_what_the_engine_makes_of_a_file_is_drawn_beside_it(call, run_jobs, sets):
    deliver(call, run_jobs)
    address = "/deliveries/1/picture?path=deck/deck_orm.png"
    right, wrong = call("GET", address).content, call("GET", f"{address}&misread=data_as_srgb").content
    assert right != wrong
    assert wrong.startswith(b"\x89PNG")
    flipped = call("GET", "/deliveries/1/picture?path=deck/deck_normal.png&misread=green_flipped").content
    assert flipped.startswith(b"\x89PNG")
    call("GET", f"{address}&misread=nonsense", status=422)


def test_a_target_that_names_habits_that_there_are_not_is_refused_before_anything_is_built(call, sets):
    own_target(call, mirror="nobody")
    told = call("POST", "/deliveries", {"target": "own"}, status=422)
    assert "nobody" in told["detail"]
    assert not Delivery.objects.exists()


def test_a_folder_that_others_filled_is_read_too(call, run_jobs, sets, settings, tmp_path):
    settings.DESTINATION_ROOTS = [tmp_path / "engine"]
    given = {"name": "Art", "kind": "folder", "place": "art", "target": "orm-y-minus"}
    pk = call("POST", "/destinations", given)["id"]
    call("GET", f"/destinations/{pk}/mirror", status=422)
    simple_set(tmp_path / "engine/art", "quay", normal_word="nor_gl")
    save(tmp_path / "engine/art/notes.png", random_texels("rgb"))
    told = call("GET", f"/destinations/{pk}/mirror")
    normal = next(one for one in told["files"] if one["path"] == "quay_nor_gl.png")
    assert [one["misread"] for one in normal["differences"]] == ["green_flipped"]
