"""Messages carry their key and their values beside the English text."""

import ast
import pickle

import pytest

from ground.places import CHECKOUT
from texel.errors import BadExpression, ChangedWhileRead, TexelError, UnreadableImage
from texel.wording import Message, filled

# Classes whose first words are a sentence; the number of arguments before it.
_TOLD = {
    "TexelError": 0, "BadDocument": 0, "Unwritable": 0, "MismatchedMaps": 0, "DeliveryRefused": 0, "PlaceBusy": 0,
    "BadExpression": 0, "UnreadableImage": 1, "TooLarge": 1, "UnreadableMesh": 1, "Usage": 0, "Conflict": 0,
    "NotAllowed": 0, "Stale": 1, "UploadRejected": 0, "LibraryAway": 0, "Damaged": 0, "Ended": 0,
}  # fmt: skip


def sentences():
    for folder in ("texel", "studio"):
        for path in sorted((CHECKOUT / folder).rglob("*.py")):
            for node in ast.walk(ast.parse(path.read_text("utf-8"))):
                if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in _TOLD:
                    yield path.name, node.lineno, node.args[_TOLD[node.func.id]], node.keywords


def test_sentences_are_written_with_gaps_not_filled_where_they_are_raised():
    filled_early = [(name, line) for name, line, words, _ in sentences() if isinstance(words, ast.JoinedStr)]
    assert filled_early == []


def test_every_gap_of_a_sentence_has_a_value_and_every_value_a_gap():
    wrong = []
    for name, line, words, keywords in sentences():
        if isinstance(words, ast.Constant) and all(one.arg for one in keywords):
            gaps = {part.split("!")[0] for part in _gaps(words.value)}
            if gaps != {one.arg for one in keywords}:
                wrong.append((name, line, words.value))
    assert wrong == []


def _gaps(sentence):
    from string import Formatter

    return {name for _, name, _, _ in Formatter().parse(sentence) if name}


def test_a_message_goes_through_json_and_back():
    message = filled("{file} has {count} layers", file="a.tif", count=2)
    assert Message.of(str(message), message.document()).document() == message.document()


def test_values_are_what_json_knows():
    said = filled("{share:.1%} of {names}", share=1 / 3, names=("a", "b"))
    assert (said, said.values) == ("33.3% of ('a', 'b')", {"share": 0.333333, "names": ["a", "b"]})


def test_braces_in_values_stay_as_they_are():
    error = TexelError("{name!r} is odd", name="{x}{0}")
    assert str(error) == "'{x}{0}' is odd"


@pytest.mark.parametrize(
    "error",
    [
        TexelError("{a} and {b}", a="{1}", b=2),
        UnreadableImage("a.png", "level {level} is {what}", level=1, what="{gone}"),
        ChangedWhileRead("a.png"),
        BadExpression("no {name}", 3, 4, "row", name="x"),
    ],
)
def test_errors_pass_between_processes(error):
    again = pickle.loads(pickle.dumps(error))
    assert (str(again), again.message.document(), vars(again).keys()) == (
        str(error), error.message.document(), vars(error).keys(),
    )  # fmt: skip


def test_an_expression_keeps_its_place_under_the_name_of_a_row():
    error = BadExpression("no {name!r}", 3, 4, name="x").of_row("mask")
    assert (str(error), error.problem, error.start, error.row) == ("row mask: no 'x'", "no 'x'", 3, "mask")
    assert error.message.key == "row {row}: no {name!r}"


def test_a_file_that_cannot_be_read_names_itself_as_a_value():
    assert UnreadableImage("a.png", "cut off").message.document() == {
        "key": "{file}: cut off",
        "values": {"file": "a.png"},
    }
