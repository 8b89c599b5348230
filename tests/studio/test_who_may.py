"""docs/who-may.md says of every operation of the API who may call it, and each is held to that: whoever may less is
refused, and whoever may it is not. An operation that the table does not name fails."""

import re
from pathlib import Path

import pytest
from django.contrib.auth import get_user_model
from django.test import Client

from tests.sheets import WET, a_master
from tests.studio.conftest import Caller
from tests.studio.routes import ROUTES, call

pytestmark = pytest.mark.django_db
ROW = re.compile(r"\| (GET|PUT|POST|PATCH|DELETE) \| `([^`]+)` \| ([a-z ]+) \|")
TABLE = {(row[1], row[2]): row[3] for row in ROW.finditer(Path("docs/who-may.md").read_text())}
# Each may what those before it may, within its family.
FAMILIES = (
    ("anyone", "signed in", "look", "prepare", "rules", "manage"),
    ("anyone", "signed in", "library keeper", "administrator"),
)


def test_the_table_names_every_operation_and_no_other():
    assert sorted(set(ROUTES) - set(TABLE)) == []
    assert sorted(set(TABLE) - set(ROUTES)) == []
    assert set(TABLE.values()) == {role for family in FAMILIES for role in family}


def let_in(answer):
    """Whether somebody got past the question who they are."""
    if answer.status_code == 403:
        return False
    if answer.status_code == 401:
        return "Sign in first" not in answer.content.decode()
    return not (answer.status_code == 404 and "There is no such project" in answer.content.decode())


@pytest.fixture
def people(sign_in, project):
    """One for each role, and things that there are to ask for."""
    made = {"anyone": Client(), "signed in": sign_in(None, "sam").client}
    for right in ("look", "prepare", "rules", "manage"):
        made[right] = sign_in(right, f"m-{right}").client
    keeper = sign_in("manage", "kim")
    project.members.filter(user__username="kim").delete()
    Caller(keeper.client)("POST", "/masters", a_master())
    Caller(keeper.client)("POST", "/functions", WET)
    made["library keeper"] = keeper.client
    get_user_model().objects.create_user("zoe")
    admin = sign_in(None, "root")
    get_user_model().objects.filter(username="root").update(is_superuser=True)
    return {**made, "administrator": admin.client}


def names_for(path):
    """Library entries are asked for by a name that there is: who may is told only where there is something."""
    if path.startswith("/api/people/"):
        return {"name": "zoe"}
    kinds = {"/api/masters/{name}": a_master()["name"], "/api/functions/{name}": WET["name"]}
    return next(({"name": name} for start, name in kinds.items() if path.startswith(start)), {})


def lowest(people, method, path):
    """The lowest role that is let in."""
    outside = not path.startswith("/api/projects/{slug}")
    roles = FAMILIES[outside]
    return next((role for role in roles if let_in(call(people[role], method, path, **names_for(path)))), "nobody")


def test_each_operation_is_for_whom_the_table_says(people):
    told = {one: lowest(people, *one) for one in ROUTES if "/events" not in one[1]}
    wrong = {one: (TABLE.get(one), role) for one, role in told.items() if role != TABLE.get(one)}
    assert wrong == {}
