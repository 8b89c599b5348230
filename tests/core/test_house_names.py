"""House rules for names: judging, composing, learning, renaming. The rules themselves are invented for these tests."""

import json

import pytest

from tests.pictures import random_texels, save, simple_set
from texel.cli import main
from texel.errors import BadDocument
from texel.naming.judging import Named, judge_names, recognise
from texel.naming.renaming import Rename, plan_renames, rename_files
from texel.naming.rules import compose, parse_names
from texel.roles import Role
from texel.sorting.learning import learn_rules

DOCUMENT = {
    "format": "fair-texel/names", "version": 1,
    "parts": [
        {"part": "text", "text": "lt"}, {"part": "asset"},
        {"part": "variant", "optional": True, "words": ["worn", "wet"]}, {"part": "suffix"},
        {"part": "resolution", "optional": True}, {"part": "version", "optional": True},
    ],
    "suffixes": {"base_color": "bc", "normal": "n", "roughness": "r", "orm": "orm", "occlusion": "ao"},
}  # fmt: skip


def rules(**change):
    return parse_names(DOCUMENT | change)


def one(name, wanted=None, **known):
    return judge_names([Named(name, **known)], wanted or rules())[0]


@pytest.mark.parametrize(
    "name",
    ["lt_hull_bc.png", "lt_hull_plate_n.tga", "lt_hull_plate_worn_orm_4k.png", "lt_hull_r_2k_v03.exr", "lt_a1_ao.png"],
)  # fmt: skip
def test_right_names_are_right(name):
    verdict = one(name)
    assert verdict.fine
    assert verdict.right == name


@pytest.mark.parametrize(
    ("name", "right", "reason"),
    [
        ("Hull-Plate_BaseColor.png", "lt_hull_plate_bc.png", "the suffix is bc, not BaseColor"),
        ("LT_hull_bc.png", "lt_hull_bc.png", "upper and lower case"),
        ("lt-hull-bc.png", "lt_hull_bc.png", "separators"),
        ("lt_worn_hull_n.png", "lt_hull_worn_n.png", "order of its parts"),
        ("lt_hull plate_r.png", "lt_hull_plate_r.png", "characters that break"),
        ("lt_hull_n_v3.png", "lt_hull_n_v03.png", "names go lt_asset"),
        ("lt_hull_rough_2048.png", "lt_hull_r_2k.png", "the suffix is r, not rough"),
        ("lt_größe_r.png", None, "letters beyond A to Z"),
        ("lt_hull_h.png", None, "no suffix for height"),
        ("hull.png", None, "no suffix that names its role"),
        ("con.png", None, "a device's name"),
        (f"lt_{'hull' * 20}_n.png", None, "at most 64"),
    ],
)
def test_wrong_names_are_told_why_and_what_is_right(name, right, reason):
    verdict = one(name)
    assert not verdict.fine
    assert any(reason in problem for problem in verdict.problems), verdict.problems
    if right is not None:
        assert verdict.right == right
        assert one(right).fine


def test_what_the_map_is_wins_over_what_its_name_says():
    verdict = one("lt_hull_n.png", roles=(Role.ROUGHNESS,), asset="hull")
    assert verdict.right == "lt_hull_r.png"
    assert "its suffix is r" in verdict.problems[0]
    pack = (Role.OCCLUSION, Role.ROUGHNESS, Role.METALLIC)
    assert one("x.tga", roles=pack, asset="brassBell", side=4096).right == "lt_brass_bell_orm.tga"
    assert one("x_2k.tga", roles=pack, asset="brassBell", side=4096).right == "lt_brass_bell_orm_4k.tga"


def test_twins_and_names_that_would_become_one():
    verdicts = judge_names([Named(n) for n in ("lt_hull_n.png", "lt_hull_normal.png", "Lt_Hull_n.png")], rules())
    assert "differs from it in upper and lower case" in verdicts[0].problems[0]
    assert verdicts[0].right == "lt_hull_n.png"
    assert [v.right for v in verdicts[1:]] == [None, None]
    assert any("would have the same name" in p for p in verdicts[1].problems)


def test_folders_are_part_of_the_rules():
    verdict = one("lt_hull_plate_n.png", rules(folder="surfaces/{asset}"))
    assert verdict.right == "surfaces/hull_plate/lt_hull_plate_n.png"
    assert "belongs into the folder surfaces/hull_plate" in verdict.problems[0]
    assert one(verdict.right, rules(folder="surfaces/{asset}")).fine
    assert one("brass_bell/Roughness.png").right == "brass_bell/lt_brass_bell_r.png"


