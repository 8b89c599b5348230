"""The library's functions through the API: drafts, versions, sheets that carry them, who may change them."""

import pytest

from demo.materials import MASTERS
from studio.materials.models import Function
from tests.sheets import WET

SOLID = MASTERS[0]
CALLING = {
    "format": "fair-texel/master", "version": 1, "name": "quay", "title": "Quay",
    "slots": [{"name": "colour", "role": "base_color"}], "inputs": {"base_color": "colour"},
}  # fmt: skip


@pytest.fixture
def wet(library):
    library("POST", "/functions", WET)
    return library("POST", "/functions/wet/publish", {"note": "First"})


def carried(library, name, **changes):
    """A master with the function wet as it is now; its draft."""
    document = library("POST", "/functions/wet/into", {"document": CALLING | {"name": name} | changes})
    document["inputs"]["base_color"] = "wet(colour, 0.5)"
    library("POST", "/masters", document)
    return document


def test_a_function_is_drafted_published_and_numbered(library, wet):
    assert (wet["newest"], wet["draft"], wet["keepers"]) == ("1.0.0", False, ["iris"])
    library("POST", "/functions", WET, status=409)
    library("POST", "/functions/wet/publish", {}, status=409)
    library("PUT", "/functions/wet/draft", WET | {"name": "dry"}, status=409)
    assert library("PUT", "/functions/wet/draft", WET | {"result": "darker"})["draft"]
    assert library("GET", "/functions/wet/difference?before=1.0.0")[0]["breaks"] == "changes"
    made = library("POST", "/functions/wet/publish", {"note": "Plainer"})
    assert [one["number"] for one in made["versions"]] == ["1.1.0", "1.0.0"]
    assert library("GET", "/functions/wet/versions/1.0.0") == WET | {"number": "1.0.0"}
    library("GET", "/functions/wet/versions/9.0.0", status=409)


def test_a_name_of_an_operation_is_no_name_for_a_function(library):
    assert "an operation called noise" in library("POST", "/functions", WET | {"name": "noise"}, status=409)["detail"]


def test_two_masters_carry_it_and_follow_it_when_they_are_told_to(library, wet):
    carried(library, "quay")
    carried(library, "pier", title="Pier")
    assert library("GET", "/functions")[0]["uses"] == 2
    library("PUT", "/functions/wet/draft", WET | {"result": "darker"})
    told = library("POST", "/functions/wet/publish", {})
    assert [(one["title"], one["number"]) for one in told["used_by"]] == [("Pier", "1.0.0"), ("Quay", "1.0.0")]
    document = library("GET", "/masters/quay")["document"]
    updated = library("POST", "/functions/wet/into", {"document": document})
    library("PUT", "/masters/quay/draft", updated)
    library("POST", "/masters/quay/publish", {})
    told = library("GET", "/functions/wet")["used_by"]
    assert [(one["master"], one["number"]) for one in told] == [("pier", "1.0.0"), ("quay", "1.1.0")]
    again = library("POST", "/functions/wet/into", {"document": updated, "number": "1.0.0"})
    assert again["functions"][0]["number"] == "1.0.0"


def test_a_deprecated_version_is_not_brought_into_sheets(library, wet):
    assert library("PUT", "/functions/wet/versions/1.0.0/deprecated", {"deprecated": True})["newest"] is None
    assert "no version yet" in library("POST", "/functions/wet/into", {"document": CALLING}, status=409)["detail"]
    assert library("GET", "/functions/wet")["versions"][0]["deprecated"]


def test_steps_of_a_row_become_a_function_and_nothing_is_kept(library):
    given = {"document": SOLID, "row": "roughness", "title": "Dulled"}
    made = library("POST", "/functions/draw-out", given)
    assert made["rows"] == ["roughness"]
    assert made["document"]["inputs"]["roughness"].startswith("dulled(")
    assert not Function.objects.exists()
    library("POST", "/functions", made["function"])
    assert "already" in library("POST", "/functions/draw-out", given, status=409)["detail"]
    library("POST", "/functions/draw-out", given | {"title": " "}, status=409)
    library("POST", "/functions/draw-out", given | {"row": "none", "title": "Other"}, status=422)


def test_a_function_is_read_while_it_is_written(library):
    told = library("POST", "/functions/read", WET)
    assert told["problem"] is None
    assert [one["name"] for one in told["sheet"]["rows"]][:2] == ["darker", "result"]
    told = library("POST", "/functions/read", WET | {"result": "darker +"})
    assert (told["problem"]["row"], told["sheet"]) == ("result", None)
    told = library("POST", "/functions/read", WET | {"result": "colour + uv"})
    assert (told["problem"]["row"], told["problem"]["start"]) == ("result", 9)
    assert told["sheet"] is not None
    assert library("POST", "/functions/read", {"name": "x"})["problem"]["row"] == ""


def test_what_does_not_fit_is_not_published(library):
    library("POST", "/functions", WET | {"result": "colour + uv"})
    assert "result" in library("POST", "/functions/wet/publish", {}, status=409)["detail"]


def test_a_chain_of_functions_becomes_text(library):
    chain = {"start": "colour", "steps": [{"step": "wet", "others": ["0.5"]}]}
    assert library("POST", "/masters/chain", chain | {"functions": [WET]}) == {"text": "wet(colour, 0.5)"}
    library("POST", "/masters/chain", chain, status=422)
    library("POST", "/masters/chain", chain | {"functions": [{"name": "wet"}]}, status=422)


def test_two_drafts_at_once_are_told(library, wet):
    seen = library("GET", "/functions/wet")["revision"]
    library("PUT", "/functions/wet/draft", WET | {"help": "a"}, seen=seen)
    library("PUT", "/functions/wet/draft", WET | {"help": "b"}, seen=seen, status=409)


def test_only_keepers_change_a_function(library, wet, sign_in):
    other = sign_in("prepare", "bram")
    other.base = ""
    assert other("GET", "/functions/wet")["may_write"] is False
    other("POST", "/functions", WET | {"name": "mine"}, status=403)
    for how, path, body in (
        ("PUT", "/functions/wet/draft", WET), ("POST", "/functions/wet/publish", {}),
        ("PUT", "/functions/wet/versions/1.0.0/deprecated", {"deprecated": True}),
        ("PUT", "/functions/wet/keepers/bram", None), ("DELETE", "/functions/wet/keepers/iris", None),
    ):  # fmt: skip
        assert "kept by iris" in other(how, path, body, status=403)["detail"]
    assert library("PUT", "/functions/wet/keepers/bram")["keepers"] == ["bram", "iris"]
    other("PUT", "/functions/wet/draft", WET | {"help": "darker"})
    assert library("DELETE", "/functions/wet/keepers/bram")["keepers"] == ["iris"]
    library("DELETE", "/functions/wet/keepers/iris", status=409)
