"""Licences of sets against a project's rules, in the core and on the command line."""

import json

import pytest

from tests.core.test_cli import run, run_json
from tests.pictures import simple_set
from texel.checks import Wanted, check_sets
from texel.errors import BadDocument
from texel.library import Library
from texel.licences import Licence, objection, parse_licences
from texel.schemas import check_document
from texel.sets import parse_sets, sets_document
from texel.sorting import sort_files

RULES = {
    "format": "fair-texel/licences", "version": 1, "unknown": "warning",
    "terms": [
        {"licence": "CC0-1.0", "use": "free"}, {"licence": "CC-BY-4.0", "use": "credit"},
        {"licence": "LicenseRef-print-only", "use": "refused", "why": "Bought for a poster."},
    ],
}  # fmt: skip


@pytest.mark.parametrize(
    ("licence", "told"),
    [
        (Licence("CC0-1.0"), None),
        # SPDX 2.3, annex D (from memory): identifiers are compared without regard to case.
        (Licence("cc0-1.0"), None),
        (Licence("CC-BY-4.0", "Imke"), None),
        (Licence("CC-BY-4.0"), ("credit_missing", "warning")),
        (Licence("LicenseRef-print-only", "Imke"), ("licence_refused", "error")),
        (Licence("CC-BY-SA-4.0"), ("licence_refused", "error")),
        (Licence(), ("licence_unknown", "warning")),
    ],
)
def test_what_the_rules_say_of_a_licence(licence, told):
    found = objection(licence, parse_licences(RULES))
    assert (found and found[:2]) == told
    assert objection(licence, None) is None


def test_rules_say_how_bad_an_unknown_licence_is_and_make_sense():
    for harm in ("error", "note"):
        assert objection(Licence(), parse_licences(RULES | {"unknown": harm})).harm == harm
    for wrong in (
        {"terms": [{"licence": "CC0-1.0", "use": "free"}, {"licence": "cc0-1.0", "use": "refused"}]},
        {"terms": [{"licence": "two words", "use": "free"}]},
        {"terms": [{"licence": "CC0-1.0", "use": "perhaps"}]},
        {"unknown": "shrug"},
    ):
        with pytest.raises(BadDocument):
            parse_licences(RULES | wrong)


def test_a_set_carries_its_licence_and_the_check_speaks_of_it(tmp_path):
    simple_set(tmp_path, "deck")
    library = Library.of_folder(tmp_path)
    document = sets_document(sort_files(library).sets)
    assert "licence" not in document["sets"][0]
    document["sets"][0]["licence"] = {"name": "LicenseRef-print-only", "credit": "Imke"}
    sets = parse_sets(document)
    assert sets_document(sets) == document
    wanted = Wanted(licences=parse_licences(RULES))
    (found,) = [f for f in check_sets(sets, library, wanted) if f.check.startswith("licence")]
    assert (found.set, found.severity.value) == ("deck", "error")
    assert "Bought for a poster." in found.message
    assert not [f for f in check_sets(sets, library) if f.check.startswith("licence")]


def test_a_delivery_leaves_out_what_may_not_be_used_and_names_whom_it_owes(capsys, tmp_path):
    for stem, seed in (("deck", 1), ("hull", 30)):
        simple_set(tmp_path / "in", stem, seed=seed)
    document = json.loads(run(capsys, "sort", tmp_path / "in", "--json")[1])
    document["sets"][0]["licence"] = {"name": "LicenseRef-print-only"}
    document["sets"][1]["licence"] = {"name": "CC-BY-4.0", "credit": "Imke"}
    (tmp_path / "sets.json").write_text(json.dumps(document))
    (tmp_path / "rules.json").write_text(json.dumps(RULES))
    told = ("--sets", tmp_path / "sets.json", "--licences", tmp_path / "rules.json")
    code, found = run_json(capsys, "check", tmp_path / "in", *told)
    assert code == 1
    assert "licence_refused" in {f["check"] for f in found["findings"]}
    words = ("deliver", tmp_path / "in", "--target", "orm-y-minus", *told, "-o", tmp_path / "out")
    code, found = run_json(capsys, *words)
    assert code == 1
    assert {one["path"].split("/")[0] for one in found["files"]} == {"hull"}
    assert found["problems"][0].startswith("deck: The project may not use what is under LicenseRef-print-only")
    manifest = json.loads((tmp_path / "out" / "manifest.json").read_text())
    check_document(manifest, "manifest", "the manifest")
    (hull,) = manifest["sets"]
    assert (hull["licence"], hull["credit"]) == ("CC-BY-4.0", "Imke")
