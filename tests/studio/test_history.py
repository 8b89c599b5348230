"""The history: every change, undo and record is a line that stays, found by person, object, kind, words and time."""

from datetime import UTC, datetime

import pytest
from django.apps import apps

from studio.changes.kinds import kinds
from studio.changes.recorded import recorded_models
from studio.projects.models import HistoryLine, Project
from studio.watched.models import WatchedFolder
from tests.sheets import a_master
from tests.studio.conftest import Caller
from tests.studio.test_changes import FLIP, a_set
from tests.studio.test_functions import WET

pytestmark = pytest.mark.django_db

# Belongs to a project and has no line of its own, for a reason.
WITHOUT_LINES = {
    "Job": "work of the machine; what it made has a line",
    "Finding": "measured, not decided",
    "FileName": "the former names of files, written by a change of them",
    "FileVersion": "the former contents of files, written by a change of them",
    "MeshVersion": "the former files of models, written by a change of them",
    "MeshFile": "what a model names, taken in with it",
    "WatchedFile": "what was seen of a folder",
    "ScanFile": "what was fetched of a scan",
    "Membership": "changed through the security log, whose lines are",
    "Invitation": "the security log has it; who joined is a line",
    "LogEntry": "those that concern everybody are lines",
    "Change": "each has a line",
    "HistoryLine": "is one",
    "Sending": "tells outside what has a line",
    "Notice": "says again what has a line",
    "Presence": "is forgotten after a minute",
}


@pytest.fixture
def deck(project):
    return a_set(project, "deck")


def labels(call, query=""):
    return [one["label"] for one in call("GET", f"/history{query}")["lines"]]


def test_nothing_of_a_project_is_without_history():
    """A new table that belongs to a project is a kind of the engine, recorded, or stands above with a reason."""
    known = {kind.model for kind in kinds()} | recorded_models
    mine = [model for model in apps.get_models() if model.__module__.startswith("studio.")]
    of_projects = {Project}
    while more := {
        model for model in mine if model not in of_projects
        and any(field.related_model in of_projects for field in model._meta.fields if field.is_relation)
    }:  # fmt: skip
        of_projects |= more
    assert len(of_projects) > 20
    assert {model.__name__ for model in of_projects - known} - WITHOUT_LINES.keys() == set()


def test_changes_stand_with_who_did_them_and_what_was_before(call, deck):
    one, maps = deck
    call("PATCH", f"/sets/{one.pk}", {"name": "pier"})
    call("PUT", f"/maps/{maps['normal'].pk}/recipe", {"recipe": FLIP})
    last, first, _ = call("GET", "/history")["lines"]
    assert (first["by"], first["what"], first["has_more"]) == ("ada", "change", True)
    assert {"kind": "sets", "key": str(one.pk), "called": "pier"} in last["about"], "a map's set stands with it"
    (name,) = call("GET", f"/history/{first['id']}")
    assert (name["field"], name["before"], name["after"]) == ("the name", "deck", "pier")
    (steps,) = call("GET", f"/history/{last['id']}")
    assert (steps["map"], steps["before"], steps["after"]) == (maps["normal"].pk, [], FLIP)


def test_what_was_taken_back_stays_in_the_history(call, deck):
    one, _ = deck
    call("PATCH", f"/sets/{one.pk}", {"name": "pier"})
    call("POST", "/undo")
    call("PUT", f"/sets/{one.pk}/metres", {"metres": 2})
    assert call("POST", "/redo")["label"] is None, "something new was done since"
    lines = call("GET", f"/history?about=sets:{one.pk}")["lines"]
    assert [(line["what"], line["undone"]) for line in lines] == [("change", False), ("undo", False), ("change", True)]


def test_lines_are_found_by_person_object_kind_words_and_time(call, other, deck, project):
    one, _ = deck
    two, _ = a_set(project, "quay")
    call("PATCH", f"/sets/{one.pk}", {"name": "pier"})
    other("PATCH", f"/sets/{two.pk}", {"name": "mole"})
    other("POST", "/intakes", {"name": "Painted"})
    HistoryLine.objects.filter(label__contains="mole").update(at=datetime(2026, 1, 1, tzinfo=UTC))
    assert len(labels(call, "?person=bram")) == 2
    assert len(labels(call, f"?about=sets:{one.pk}")) == 1
    assert labels(call, "?kind=intakes&person=bram") == ["Take in Painted"]
    assert labels(call, "?text=MOLE") == labels(call, "?until=2026-02-01T00:00:00Z") != []
    assert len(labels(call, "?since=2026-02-01T00:00:00Z")) == len(labels(call)) - 1
    assert labels(call, "?kind=%25") == [], "no pattern gets in"
    assert call("GET", "/history")["people"] == ["ada", "bram"]


