"""Messages carry their key and values beside the English text; every text is used and every gap is filled."""

import ast
import json
import pickle
from string import Formatter

import pytest

from demo.patterns import noise
from ground.places import CHECKOUT
from tests.core.test_checks import by_check, put_grey
from tests.pictures import random_texels, save, simple_set
from texel.library import Library
from texel.messages import english_texts, message_of
from texel.roles import Role
from texel.sets import parse_sets, sets_document
from texel.sorting import HabitLine, sort_files
from texel.sorting.habit import line_of
from texel.sorting.looks import Kind
from texel.sorting.splitting import Affix


def _words_in_code() -> set[str]:
    words: set[str] = set()
    for path in [*(CHECKOUT / "texel").rglob("*.py"), *(CHECKOUT / "studio").rglob("*.py")]:
        words |= {
            one.value
            for one in ast.walk(ast.parse(path.read_text()))
            if isinstance(one, ast.Constant) and isinstance(one.value, str)
        }
    return words


def test_every_text_is_used():
    # What a gap says of a kind of picture, a channel's look or a meaning has a text for each.
    named = {f"{what}_{kind.name.lower()}" for what in ("file", "files") for kind in Kind}
    named |= {f"look_{word}" for word in ("plain_black", "plain_grey", "plain_white", "two_values", "pale")}
    named |= {"meaning_none", "meaning_pack"}
    assert set(english_texts()) - _words_in_code() == named


def test_every_key_that_the_code_names_has_a_text():
    for path in (CHECKOUT / "texel").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "message_of":
                keys = {
                    one.value
                    for one in ast.walk(node.args[0])
                    if isinstance(one, ast.Constant) and isinstance(one.value, str)
                }
                assert keys <= set(english_texts()), path


def test_gaps_are_names_so_that_other_languages_can_order_them():
    names = [name for text in english_texts().values() for _, name, _, _ in Formatter().parse(text) if name is not None]
    assert len(names) > 50
    assert all(name.isidentifier() for name in names)


def test_a_gap_without_a_value_is_refused():
    with pytest.raises(KeyError):
        message_of("unused_height_range", span=0.5)


def test_roles_are_told_by_label_and_kept_by_key():
    said = message_of("twin_same", first="occlusion", second="height")
    assert said == "Height is the same picture as occlusion: one of them is in the wrong place."
    assert said.document() == {"key": "twin_same", "values": {"first": "occlusion", "second": "height"}}


def test_messages_cross_processes_whole():
    back = pickle.loads(pickle.dumps(message_of("plain_alpha", value=1.0)))
    assert (back, back.key, back.values) == (
        "An alpha channel that is plain (1): it costs memory and says nothing.",
        "plain_alpha",
        {"value": 1.0},
    )


def test_a_finding_tells_its_numbers_by_name(tmp_path):
    put_grey(tmp_path / "quay_height.png", 0.4 + 0.1 * noise(64, 64, 3))
    told = json.loads(json.dumps(by_check(tmp_path)["unused_height_range"].document()))
    assert told["said"]["key"] == "unused_height_range"
    assert told["said"]["values"]["span"] == pytest.approx(told["measure"], abs=1e-6)
    assert f"{told['said']['values']['low']:.3f}" in told["message"]


def _all_said(found):
    return [*found["habit"], *found["undecided"], *(one for made in found["sets"] for one in made["maps"])]


def _sorted_folder(tmp_path):
    simple_set(tmp_path, "deck")
    save(tmp_path / "deck_qx.png", random_texels("rgb"))
    save(tmp_path / "hull_orm.png", random_texels("y"))
    (tmp_path / "notes.txt").write_text("x")
    return sort_files(Library.of_folder(tmp_path))


def test_every_reason_of_sorting_carries_its_keys_and_values(tmp_path):
    found = _sorted_folder(tmp_path).document()
    said = [(one["why"], one["said"]) for one in _all_said(found)]
    assert said
    assert all(keys or not why for why, keys in said)
    assert {one["key"] for _, keys in said for one in keys} <= set(english_texts())
    notes = next(one for one in found["undecided"] if one["file"] == "notes.txt")
    assert notes["said"] == [{"key": "why_unreadable_suffix", "values": {"suffix": ".txt"}}]


def test_reasons_are_the_texts_of_their_keys_in_order(tmp_path):
    for one in _all_said(_sorted_folder(tmp_path).document()):
        at = 0
        for part in one["said"]:
            text = str(message_of(part["key"], **part["values"])) if part["key"] in english_texts() else ""
            assert text in one["why"][at:]
            at = one["why"].index(text, at) + len(text)


def test_reasons_go_through_the_documents_of_sets_and_habits_and_back(tmp_path):
    found = _sorted_folder(tmp_path)
    document = json.loads(json.dumps(sets_document(found.sets)))
    assert sets_document(parse_sets(document)) == document
    lines = json.loads(json.dumps([line.document() for line in found.habit.lines]))
    assert [line_of(line).document() for line in lines] == lines


@pytest.mark.parametrize(
    ("meant", "words"),
    [(None, "no map"), ((), "packed, layout unknown"), (Role.NORMAL, "normal"),
     ((("r", Role.OCCLUSION), ("", Role.NORMAL)), "R occlusion, RGB normal")],
)  # fmt: skip
def test_meanings_in_words(meant, words):
    assert HabitLine(Affix("x"), meant).meaning_in_words == words
