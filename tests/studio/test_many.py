"""Changes to many sets: the same as to a few, as one job that can be undone as one, and made once however it ends."""

import threading

import pytest
from django.db import connection, transaction

from studio.changes.engine import change, telling
from studio.jobs.models import Job
from studio.jobs.progress import LeaseLost, Progress
from studio.jobs.queue import cancel, enqueue, take_up
from studio.jobs.registry import kind_of
from studio.projects.models import Change
from studio.sets import editing
from studio.sets.models import Placement, TextureSet
from tests.studio.test_changes import FLIP, a_set

pytestmark = pytest.mark.django_db


@pytest.fixture
def three(project):
    return [a_set(project, name)[0] for name in ("deck", "hull", "mast")]


def values(project, *fields):
    return sorted(project.sets.values_list(*fields))


def revisions(rows):
    return {str(one.pk): TextureSet.objects.get(pk=one.pk).revision for one in rows}


ASKED = {
    "licence": ("PUT", "/sets/licence", lambda ids: {"sets": ids, "licence": "CC0-1.0"}),
    "targets": ("PUT", "/sets/targets", lambda ids: {"sets": ids, "targets": ["orm-y-minus"]}),
    "names": ("PUT", "/sets/names", lambda ids: {"names": {str(pk): f"n{pk}" for pk in ids}}),
    "steps": ("POST", "/sets/steps", lambda ids: {"sets": ids, "role": "normal", "recipe": FLIP}),
}


@pytest.mark.parametrize("what", ASKED)
def test_a_job_changes_what_the_plain_request_changes_and_one_undo_takes_it_back(call, run_jobs, project, three, what):
    method, path, body = ASKED[what]
    given = body([one.pk for one in three])
    fields = ("name", "licence", "targets")

    def state():
        return values(project, *fields), list(Placement.objects.order_by("pk").values_list("recipe", flat=True))

    before = state()
    call(method, path, given)
    plain = state()
    call("POST", "/undo")
    assert state() == before != plain

    job = call(method, f"{path}?later=true", given, 202)["job"]
    assert state() == before
    run_jobs()
    told = call("GET", f"/jobs/{job}")
    assert (told["state"], told["done"], told["total"], told["message"]) == ("done", 3, 3, "3 sets changed")
    assert state() == plain
    call("POST", "/undo")
    assert state() == before


def test_steps_are_copied_and_files_renamed_as_jobs_too(call, run_jobs, project, three):
    first = Placement.objects.get(set=three[0], role="normal")
    call("PUT", f"/maps/{first.pk}/recipe", {"recipe": FLIP, "label": "Flip"})
    call("POST", f"/maps/{first.pk}/copy-recipe?later=true", {"sets": [one.pk for one in three]}, 202)
    files = [one.file for one in Placement.objects.filter(role="normal").select_related("file")]
    changes = [{"file": one.pk, "path": f"all/{one.path}", "seen": one.path} for one in files]
    call("POST", "/names/rename?later=true", {"changes": changes}, 202)
    run_jobs()
    assert all(one.recipe for one in Placement.objects.filter(role="normal"))
    assert all(one.file.path.startswith("all/") for one in Placement.objects.filter(role="normal"))
    assert [one.label for one in Change.objects.order_by("-pk")[:2]] == [
        "Rename 3 files", "Copy the steps of deck_normal.png to 2 sets",
    ]  # fmt: skip


def test_one_set_that_somebody_changed_meanwhile_stops_all_of_it(call, other, run_jobs, project, three):
    given = {"sets": [one.pk for one in three], "licence": "CC0-1.0", "seen": revisions(three)}
    job = call("PUT", "/sets/licence?later=true", given, 202)["job"]
    other("PATCH", f"/sets/{three[1].pk}", {"name": "keel"})
    run_jobs()
    told = call("GET", f"/jobs/{job}")
    assert told["state"] == "failed"
    assert told["message"].startswith("keel was changed meanwhile by bram")
    assert set(values(project, "licence")) == {("",)}