def test_lines_come_by_pages(call, project):
    HistoryLine.objects.bulk_create(HistoryLine(project=project, what="event", label=f"line {n}") for n in range(120))
    seen, before = [], ""
    while True:
        page = call("GET", f"/history{before}")
        seen += [one["label"] for one in page["lines"]]
        if not page["older"]:
            break
        before = f"?before={page['lines'][-1]['id']}"
    assert seen == [f"line {n}" for n in reversed(range(120))]


def test_what_no_change_makes_is_recorded_whoever_makes_it(call, sign_in, project):
    sign_in("look", "cleo")
    call("PUT", "/members/cleo", {"right": "prepare"})
    WatchedFolder.objects.create(project=project, name="Paint", place="paint").delete()
    assert labels(call) == [
        "Watch the folder Paint no more", "Watch the folder Paint", "Right changed: cleo may prepare and deliver",
    ]  # fmt: skip


def test_a_project_that_goes_leaves_no_lines(call, project):
    WatchedFolder.objects.create(project=project, name="Paint", place="paint")
    project.delete()
    assert not HistoryLine.objects.exists()


def test_the_library_has_a_history_of_its_own(library):
    library("POST", "/masters", a_master())
    library("POST", "/masters/stone/publish", {"note": "First"})
    lines = library("GET", "/history?about=masters:stone")["lines"]
    assert [(one["label"], one["by"]) for one in lines] == [
        ("Publish Stone 1.0.0: First", "iris"), ("Add Stone to the library", "iris"),
    ]  # fmt: skip


def test_what_keepers_do_to_the_library_is_told(library, other):
    document = a_master()
    library("POST", "/masters", document)
    for title in ("Stone a", "Stone ab", "Stone abc"):
        library("PUT", "/masters/stone/draft", {**document, "title": title})
    library("POST", "/masters/stone/publish", {})
    library("PUT", "/masters/stone/versions/1.0.0/deprecated", {"deprecated": True})
    library("PUT", "/masters/stone/keepers/bram")
    library("DELETE", "/masters/stone/keepers/bram")
    told = [one["label"] for one in library("GET", "/history?about=masters:stone")["lines"]]
    assert told[:3] == [
        "Take bram from the keepers of Stone abc", "Make bram a keeper of Stone abc", "Deprecate Stone abc 1.0.0",
    ]  # fmt: skip
    # What is written on a draft within minutes is one line, not one for each stroke of a key.
    assert sum(one.startswith("Write the draft of Stone") for one in told) <= 3


def test_the_library_is_searched_by_kind_and_time_and_its_objects_have_titles(library):
    long = "s" * 64
    library("POST", "/masters", {**a_master(), "name": long})
    library("POST", "/functions", WET)
    (line,) = library("GET", "/history?kind=masters")["lines"]
    assert line["about"] == [{"kind": "masters", "key": long, "called": "Stone"}]
    assert [one["label"] for one in library("GET", "/history?kind=functions")["lines"]] == ["Add wet to the library"]
    assert library("GET", "/history?since=2999-01-01T00:00:00Z")["lines"] == []
    assert len(library("GET", "/history?until=2999-01-01T00:00:00Z")["lines"]) == 2


def test_the_history_of_another_project_is_not_there(call, sign_in, deck):
    one, _ = deck
    call("PATCH", f"/sets/{one.pk}", {"name": "pier"})
    line = call("GET", "/history")["lines"][0]
    stranger = sign_in(None, "eve")
    stranger("GET", "/history", status=404)
    stranger("GET", f"/history/{line['id']}", status=404)
    Caller(stranger.client)("GET", "/history?person=ada")


def test_each_person_is_asked_for_once_however_many_lines_there_are(call, project, django_assert_num_queries):
    from studio.history import people_in

    person = project.members.get().user
    HistoryLine.objects.bulk_create(HistoryLine(project=project, what="event", label="x", by=person) for _ in range(50))
    with django_assert_num_queries(1) as asked:
        assert people_in(project) == ["ada"]
    assert '"projects_historyline"."id"' not in asked.captured_queries[0]["sql"], "lines are told apart by their person"
