"""Changes by several people: nothing acknowledged is lost, late ones are told, undo is one's own and never sticks."""

import json
import threading
import time

import pytest
from django.db import connection, transaction
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from studio.changes.engine import change
from studio.intake.models import Intake, IntakeFile
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.materials.models import Cast
from studio.projects.models import Change, Project
from studio.sets.judging import _Judged, _keep
from studio.sets.models import Placement, TextureSet, Waiver
from tests.sheets import a_master

pytestmark = pytest.mark.django_db
FLIP = [{"step": "flip_green"}]


def a_set(project, name, roles=("normal", "roughness")):
    """A set whose files hold nothing, with its maps by role."""
    intake, _ = Intake.objects.get_or_create(project=project, name="in", state="sorted")
    one = TextureSet.objects.create(project=project, name=name)
    files = [IntakeFile.objects.create(intake=intake, path=f"{name}_{role}.png") for role in roles]
    maps = {
        role: Placement.objects.create(project=project, intake=intake, file=file, set=one, role=role)
        for role, file in zip(roles, files, strict=True)
    }
    return one, maps


@pytest.fixture
def deck(project):
    return a_set(project, "deck")


@pytest.fixture
def casts(library, call):
    """A master with two parameters and a cast of it."""
    library("POST", "/masters", a_master())
    library("POST", "/masters/stone/publish", {})
    return call("POST", "/materials", {"name": "Quay", "master": "stone"})


# Late changes are told.


def test_a_change_meant_for_an_older_state_is_refused_with_the_newer_one(call, other, deck):
    one, _maps = deck
    seen = call("GET", f"/sets/{one.pk}")["revision"]
    other("PATCH", f"/sets/{one.pk}", {"name": "pier"}, seen=seen)
    late = call("PATCH", f"/sets/{one.pk}", {"name": "quay"}, 409, seen=seen)
    assert "changed meanwhile by bram, 'Rename deck to pier'" in late["detail"]
    assert late["newest"]["name"] == "pier"
    call("PATCH", f"/sets/{one.pk}", {"name": "quay"}, seen=late["newest"]["revision"])


def test_every_kind_of_thing_has_a_revision_that_is_looked_at(call, other, library, deck, casts):
    one, maps = deck
    master = library("GET", "/masters/stone")
    for method, path, body in (
        ("PUT", f"/maps/{maps['normal'].pk}/recipe", {"recipe": FLIP}),
        ("POST", f"/maps/{maps['normal'].pk}/place", {"set": one.pk, "role": "height"}),
        ("PUT", f"/sets/{one.pk}/metres", {"metres": 2}),
        ("PATCH", f"/materials/{casts['id']}", {"name": "Pier"}),
        ("PATCH", "", {"target": "plain-y-plus"}),
        ("PUT", "/rules/names/house", {}),
        ("DELETE", f"/materials/{casts['id']}", None),
    ):
        late = call(method, path, body, 422 if "rules" in path else 409, seen=99)
        assert late["detail"], path
    library("PUT", "/masters/stone/draft", master["document"], 409, seen=99)
    library("PUT", "/masters/stone/draft", master["document"], seen=master["revision"])


def test_a_rule_that_was_changed_meanwhile_is_not_overwritten(call, other):
    (house,) = call("GET", "/rules/names")
    other("PUT", "/rules/names/house", {**house["document"], "title": "theirs"}, seen=0)
    late = call("PUT", "/rules/names/house", {**house["document"], "title": "mine"}, 409, seen=0)
    assert (late["newest"]["title"], late["newest"]["number"]) == ("theirs", 1)


def test_a_file_that_was_renamed_meanwhile_is_not_renamed_again(call, other, deck):
    file = deck[1]["normal"].file
    asked = {"file": file.pk, "path": "pier_n.png", "seen": "deck_normal.png"}
    other("POST", "/names/rename", {"changes": [asked]})
    late = call("POST", "/names/rename", {"changes": [{**asked, "path": "quay_n.png"}]}, 409)
    assert "deck_normal.png was renamed meanwhile, to pier_n.png" in late["detail"]


def test_a_revision_is_a_number(call, deck):
    answer = call.client.patch(
        f"/api/projects/ferry/sets/{deck[0].pk}", {"name": "x"}, "application/json", headers={"If-Match": "soon"}
    )
    assert (answer.status_code, answer.json()["detail"]) == (
        400, "If-Match holds the revision that was seen, a whole number.",
    )  # fmt: skip


# Two at the same moment.


