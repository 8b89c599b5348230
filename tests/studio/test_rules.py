"""House rules through the API: versions, copies, names, renames, budgets, trials, waivers."""

from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from studio.intake.models import FileName
from studio.projects.models import Membership, Project
from tests.pictures import random_texels, save, simple_set
from texel.roles import Green


@pytest.fixture
def roll(take_in, tmp_path):
    simple_set(tmp_path / "in", "deck", green=Green.DOWN)
    simple_set(tmp_path / "in", "Hull-Plate", seed=30)
    return take_in(tmp_path / "in")


def deck(call):
    return next(one for one in call("GET", "/sets")["sets"] if one["name"] == "deck")


def a_map(call, role):
    return next(m for m in deck(call)["maps"] if m["role"] == role)


def test_every_change_of_a_rule_is_a_version_and_what_differs_is_told(call, roll):
    before = call("GET", "/rules/target")
    assert all(one["number"] == 0 and not one["own"] for one in before)
    document = next(one for one in before if one["name"] == "orm-y-minus")["document"]
    first = call("PUT", "/rules/target/orm-y-minus", document | {"largest": 2048})
    assert (first["number"], first["own"]) == (1, True)
    document["outputs"][1]["bits"] = 16
    call("PUT", "/rules/target/orm-y-minus", document | {"largest": 1024})
    versions = call("GET", "/rules/target/orm-y-minus/versions")
    assert [(v["number"], v["by"]) for v in versions] == [(2, "ada"), (1, "ada")]
    told = call("GET", "/rules/target/orm-y-minus/difference?before=1&after=2")
    assert sorted((one["path"], one["before"], one["after"]) for one in told) == [
        ("largest", 2048, 1024), ("outputs/normal/bits", 8, 16),
    ]  # fmt: skip
    assert call("GET", "/rules/target/orm-y-minus/1")["largest"] == 2048
    assert call("GET", "/rules/target/orm-y-minus/difference?before=0&after=1")[0]["path"] == "largest"
    call("GET", "/rules/target/orm-y-minus/7", status=404)


@pytest.mark.parametrize(
    ("kind", "name", "document", "reason"),
    [
        ("target", "mine", {}, "is not a target document"),
        ("layout", "mine", {"format": "fair-texel/layout", "version": 1, "name": "other",
                            "channels": {"r": {"role": "height"}}}, "is called other"),
        ("names", "mine", {"format": "fair-texel/names", "version": 1, "suffixes": {"normal": "n"},
                           "parts": [{"part": "asset"}, {"part": "suffix"}]}, "one set of names"),
        ("colours", "mine", {}, "no kind of rule"),
    ],
)  # fmt: skip
def test_rules_that_make_no_sense_are_refused(call, kind, name, document, reason):
    assert reason in call("PUT", f"/rules/{kind}/{name}", document, status=422)["detail"]


def test_a_copy_keeps_its_origin_and_needs_the_right(call, sign_in, project):
    other = Project.objects.create(slug="orchard", name="Orchard")
    layout = call("GET", "/rules/layout")[0]
    call("POST", f"/rules/layout/{layout['name']}/copy", {"project": "orchard"}, status=404)
    ada = Membership.objects.get(project=project).user
    Membership.objects.create(project=other, user=ada, right="look")
    copied = call("POST", f"/rules/layout/{layout['name']}/copy", {"project": "orchard"})
    assert copied["origin"] == {"project": "orchard", "name": layout["name"], "number": 0}
    bram = sign_in("prepare", "bram")
    bram("PUT", f"/rules/layout/{layout['name']}", layout["document"], status=403)


def test_names_are_tried_learnt_and_put_right_as_one_change(call, roll, run_jobs):
    tried = call("POST", "/names/try", {"names": ["deck_n.png", "Deck-Normal.PNG", " "]})
    assert [one["fine"] for one in tried["names"]] == [True, False]
    assert call("POST", "/names/learn", {})["rules"]["suffixes"]["normal"] == "n"
    files = call("GET", "/names")["files"]
    wrong = [one for one in files if not one["fine"]]
    assert {one["right"] for one in wrong} == {f"hull_plate_{s}.png" for s in ("bc", "n", "r", "ao", "m", "h")}
    changes = [{"file": one["file"], "path": one["right"]} for one in wrong]
    assert all(one["problem"] is None for one in call("POST", "/names/plan", {"changes": changes}))
    assert call("POST", "/names/rename", {"changes": changes}) == {"files": 6}
    assert all(one["fine"] for one in call("GET", "/names")["files"])
    hull = next(one for one in call("GET", "/sets")["sets"] if one["name"] == "Hull-Plate")
    assert {m["came_as"].split("_")[0] for m in hull["maps"]} == {"Hull-Plate"}
    assert FileName.objects.filter(path="Hull-Plate_n.png").exists()
    normal = next(m for m in hull["maps"] if m["role"] == "normal")
    assert normal["file"] == "hull_plate_n.png"
    assert normal["old_names"] == ["Hull-Plate_n.png"]
    call("POST", "/undo")
    assert sum(not one["fine"] for one in call("GET", "/names")["files"]) == 6
    call("POST", "/redo")
    assert all(one["fine"] for one in call("GET", "/names")["files"])


