"""Histories and keepers of before are carried over; open pages are told of what is taken back."""

import importlib
import json

import pytest
from django.db import connection

from studio.projects.models import Change, Membership

pytestmark = pytest.mark.django_db
_habits = importlib.import_module("studio.projects.migrations.0004_habits_in_histories")
_keepers = importlib.import_module("studio.materials.migrations.0003_first_keepers")


class Apps:
    """What a migration is given, with the tables as they are now."""

    def get_model(self, app, name):
        from django.apps import apps

        return apps.get_model(app, name)


def test_what_was_taught_is_carried_over_in_histories_and_back(project):
    line = {"suffix": "nm", "role": "normal"}
    before = {"sets": {}, "placements": {}, "habits": {"taught": [], "intakes": {"7": []}}}
    after = {"sets": {}, "placements": {}, "habits": {"taught": [line], "intakes": {"7": [line]}}}
    made = Change.objects.create(project=project, label="Teach", before=before, after=after)
    _habits.forwards(Apps(), None)
    made.refresh_from_db()
    assert made.after["projects"] == {str(project.pk): {"habit": [line]}}
    assert made.after["intakes"] == {"7": {"habit": [line]}}
    assert "habits" not in made.before
    _habits.backwards(Apps(), None)
    made.refresh_from_db()
    assert (made.before, made.after) == (before, after)


def test_teaching_of_before_is_taken_back(call, project):
    line = {"suffix": "nm", "role": "normal"}
    type(project).objects.update(habit=[line])
    before = {"habits": {"taught": [], "intakes": {}}}
    after = {"habits": {"taught": [line], "intakes": {}}}
    person = int(call.client.session["_auth_user_id"])
    Change.objects.create(project=project, by_id=person, label="Teach", before=before, after=after)
    _habits.forwards(Apps(), None)
    call("POST", "/undo")
    project.refresh_from_db()
    assert project.habit == []


def test_masters_of_before_are_kept_by_who_made_them_or_by_who_sets_rules_where_they_are_used(library, call, project):
    from django.contrib.auth import get_user_model

    from studio.materials.models import Master
    from tests.sheets import a_master

    library("POST", "/masters", a_master())
    library("POST", "/masters/stone/publish", {})
    call("POST", "/materials", {"name": "Quay", "master": "stone"})
    stone = Master.objects.get()
    stone.keepers.clear()
    _keepers.forwards(Apps(), None)
    assert [one.username for one in stone.keepers.all()] == ["iris"]
    stone.keepers.clear()
    Master.objects.update(by=None)
    Membership.objects.update(right="rules")
    _keepers.forwards(Apps(), None)
    assert {one.username for one in stone.keepers.all()} == {
        one.username for one in get_user_model().objects.filter(memberships__right="rules")
    }


def told_during(work):
    """The kinds that open pages are told of."""
    heard = []

    def listen(execute, sql, params, many, context):
        if "pg_notify" in sql:
            heard.append(json.loads(params[1])["kind"])
        return execute(sql, params, many, context)

    with connection.execute_wrapper(listen):
        work()
    return set(heard)


def test_pages_are_told_of_rules_targets_and_casts_that_are_taken_back(call, library):
    from tests.sheets import a_master

    (house,) = call("GET", "/rules/names")
    call("PUT", "/rules/names/house", house["document"])
    assert "rules" in told_during(lambda: call("POST", "/undo"))
    call("PATCH", "", {"target": "metal-rough-gloss-y-plus"})
    assert "project" in told_during(lambda: call("POST", "/undo"))
    library("POST", "/masters", a_master())
    library("POST", "/masters/stone/publish", {})
    call("POST", "/materials", {"name": "Quay", "master": "stone"})
    assert "materials" in told_during(lambda: call("POST", "/undo"))


def test_what_stands_in_the_way_for_ever_is_passed_over(call, project, monkeypatch):
    """Whatever the database refuses, the next undo takes the change before."""
    from django.db import IntegrityError

    from studio.changes import restoring

    call("PATCH", "", {"target": "metal-rough-gloss-y-plus"})
    call("PATCH", "", {"target": "orm-y-minus"})

    def refuses(self):
        raise IntegrityError("something stands in the way\nDETAIL: more")

    with monkeypatch.context() as patch:
        patch.setattr(restoring._Restoring, "run", refuses)
        said = call("POST", "/undo")["said"]
    assert said == ["It stays as it is, since something stands in its way (something stands in the way)."]
    assert call("GET", "/sets")["undo"] == "Deliver to metal-rough-gloss-y-plus"
    call("POST", "/undo")
    assert call("GET", "/sets")["undo"] is None