@pytest.mark.django_db(transaction=True)
def test_steps_and_moves_at_the_same_moment_keep_both(call, other, project):
    """The fault: a move wrote its whole row as it had read it before, and took the steps of others back."""
    sets = [a_set(project, f"set{number}") for number in range(12)]
    wrong = []

    def run(work):
        try:
            for one, maps in sets:
                work(one, maps)
        except Exception as error:
            wrong.append(error)
        finally:
            connection.close()

    def steps(one, maps):
        call("PUT", f"/maps/{maps['normal'].pk}/recipe", {"recipe": FLIP})

    def moves(one, maps):
        other("POST", f"/maps/{maps['normal'].pk}/place", {"set": one.pk, "role": "height"})

    threads = [threading.Thread(target=run, args=(work,)) for work in (steps, moves)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    rows = Placement.objects.filter(pk__in=[maps["normal"].pk for _, maps in sets])
    assert wrong == []
    assert {(row.role, row.recipe[0]["step"]) for row in rows} == {("height", "flip_green")}


@pytest.mark.django_db(transaction=True)
def test_findings_are_written_down_beside_a_change_of_the_same_set(project):
    """The fault: judging locked a set and then its maps, a change the maps and then the set; one was thrown away."""
    one, maps = a_set(project, "bell")
    judge = Progress(Job.objects.create(project=project, kind="judge", state=Job.State.RUNNING, attempt=1), 1)
    said = []

    def write_down():
        try:
            _keep([_Judged(one, [], [], {})], judge)
        except Exception as error:
            said.append(error)
        finally:
            connection.close()

    Placement.objects.filter(set=one).update(signature=b"1")
    thread = threading.Thread(target=write_down)
    with change(project, None, "Move") as doing:
        doing.update(doing.row(Placement, maps["normal"].pk), role="height")
        thread.start()
        while not _somebody_waits():
            time.sleep(0.01)
        doing.update(doing.row(TextureSet, one.pk), name="ship bell")
    thread.join()
    assert said == []


def _somebody_waits() -> bool:
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM pg_locks WHERE NOT granted")
        return cursor.fetchone()[0] > 0


def test_two_people_change_different_parameters_of_a_cast(call, other, casts):
    path = f"/materials/{casts['id']}"
    call("PATCH", path, {"changes": {"wear": 0.5}})
    other("PATCH", path, {"changes": {"shade": [1, 0, 0]}})
    assert call("GET", path)["changed"] == ["wear", "shade"]
    call("POST", "/undo")
    assert call("GET", path)["changed"] == ["shade"]


# Undo.


def test_everybody_takes_back_their_own_last_change(call, other, deck):
    one, _maps = deck
    call("PATCH", f"/sets/{one.pk}", {"name": "pier"})
    other("PUT", f"/sets/{one.pk}/metres", {"metres": 2})
    assert call("GET", "/sets")["undo"] == "Rename deck to pier"
    assert call("POST", "/undo") == {"label": "Rename deck to pier", "said": []}
    assert call("POST", "/undo")["label"] is None
    now = call("GET", f"/sets/{one.pk}")
    assert (now["name"], now["metres"]) == ("deck", 2)


def test_what_others_changed_since_stays_and_is_told(call, other, deck):
    one, _maps = deck
    call("PATCH", f"/sets/{one.pk}", {"name": "pier"})
    other("PATCH", f"/sets/{one.pk}", {"name": "quay"})
    assert call("POST", "/undo")["said"] == ["quay: the name was changed since by bram, and stays as it is."]
    assert TextureSet.objects.get().name == "quay"
    assert call("GET", "/sets")["undo"] is None, "it does not stick"


def test_names_that_were_taken_meanwhile_get_a_number(call, other, deck, project):
    """The fault: undo ended in an error of the database, again and again."""
    call("PATCH", f"/sets/{deck[0].pk}", {"name": "pier"})
    TextureSet.objects.create(project=project, name="deck")
    assert call("POST", "/undo")["said"] == ["deck is called deck_2 now: its name was taken meanwhile."]
    assert set(TextureSet.objects.values_list("name", flat=True)) == {"deck", "deck_2"}


def test_a_file_name_that_was_taken_meanwhile_gets_a_number(call, deck):
    file = deck[1]["normal"].file
    call("POST", "/names/rename", {"changes": [{"file": file.pk, "path": "pier_n.png"}]})
    IntakeFile.objects.create(intake=file.intake, path="deck_normal.png")
    call("POST", "/undo")
    file.refresh_from_db()
    assert file.path == "deck_normal_2.png"


def test_names_that_trade_places_come_back(call, deck):
    first, second = (row.file for row in deck[1].values())
    changes = [{"file": first.pk, "path": second.path}, {"file": second.pk, "path": first.path}]
    call("POST", "/names/rename", {"changes": changes})
    assert IntakeFile.objects.get(pk=first.pk).path == second.path
    assert call("POST", "/undo")["said"] == []
    assert IntakeFile.objects.get(pk=first.pk).path == first.path


def test_a_map_goes_not_back_to_a_set_that_is_gone(call, other, deck, project):
    one, maps = deck
    pier, _ = a_set(project, "pier", ("height",))
    call("POST", f"/maps/{maps['normal'].pk}/place", {"set": pier.pk, "role": "normal"})
    other("POST", "/sets/merge", {"into": pier.pk, "sets": [one.pk]})
    said = call("POST", "/undo")["said"]
    assert said == ["A map is left without its set, which is gone."]
    assert call("POST", "/undo")["label"] is None


def test_a_set_that_others_filled_since_stays(call, other, deck, project):
    one, maps = deck
    made = call("POST", f"/sets/{one.pk}/split", {"name": "off", "maps": [maps["normal"].pk]})["id"]
    other("POST", f"/maps/{maps['roughness'].pk}/share", {"set": made})
    assert call("POST", "/undo")["said"] == ["off stays: it holds 1 maps that came since."]
    assert TextureSet.objects.filter(pk=made).exists()


def test_waivers_go_with_maps_that_are_merged_and_come_back(call, deck, project):
    pier, _ = a_set(project, "pier", ("height",))
    Waiver.objects.create(set=pier, check_name="size", reason="meant so")
    call("POST", "/sets/merge", {"into": deck[0].pk, "sets": [pier.pk]})
    assert Waiver.objects.get().set_id == deck[0].pk
    call("POST", "/undo")
    assert Waiver.objects.get().set_id == pier.pk


def test_a_new_version_of_a_rule_is_taken_back_and_made_again(call):
    (house,) = call("GET", "/rules/names")
    call("PUT", "/rules/names/house", {**house["document"], "title": "ours"})
    assert call("POST", "/undo")["label"] == "New version of ours"
    assert call("GET", "/rules/names")[0]["own"] is False
    assert [one["withdrawn"] for one in call("GET", "/rules/names/house/versions")] == [True]
    call("POST", "/redo")
    assert call("GET", "/rules/names")[0]["title"] == "ours"


def test_a_rule_that_others_changed_since_is_theirs(call, other):
    (house,) = call("GET", "/rules/names")
    call("PUT", "/rules/names/house", {**house["document"], "title": "mine"})
    other("PUT", "/rules/names/house", {**house["document"], "title": "theirs"})
    assert call("POST", "/undo")["said"] == ["version 1 of house stays: version 2 came since."]
    assert call("GET", "/rules/names")[0]["title"] == "theirs"


def test_the_target_is_taken_back(call):
    call("PATCH", "", {"target": "metal-rough-gloss-y-plus"})
    call("POST", "/undo")
    assert call("GET", "")["target"] == "orm-y-minus"


def test_what_an_intake_made_is_taken_back_and_made_again(call, take_in, tmp_path):
    from tests.pictures import simple_set

    simple_set(tmp_path / "in", "deck")
    before = take_in(tmp_path / "in")
    assert call("POST", "/undo") == {"label": "Sort in", "said": []}
    assert (call("GET", "/sets")["sets"], call("GET", "/intakes")[0]["state"]) == ([], "open")
    call("POST", "/redo")
    assert [one["id"] for one in call("GET", "/sets")["sets"]] == [one["id"] for one in before["sets"]]


def test_a_cast_comes_back_under_its_parent(call, casts):
    child = call("POST", "/materials", {"name": "Wet", "parent": casts["id"]})
    call("DELETE", f"/materials/{child['id']}", status=204)
    call("DELETE", f"/materials/{casts['id']}", status=204)
    for _ in range(2):
        assert call("POST", "/undo")["said"] == []
    assert Cast.objects.get(name="Wet").parent_id == casts["id"]


def test_histories_that_were_kept_before_can_be_taken_back(call, deck, project):
    """Their states hold whole rows, also of what did not change."""
    one, _maps = deck
    row = {"name": "deck", "metres": None, "licence": "", "credit": ""}
    after = {"sets": {str(one.pk): {**row, "name": "pier"}}, "placements": {}, "files": {}}
    before = {"sets": {str(one.pk): row}, "placements": {}, "files": {}}
    TextureSet.objects.update(name="pier", licence="CC0-1.0")
    Change.objects.create(project=project, by_id=_person(call), label="Rename", before=before, after=after)
    assert call("POST", "/undo")["said"] == []
    assert TextureSet.objects.values_list("name", "licence").get() == ("deck", "CC0-1.0")


def _person(call):
    return int(call.client.session["_auth_user_id"])


# Any order of changes by two people, against a plain model of what must be there.

_FIELDS = ("name", "metres", "recipe", "wear", "shade", "target")
_TARGETS = ("orm-y-minus", "metal-rough-gloss-y-plus")
_VALUES = {
    "name": st.sampled_from(["ash", "birch", "cedar", "deck"]), "metres": st.sampled_from([1.0, 2.0, 3.0, None]),
    "recipe": st.sampled_from([[], ["flip_green"], ["invert"]]), "wear": st.sampled_from([0.25, 0.5, 0.75]),
    "shade": st.sampled_from([[1, 0, 0], [0, 1, 0]]), "target": st.sampled_from(_TARGETS),
}  # fmt: skip
_STEPS = st.one_of(
    *[st.tuples(st.just(name), st.integers(0, 1), values) for name, values in _VALUES.items()],
    st.tuples(st.just("undo"), st.integers(0, 1), st.none()),
    st.tuples(st.just("look"), st.integers(0, 1), st.none()),
)


class _Studio:
    """The real thing, asked by two people, each of whom changes what they saw last."""

    def __init__(self, people, one, map_, cast):
        self.people = people
        self.paths = {
            "set": f"/sets/{one.pk}", "map": f"/maps/{map_.pk}", "cast": f"/materials/{cast['id']}", "project": "",
        }  # fmt: skip
        self.map_pk = map_.pk
        self.views = [self.look(0), self.look(1)]

    def look(self, who):
        """What the API gives somebody of everything's state."""
        one = self.people[who]("GET", self.paths["set"])
        rows = {"set": one, "map": next(m for m in one["maps"] if m["id"] == self.map_pk)}
        rows["project"] = self.people[who]("GET", "")
        rows["cast"] = {"revision": Cast.objects.values_list("revision", flat=True).get()}
        return {kind: row["revision"] for kind, row in rows.items()}

    def now(self):
        """What is kept, from the database itself."""
        one, cast = TextureSet.objects.get(), Cast.objects.get()
        recipe = Placement.objects.values_list("recipe", flat=True).get(pk=self.map_pk)
        return {
            "name": one.name, "metres": one.metres, "target": Project.objects.get().target,
            "recipe": [step["step"] for step in recipe], "wear": cast.changes.get("wear"),
            "shade": cast.changes.get("shade"),
        }  # fmt: skip

    def change(self, who, field, value):
        steps = [{"step": step} for step in value] if field == "recipe" else []
        kind, method, path, body = {
            "name": ("set", "PATCH", "", {"name": value}),
            "metres": ("set", "PUT", "/metres", {"metres": value}),
            "recipe": ("map", "PUT", "/recipe", {"recipe": steps}),
            "wear": ("cast", "PATCH", "", {"changes": {"wear": value}}),
            "shade": ("cast", "PATCH", "", {"changes": {"shade": value}}),
            "target": ("project", "PATCH", "", {"target": value}),
        }[field]
        headers = {"If-Match": str(self.views[who][kind])}
        person = self.people[who]
        answer = person.client.generic(
            method, f"/api{person.base}{self.paths[kind]}{path}", json.dumps(body), "application/json", headers=headers
        )
        assert answer.status_code in (200, 409), answer.content
        if answer.status_code == 200:
            self.views[who] = self.look(who)
        else:
            self.views[who][kind] = answer.json()["newest"]["revision"]
        return answer.status_code == 200


@settings(max_examples=30, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
@given(steps=st.lists(_STEPS, max_size=14))
def test_nothing_that_was_acknowledged_is_missing(steps, call, other, project, casts):
    with transaction.atomic():
        Change.objects.all().delete()
        one, maps = a_set(project, "deck")
        studio = _Studio((call, other), one, maps["normal"], casts)
        wanted = studio.now()
        done: list[list[tuple]] = [[], []]
        for field, who, value in steps:
            if field == "look":
                studio.views[who] = studio.look(who)
            elif field == "undo":
                call_of = studio.people[who]
                said = call_of("POST", "/undo")
                if done[who]:
                    name, before, after = done[who].pop()
                    if wanted[name] == after:
                        wanted[name] = before
                    else:
                        assert said["said"] or wanted[name] == before
            elif studio.change(who, field, value) and wanted[field] != value:
                done[who].append((field, wanted[field], value))
                wanted[field] = value
            assert studio.now() == wanted
        transaction.set_rollback(True)
    assert Project.objects.count() == 1