def test_swapped_names_trade_places_and_collisions_change_nothing(call, roll):
    ids = {one["path"]: one["file"] for one in call("GET", "/names")["files"]}
    rough, height = ids["deck_r.png"], ids["deck_h.png"]
    call("POST", "/names/rename", {"changes": [
        {"file": rough, "path": "deck_h.png"}, {"file": height, "path": "deck_r.png"},
    ]})  # fmt: skip
    assert {one["file"]: one["path"] for one in call("GET", "/names")["files"]}[rough] == "deck_h.png"
    for path, status in (("deck_n.png", 409), ("../x.png", 422), ("deck_x.tga", 409)):
        call("POST", "/names/rename", {"changes": [{"file": rough, "path": path}]}, status=status)
    call("POST", "/names/rename", {"changes": [{"file": 99999, "path": "x.png"}]}, status=409)
    assert {one["file"]: one["path"] for one in call("GET", "/names")["files"]}[rough] == "deck_h.png"


def test_a_budget_is_measured_in_a_worker_and_says_what_to_shrink(call, roll, run_jobs):
    document = call("GET", "/targets/orm-y-minus") | {"name": "tight", "budget": {"memory_mib": 0.05, "density": 64}}
    call("PUT", "/rules/target/tight", document)
    call("PUT", f"/sets/{deck(call)['id']}/metres", {"metres": 2})
    before = call("GET", "/budget?target=tight")
    assert (before["measured"], before["files"]) == (0, 8)
    assert before["memory"] == sum(one["memory"] for one in before["sets"])
    assert next(one for one in before["sets"] if one["name"] == "deck")["density"] == 32
    assert before["shrink"] == []
    call("POST", "/budget/measure?target=tight")
    run_jobs()
    after = call("GET", "/budget?target=tight")
    assert after["measured"] == 8
    assert after["shrink"]
    assert after["shrunk"] == after["memory"] - sum(one["spared"] for one in after["shrink"])
    assert after["shrunk"] <= 0.05 * 2**20 or len(after["shrink"]) == 8
    normal = next(f for f in after["sets"][0]["files"] if f["output"] == "normal")
    assert normal["advice"]["sort"] == "normal"
    assert normal["advice"]["halving"]["kind"] == "normal"
    call("POST", "/undo")
    assert deck(call)["metres"] is None
    call("PUT", f"/sets/{deck(call)['id']}/metres", {"metres": -1}, status=409)


def test_what_a_target_encodes_wrongly_stands_in_the_ledger_until_it_is_waived_or_mended(call, roll, run_jobs):
    def found():
        return [f for f in call("GET", f"/sets/{deck(call)['id']}")["findings"] if f["check"] == "srgb_data"]

    assert found() == []
    document = call("GET", "/targets/orm-y-minus")
    orm = next(one for one in document["outputs"] if one["output"] == "orm")
    call("PUT", "/rules/target/orm-y-minus", document | {"outputs": [
        one | {"colour_space": "srgb"} if one is orm else one for one in document["outputs"]
    ]})  # fmt: skip
    run_jobs()
    (one,) = found()
    assert (one["severity"], one["role"]) == ("error", None)
    assert one["measure"] > 0.01
    call("POST", "/waivers", {"finding": one["id"], "reason": "the shader decodes it"})
    assert found()[0]["waiver"]["reason"] == "the shader decodes it"
    # It comes back when anything that goes into the file changes, and goes when the target is put right.
    call("PUT", f"/maps/{a_map(call, 'roughness')['id']}/recipe", {"recipe": [{"step": "invert"}]})
    run_jobs()
    assert found()[0]["waiver"] is None
    call("PUT", "/rules/target/orm-y-minus", document)
    run_jobs()
    assert found() == []