def test_a_set_that_is_gone_by_then_is_told_in_words(call, run_jobs, project, three):
    job = call("PUT", "/sets/licence?later=true", {"sets": [one.pk for one in three], "licence": "CC0-1.0"}, 202)["job"]
    three[0].delete()
    run_jobs()
    told = call("GET", f"/jobs/{job}")
    assert (told["state"], told["message"]) == ("failed", "There is no such set any more.")
    assert set(values(project, "licence")) == {("",)}


def test_nothing_chosen_is_refused_at_once_and_looking_is_not_enough(call, sign_in, three):
    assert "at least one set" in call("PUT", "/sets/licence?later=true", {"sets": [], "licence": ""}, 422)["detail"]
    looks = sign_in("look", "cleo")
    looks("PUT", "/sets/licence?later=true", {"sets": [three[0].pk], "licence": ""}, 403)


def test_another_attempt_after_the_change_was_kept_does_not_make_it_twice(call, project, three):
    """A worker may die between the change and the end of its job."""
    given = {"sets": [one.pk for one in three], "role": "normal", "recipe": FLIP}
    job = call("POST", "/sets/steps?later=true", given, 202)["job"]
    run = kind_of("many").run
    for _ in range(2):
        taken = take_up(job)
        run(taken, Progress(taken, taken.attempt))
    assert [len(one.recipe) for one in Placement.objects.filter(role="normal")] == [1, 1, 1]


def test_what_was_cancelled_in_the_middle_changes_nothing(call, project, three):
    job = call("PUT", "/sets/licence?later=true", {"sets": [one.pk for one in three], "licence": "CC0-1.0"}, 202)["job"]
    taken = take_up(job)
    cancel(taken)
    with pytest.raises(LeaseLost):
        kind_of("many").run(taken, Progress(taken, taken.attempt))
    assert set(values(project, "licence")) == {("",)}


def test_rows_with_values_of_their_own_go_in_a_few_statements(project, django_assert_max_num_queries):
    rows = [TextureSet.objects.create(project=project, name=f"s{at}") for at in range(60)]
    told = []
    with django_assert_max_num_queries(30), telling(told.append), change(project, None, "Names") as doing:
        doing.update_each((one, {"name": f"new {one.name}"}) for one in rows)
    assert sum(told) == 60
    assert {one.name for one in project.sets.all()} == {f"new s{at}" for at in range(60)}
    alone = TextureSet.objects.create(project=project, name="alone")
    with change(project, None, "Name") as doing:
        doing.update(alone, name="new alone")
    assert len({one.revision for one in project.sets.all()}) == 1
    kept = Change.objects.get(label="Names")
    assert kept.before["sets"][str(rows[7].pk)] == {"name": "s7"}
    assert kept.after["sets"][str(rows[7].pk)] == {"name": "new s7"}


def test_a_name_that_was_taken_by_one_of_many_gets_a_number(call, other, project, three):
    call("PUT", "/sets/names", {"names": {str(one.pk): f"new {one.name}" for one in three}})
    TextureSet.objects.create(project=project, name="hull")
    said = call("POST", "/undo")["said"]
    assert said == ["hull is called hull_2 now: its name was taken meanwhile."]
    assert values(project, "name") == [("deck",), ("hull",), ("hull_2",), ("mast",)]


@pytest.mark.django_db(transaction=True)
def test_progress_is_seen_while_the_change_is_not(project, three):
    job = enqueue(project, "many", "Licence", what="licence", given={}, count=3)
    taken = take_up(job.pk)
    progress, seen, go_on = Progress(taken, taken.attempt), [], threading.Event()

    def look():
        try:
            until = threading.Event()
            for _ in range(600):
                row = Job.objects.get(pk=job.pk)
                if row.done:
                    seen.append((row.done, row.total, TextureSet.objects.filter(licence="CC0-1.0").count()))
                    break
                until.wait(0.05)
        finally:
            go_on.set()
            connection.close()

    watcher = threading.Thread(target=look)
    with progress.beside(3) as told, transaction.atomic():
        with telling(told):
            editing.set_licence(project, [one.pk for one in three], "CC0-1.0", "", None)
        watcher.start()
        go_on.wait(60)
    watcher.join()
    assert seen == [(3, 3, 0)]
    assert TextureSet.objects.filter(licence="CC0-1.0").count() == 3