def test_what_is_composed_is_recognised():
    wanted = rules()
    values = {"asset": "Brass Bell", "variant": "WET", "suffix": "orm", "resolution": "2k", "version": "v01"}
    name = compose(wanted, values)
    assert name == "lt_brass_bell_wet_orm_2k_v01"
    assert recognise(name, wanted) == {**values, "asset": "brass_bell", "variant": "wet", "text": "lt"}
    with pytest.raises(BadDocument, match="needs its suffix"):
        compose(wanted, {"asset": "bell"})
    pascal = rules(case="pascal", parts=[{"part": "asset"}, {"part": "suffix"}], separator="-")
    assert compose(pascal, {"asset": "brass_bell", "suffix": "n"}) == "BrassBell-n"


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        ({"suffixes": {"base_color": "bc", "normal": "BC"}}, "two roles have the suffix"),
        ({"suffixes": {"paint": "p"}}, "neither a role nor a word"),
        ({"parts": [{"part": "suffix"}]}, "need an asset"),
        ({"parts": [{"part": "asset"}, {"part": "suffix"}, {"part": "asset"}]}, "only once"),
        ({"parts": [{"part": "text"}, {"part": "asset"}, {"part": "suffix"}]}, "needs its text"),
        ({"case": "title"}, "at case"),
    ],
)
def test_rules_that_make_no_sense_are_refused(change, reason):
    with pytest.raises(BadDocument, match=reason):
        rules(**change)


def test_swaps_and_chains_are_one_change_and_collisions_are_none(tmp_path):
    for name in "abcd":
        (tmp_path / name).write_text(name)
    plan = plan_renames({"a": "b", "b": "a", "c": "e"}, "abcd")
    assert all(change.problem is None for change in plan)
    rename_files(tmp_path, plan)
    assert {p.name: p.read_text() for p in tmp_path.iterdir()} == {"a": "b", "b": "a", "e": "c", "d": "d"}
    blocked = plan_renames({"a": "D", "b": "x", "e": "X"}, "abed")
    assert [change.problem is None for change in blocked] == [False, True, False]
    with pytest.raises(BadDocument, match="Nothing was renamed"):
        rename_files(tmp_path, blocked)
    with pytest.raises(OSError, match="no_such"):
        rename_files(tmp_path, [Rename("a", "z"), Rename("no_such", "y")])
    assert sorted(p.name for p in tmp_path.iterdir()) == ["a", "b", "d", "e"]


def test_rules_are_learnt_from_what_most_names_do():
    names = [f"pr_{a}_{s}_2k.png" for a in ("hull_plate", "rope", "bell") for s in ("col", "nrm", "rgh", "orm")]
    learnt = learn_rules([*names, "IMG_2041.jpg"])
    assert learnt.share == pytest.approx(12 / 13)
    assert learnt.others == ["IMG_2041"]
    assert learnt.document["suffixes"] == {"base_color": "col", "normal": "nrm", "roughness": "rgh", "orm": "orm"}
    assert learnt.document["parts"][0] == {"part": "text", "text": "pr"}
    assert learn_rules(["IMG_1.jpg"]) is None


def test_names_are_judged_with_everything_else(capsys, tmp_path):
    simple_set(tmp_path / "in", "deck", normal_word="nor_gl")
    (tmp_path / "rules.json").write_text(json.dumps(DOCUMENT))
    words = ["check", str(tmp_path / "in"), "--names", str(tmp_path / "rules.json"), "--json"]
    assert main(words) == 0
    found = [f for f in json.loads(capsys.readouterr().out)["findings"] if f["check"] == "name_against_rules"]
    assert len(found) == 6
    normal = next(f for f in found if f["role"] == "normal")
    assert "the suffix is n, not nor" in normal["message"]
    assert "It should be lt_deck_n.png" in normal["message"]


def test_the_command_judges_fixes_and_learns(capsys, tmp_path):
    folder = tmp_path / "in"
    for name in ("hull_BaseColor", "hull_Normal", "lt_rope_n"):
        save(folder / f"{name}.png", random_texels("rgb"))
    (tmp_path / "rules.json").write_text(json.dumps(DOCUMENT))

    def run(*words):
        code = main(["names", str(folder), "--json", *words])
        return code, json.loads(capsys.readouterr().out)

    rules_file = ("--rules", str(tmp_path / "rules.json"))
    code, document = run(*rules_file, "--fix", "--dry-run")
    assert (code, document["renamed"], len(document["renames"])) == (1, False, 2)
    assert (folder / "hull_Normal.png").exists()
    code, document = run(*rules_file, "--fix")
    assert (code, document["renamed"]) == (0, True)
    assert sorted(p.name for p in folder.iterdir()) == ["lt_hull_bc.png", "lt_hull_n.png", "lt_rope_n.png"]
    assert run(*rules_file)[0] == 0
    code, document = run("--learn", str(tmp_path / "learnt.json"))
    assert (code, document["share"]) == (0, 1.0)
    assert run("--rules", str(tmp_path / "learnt.json"))[0] == 0
    assert main(["names", str(folder)]) == 2