def test_memory_is_told_by_target_and_by_project(call, roll, sign_in):
    targets = call("GET", "/budget/targets")
    assert {one["target"] for one in targets} == {one["name"] for one in call("GET", "/rules/target")}
    by_name = {one["target"]: one for one in targets}
    budget = call("GET", "/budget?target=orm-y-minus")
    assert by_name["orm-y-minus"]["memory"] == budget["memory"]
    assert by_name["mobile-small"]["memory"] < budget["memory"]
    files = [file for one in budget["sets"] for file in one["files"]]
    assert all(sum(file["roles"].values()) == file["memory"] for file in files)
    Project.objects.create(slug="secret", name="Secret")
    (own,) = call("GET", "/budget/projects")
    assert (own["slug"], own["target"], own["memory"]) == ("ferry", "orm-y-minus", budget["memory"])
    sign_in(None, "stranger")("GET", "/budget/targets", status=404)


def test_formats_are_tried_on_a_map_and_shown(call, roll, run_jobs, sign_in):
    one = a_map(call, "normal")
    address = f"/maps/{one['id']}/trials"
    assert call("GET", address)["trials"] == []
    call("POST", address, {"formats": ["bc5", "bc7"], "quality": "quick"})
    run_jobs()
    told = call("GET", f"{address}?quality=quick")
    assert (told["sort"], told["kind"]) == ("normal", "normal")
    assert {t["format"] for t in told["trials"]} == {"bc5", "bc7"}
    assert all(t["size"] > 0 and t["error"]["degrees"] > 0 for t in told["trials"])
    for what in ("decoded", "error"):
        assert call("GET", f"{address}/bc5/{what}?quality=quick").headers["Content-Type"] == "image/png"
    call("GET", f"{address}/astc_4x4/decoded", status=422)
    call("POST", address, {"formats": ["bc99"]}, status=422)
    call("POST", address, {"formats": []}, status=422)
    cleo = sign_in("look", "cleo")
    cleo("POST", address, {"formats": ["bc5"]}, status=403)


def test_misreadings_are_shown_in_figures_and_pictures(call, roll):
    rough = a_map(call, "roughness")
    told = {one["misreading"]: one for one in call("GET", f"/maps/{rough['id']}/misread")}
    assert told["data_as_srgb"]["mean"]["after"] < told["data_as_srgb"]["mean"]["before"]
    assert call("GET", f"/maps/{rough['id']}/misread/data_as_srgb").headers["Content-Type"] == "image/png"
    call("GET", f"/maps/{rough['id']}/misread/green_flipped", status=422)


def test_a_waiver_holds_until_its_map_changes_or_its_day_passes(call, take_in, tmp_path, run_jobs, sign_in):
    simple_set(tmp_path / "in", "deck")
    save(tmp_path / "in" / "deck_h.png", random_texels("y", np.uint8, width=64, height=64))
    take_in(tmp_path / "in")
    one = deck(call)

    def steps():
        return next(f for f in call("GET", f"/sets/{one['id']}")["findings"] if f["check"] == "height_steps")

    finding = steps()["id"]
    sign_in("prepare", "bram")("POST", "/waivers", {"finding": finding, "reason": "far away"}, status=403)
    call("POST", "/waivers", {"finding": finding, "reason": "  "}, status=409)
    yesterday = (timezone.localdate() - timedelta(days=1)).isoformat()
    call("POST", "/waivers", {"finding": finding, "reason": "x", "until": yesterday}, status=409)
    before = deck(call)["warnings"]
    call("POST", "/waivers", {"finding": finding, "reason": "far away"})
    assert (deck(call)["warnings"], deck(call)["waived"]) == (before - 1, 1)
    assert steps()["waiver"]["reason"] == "far away"
    height = next(m for m in one["maps"] if m["role"] == "height")
    call("PUT", f"/maps/{height['id']}/recipe", {"recipe": [{"step": "invert"}]})
    run_jobs()
    assert steps()["waiver"] is None
    call("POST", "/undo")
    run_jobs()
    assert steps()["waiver"]["by"] == "ada"
    call("DELETE", f"/waivers/{steps()['waiver']['id']}", status=204)
    assert steps()["waiver"] is None
    assert [(w["reason"], w["revoked"]) for w in call("GET", "/waivers")] == [("far away", True)]
