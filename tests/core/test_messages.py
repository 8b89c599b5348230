"""Messages carry their key and values beside the English text; every text is used and every gap is filled."""

import ast
import json
import pickle
from string import Formatter

import pytest

from demo.patterns import noise
from ground.places import CHECKOUT
from tests.core.test_checks import by_check, put_grey
from texel.messages import english_texts, message_of


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
    assert set(english_texts()) - _words_in_code() == set()


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
