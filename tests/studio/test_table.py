"""The list of sets as a table for other programs."""

import csv
import io

import pytest

from studio.intake.models import SourceFile
from studio.sets.models import Finding
from studio.sets.table import COLUMNS
from tests.pictures import simple_set
from tests.studio.test_changes import a_set

pytestmark = pytest.mark.django_db


@pytest.fixture
def sets(project):
    deck, maps = a_set(project, "deck")
    source = SourceFile.objects.create(digest="a" * 64, bytes=9, probe={"width": 64, "height": 128})
    maps["normal"].file.source = source
    maps["normal"].file.save()
    document = {"check": "size", "role": "normal", "message": "too large, by far", "severity": "error"}
    Finding.objects.create(set=deck, placement=maps["normal"], rank=0, severity="error", document=document)
    deck.targets = ["a", "b"]
    deck.save()
    a_set(project, "=cmd|' /C calc'!A0", ())
    return deck


def test_a_row_says_how_a_set_stands(call, sets):
    call("POST", "/reviews", {"sets": [sets.pk], "state": "ready"})
    _, row = call("GET", "/sets/table")
    assert (row["name"], row["errors"], row["warnings"], row["worst"]) == ("deck", 1, 0, "too large, by far")
    assert (row["side"], row["review"], row["checked"]) == (128, "ready", False)
    assert row["maps"] == {"normal": "deck_normal.png", "roughness": "deck_roughness.png"}


def test_as_csv_it_is_read_back_and_no_spreadsheet_takes_a_name_for_a_formula(call, sets):
    answer = call("GET", "/sets/table?format=csv")
    assert answer.headers["Content-Disposition"] == 'attachment; filename="ferry-sets.csv"'
    odd, deck = csv.DictReader(io.StringIO(answer.content.decode()))
    assert tuple(deck) == COLUMNS
    assert odd["name"] == "'=cmd|' /C calc'!A0"
    assert (deck["roles"], deck["targets"], deck["worst"]) == ("normal; roughness", "a; b", "too large, by far")


def test_another_form_is_refused(call):
    call("GET", "/sets/table?format=xml", status=422)


def test_findings_of_all_sets_are_those_of_each_set_without_what_is_waived(call, take_in, tmp_path):
    for name, seed in (("deck", 1), ("quay", 2)):
        simple_set(tmp_path / "in", name, seed=seed)
    for path in (tmp_path / "in").glob("quay_n*"):
        path.unlink()
    sets = take_in(tmp_path / "in")["sets"]
    each = [
        {**one, "marks": None, "set": row["name"]}
        for row in sets for one in call("GET", f"/sets/{row['id']}")["findings"]
    ]  # fmt: skip
    assert each
    assert call("GET", "/sets/findings") == each
    call("POST", "/waivers", {"finding": each[0]["id"], "reason": "as it should be"})
    assert len(call("GET", "/sets/findings")) == len(each) - 1
