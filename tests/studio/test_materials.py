"""Masters and casts through the API: sheets, versions, fills, updates, undo."""

import copy

import pytest

from demo.materials import MASTERS, NEWER
from studio.api.schemas.casts import Materials
from studio.materials.models import Cast, Master
from studio.projects.models import Project
from tests.pictures import simple_set

SOLID = MASTERS[0]


@pytest.fixture
def roll(take_in, tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull", seed=30)
    return take_in(tmp_path / "in")


@pytest.fixture
def solid(library):
    library("POST", "/masters", SOLID)
    return library("POST", "/masters/plain-solid/publish", {"note": "First"})


def set_id(call, name):
    return next(one["id"] for one in call("GET", "/sets")["sets"] if one["name"] == name)


def a_cast(call, name="Deck", **more):
    return call("POST", "/materials", {"name": name, **(more or {"master": "plain-solid"})})


def test_a_sheet_is_read_while_it_is_written_and_nothing_is_kept(library):
    told = library("POST", "/masters/read", SOLID)
    row = next(one for one in told["sheet"]["rows"] if one["name"] == "base_color")
    assert row["chain"]["steps"][-1] == {"step": "occlude", "letters": None, "others": ["pack.r", "dirt"]}
    assert told["sheet"]["cost"]["reads"] == 3
    assert library("POST", "/masters/chain", row["chain"]) == {"text": row["text"]}
    broken = copy.deepcopy(SOLID)
    broken["inputs"]["metallic"] = "pack.b +"
    told = library("POST", "/masters/read", broken)
    assert (told["problem"]["row"], told["sheet"]) == ("metallic", None)
    library("POST", "/masters/chain", {"start": "a", "steps": [{"step": "fly"}]}, status=422)
    assert {one["name"] for one in library("GET", "/masters/catalogue")["inputs"]} >= {"base_color", "height"}
    assert not Master.objects.exists()


def test_a_draft_becomes_a_version_that_never_changes(library, solid):
    assert (solid["newest"], solid["draft"]) == ("1.0.0", False)
    library("POST", "/masters", SOLID, status=409)
    library("POST", "/masters/plain-solid/publish", {}, status=409)
    draft = copy.deepcopy(SOLID) | {"help": "Anything dull."}
    assert library("PUT", "/masters/plain-solid/draft", draft)["draft"]
    library("PUT", "/masters/plain-solid/draft", draft | {"name": "other"}, status=409)
    told = library("GET", "/masters/plain-solid/difference?before=1.0.0")
    assert [(one["what"], one["breaks"]) for one in told] == [("words", "keeps")]
    made = library("POST", "/masters/plain-solid/publish", {"note": "Words"})
    assert [one["number"] for one in made["versions"]] == ["1.0.1", "1.0.0"]
    assert library("GET", "/masters/plain-solid/versions/1.0.0") == SOLID
    for number in ("7.0.0", "x", "1.0", "1.0.99999999999"):
        library("GET", f"/masters/plain-solid/versions/{number}", status=409)
    wrong = copy.deepcopy(SOLID)
    wrong["inputs"]["normal"] = "pack.r"
    library("PUT", "/masters/plain-solid/draft", wrong)
    assert "errors" in library("POST", "/masters/plain-solid/publish", {}, status=409)["detail"]


def test_only_who_sets_rules_somewhere_writes_masters(library, solid, sign_in):
    looker = sign_in("prepare", "bram")
    looker.base = ""
    assert looker("GET", "/masters/plain-solid")["may_write"] is False
    looker("POST", "/masters", SOLID | {"name": "mine"}, status=403)
    looker("PUT", "/masters/plain-solid/draft", SOLID, status=403)
    looker("POST", "/masters/plain-solid/publish", {}, status=403)


def test_a_cast_is_filled_from_a_set_and_keeps_only_what_differs(call, roll, solid):
    one = a_cast(call)
    assert (one["number"], one["changed"], one["fills"]) == ("1.0.0", [], [])
    one = call("POST", f"/materials/{one['id']}/fill", {"set": set_id(call, "deck")})
    assert {fill["slot"] for fill in one["fills"]} == {"colour", "pack", "bumps"}
    assert one["worst"] is None
    one = call("PATCH", f"/materials/{one['id']}", {"changes": {"relief": 2, "shade": [1, 0, 0]}})
    assert (one["values"]["relief"], sorted(one["changed"])) == ([2], ["relief", "shade"])
    derived = a_cast(call, "Deck, flat", parent=one["id"])
    derived = call("PATCH", f"/materials/{derived['id']}", {"changes": {"relief": 0}})
    assert (derived["values"]["relief"], derived["values"]["shade"]) == ([0], [1, 0, 0])
    assert (derived["changed"], derived["inherited"]) == (["relief"], ["shade"])
    assert [fill["own"] for fill in derived["fills"]] == [False] * 3
    derived = call("PATCH", f"/materials/{derived['id']}", {"changes": {"relief": None}})
    assert derived["values"]["relief"] == [2]
    call("DELETE", f"/materials/{one['id']}", status=409)
    for changes, status in (({"relief": 9}, 422), ({"relief": "high"}, 422), ({"nothing": 1}, 422)):
        call("PATCH", f"/materials/{one['id']}", {"changes": changes}, status=status)
    wrong = (({"colour": {"set": 99999}}, 409), ({"far": {"set": 1}}, 422), ({"colour": {"role": "x"}}, 422))
    for slots, status in wrong:
        call("PATCH", f"/materials/{one['id']}", {"slots": slots}, status=status)
    assert call("GET", f"/materials/{one['id']}")["values"]["relief"] == [2]
    call("POST", "/materials", {"name": "Deck", "master": "plain-solid"}, status=409)
    call("POST", "/materials", {"name": "Hull"}, status=409)


def test_several_casts_change_as_one_and_are_undone_as_one(call, roll, solid):
    first, second = a_cast(call, "One"), a_cast(call, "Two")
    call("PATCH", f"/materials/{first['id']}", {"changes": {"dirt": 1}, "casts": [second["id"]]})

    def values():
        return [one.changes for one in Cast.objects.order_by("name")]

    assert values() == [{"dirt": 1}, {"dirt": 1}]
    call("POST", "/undo")
    assert values() == [{}, {}]
    call("POST", "/redo")
    assert values() == [{"dirt": 1}, {"dirt": 1}]
    call("PATCH", f"/materials/{first['id']}", {"changes": {"relief": 2}})
    told = call("GET", "/materials/masters/plain-solid/compare")
    assert [(one["name"], one["values"]["relief"], one["changed"]) for one in told["casts"]] == [
        ("One", [2], ["dirt", "relief"]), ("Two", [1], ["dirt"]),
    ]  # fmt: skip
    call("GET", "/materials/masters/nothing/compare", status=404)
    call("POST", "/undo")
    call("DELETE", f"/materials/{first['id']}", status=204)
    call("POST", "/undo")
    assert [one.name for one in Cast.objects.all()] == ["One", "Two"]
    for _ in range(3):
        call("POST", "/undo")
    assert not Cast.objects.exists()
    assert call("GET", "/materials")["masters"] == []


def test_what_is_fed_wrongly_is_found_and_its_picture_shows_it(call, roll, solid):
    one = a_cast(call)
    deck = set_id(call, "deck")
    one = call("PATCH", f"/materials/{one['id']}", {"slots": {"colour": {"set": deck, "role": "roughness"}}})
    assert one["worst"] == "error"
    assert {r["check"] for r in one["remarks"] if r["slot"] == "colour"} == {"wrong_role", "wrong_colour_space"}
    address = f"/materials/picture?set={deck}&expects=base_color&space=srgb"
    right, wrong = call("GET", address), call("GET", f"{address}&taken=roughness")
    assert right.headers["Content-Type"] == "image/png"
    assert right.content != wrong.content
    for query in ("base_color&space=ultra", "/etc/passwd&space=linear", "normal&space=linear&taken=x"):
        call("GET", f"/materials/picture?set={deck}&expects={query}", status=422)
    call("GET", "/materials/picture?set=99999&expects=normal&space=linear", status=404)


def test_an_update_says_what_it_costs_is_taken_and_undone(call, library, roll, solid):
    one = a_cast(call)
    call("PATCH", f"/materials/{one['id']}", {"changes": {"dull": 2, "relief": 3}})
    document, note = NEWER[0]
    library("PUT", "/masters/plain-solid/draft", document)
    assert library("POST", "/masters/plain-solid/publish", {"note": note})["newest"] == "2.0.0"
    told = call("GET", "/materials")
    Materials.model_validate(told)
    assert [row["name"] for row in told["casts"]] == ["Deck"]
    (waiting,) = told["masters"]
    assert (waiting["number"], waiting["newest"], waiting["update_available"]) == ("1.0.0", "2.0.0", True)
    told = call("POST", "/materials/masters/plain-solid/impact", {"number": "2.0.0"})
    assert list(told["casts"][0]["lost"]) == ["dull"]
    assert told["changes"][0]["breaks"] == "removes"
    renames = {"dull": "gloss_curve"}
    (after,) = call("POST", "/materials/masters/plain-solid/impact", {"number": "2.0.0", "renames": renames})["casts"]
    call("PUT", "/materials/masters/plain-solid", {"number": "2.0.0", "renames": {"dull": "gloss_curve"}})
    now = call("GET", f"/materials/{one['id']}")
    assert (now["number"], now["values"]["gloss_curve"], now["values"]["relief"]) == ("2.0.0", [2], [3])
    assert after["values"] == now["values"], "what was shown before is what came"
    call("POST", "/undo")
    back = call("GET", f"/materials/{one['id']}")
    assert (back["number"], back["values"]["dull"]) == ("1.0.0", [2])
    (seen,) = call("GET", "/materials")["masters"]
    call("PUT", "/materials/masters/plain-solid/pinned", {"pinned": True}, status=204, seen=seen["revision"])
    late = call("PUT", "/materials/masters/plain-solid/pinned", {"pinned": False}, status=409, seen=seen["revision"])
    assert late["newest"]["pinned"]
    assert call("GET", "/materials")["masters"][0]["update_available"] is False
    library("PUT", "/masters/plain-solid/versions/2.0.0/deprecated", {"deprecated": True})
    call("PUT", "/materials/masters/plain-solid", {"number": "2.0.0"}, status=409)


def test_other_projects_and_strangers_see_nothing_of_a_cast(call, roll, solid, sign_in):
    one = a_cast(call)
    Project.objects.create(slug="other", name="Other")
    stranger = sign_in(None, "zoe")
    stranger("GET", f"/materials/{one['id']}", status=404)
    looker = sign_in("look", "cleo")
    looker("PATCH", f"/materials/{one['id']}", {"changes": {"dirt": 1}}, status=403)
    assert looker("GET", f"/materials/{one['id']}")["name"] == "Deck"


def test_a_sheet_that_costs_more_than_the_rules_allow_is_told_and_who_uses_a_version(call, library, solid, roll):
    cast = a_cast(call)
    call("POST", f"/materials/{cast['id']}/fill", {"set": set_id(call, "deck")})
    (adopted,) = call("GET", "/materials")["masters"]
    assert adopted["over_budget"] == []
    (rule,) = call("GET", "/rules/formats")
    call("PUT", "/rules/formats/house", rule["document"] | {"sheets": {"reads": 2, "samplers": 3, "variants": 1}})
    (adopted,) = call("GET", "/materials")["masters"]
    assert adopted["over_budget"] == ["3 texture reads, where 2 are allowed"]
    # 64 x 64 texels with all levels: BC1 has 8 bytes a block, BC5 16; 16 x 16 blocks and a third more (here 85 / 64).
    blocks = 256 + 64 + 16 + 4 + 1 + 1 + 1
    assert call("GET", f"/materials/{cast['id']}")["memory"] == blocks * (8 + 8 + 16)
    assert library("GET", "/masters/plain-solid")["users"] == [{"title": "Ferry", "number": "1.0.0", "casts": 1}]
