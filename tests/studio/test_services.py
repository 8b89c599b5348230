"""The studio's rules, called as services call each other: without HTTP."""

import pytest
from django.contrib.auth import get_user_model

from studio.changes.errors import Conflict, Stale
from studio.intake.models import Intake
from studio.intake.uploads import drop_intake, must_be_open
from studio.jobs.models import Job
from studio.people.members import make_project
from studio.projects.models import Membership, Project
from studio.rules.models import choose_target
from studio.sorting.asking import ask_for_sample, ask_to_sort, ask_to_sort_again, ask_to_teach, lines_of
from texel.errors import BadDocument

pytestmark = pytest.mark.django_db
GLOSS = {"suffix": "gls", "where": "end", "folder": "", "role": "glossiness", "taught": True}


@pytest.fixture
def person():
    return get_user_model().objects.create_user("ada", password="tide-table-9")


def test_projects_of_one_name_have_addresses_of_their_own(person):
    slugs = [make_project("  Harbour Walk ", person).project.slug for _ in range(3)]
    assert slugs == ["harbour-walk", "harbour-walk-2", "harbour-walk-3"]


def test_whoever_makes_a_project_manages_it(person):
    assert make_project("海", person).right == Membership.Right.MANAGE
    assert Project.objects.get().slug == "project"


def test_a_project_needs_a_name(person):
    with pytest.raises(BadDocument, match="needs a name"):
        make_project(" \t ", person)


def test_a_target_is_chosen_by_whoever_saw_the_project_as_it_is(project, person):
    choose_target(project, "gltf", person, seen=1)
    with pytest.raises(Stale):
        choose_target(project, "orm-y-minus", person, seen=1)
    project.refresh_from_db()
    assert (project.target, project.revision) == ("gltf", 2)


def test_a_target_that_there_is_not_is_not_chosen(project, person):
    with pytest.raises(BadDocument, match="no target"):
        choose_target(project, "toaster", person)


def test_an_empty_intake_is_not_sorted(project, person):
    intake = Intake.objects.create(project=project, name="Empty", by=person)
    with pytest.raises(BadDocument, match="nothing to sort"):
        ask_to_sort(intake, person)
    assert not Job.objects.exists()


@pytest.mark.parametrize("work", [must_be_open, drop_intake])
def test_an_intake_that_is_sorted_stays_as_it_is(project, person, work):
    intake = Intake.objects.create(project=project, name="Done", by=person, state=Intake.State.SORTED)
    with pytest.raises(Conflict):
        work(intake)
    assert Intake.objects.filter(pk=intake.pk).exists()


def test_the_sample_is_an_intake_with_a_job(project, person):
    intake = ask_for_sample(project, person)
    assert (intake.state, Job.objects.get().payload) == ("sorting", {"intake": intake.pk})


def test_teaching_needs_something_to_teach(project, person):
    with pytest.raises(BadDocument, match="at least one"):
        ask_to_teach(project, "Nothing", person)


def test_more_than_can_be_taught_is_refused_before_a_job_is_made(project, person):
    many = [{**GLOSS, "suffix": f"s{number}"} for number in range(501)]
    with pytest.raises(BadDocument, match="at most 500"):
        ask_to_teach(project, "Many", person, many)
    assert not Job.objects.exists()


def test_what_is_taught_goes_with_the_job(project, person):
    job = ask_to_teach(project, "Gloss", person, [GLOSS], forget=[{**GLOSS, "suffix": "old"}])
    assert (job.kind, job.payload["teach"], job.payload["all"]) == ("resort", [GLOSS], False)
    assert ask_to_sort_again(project, person).payload == {"label": "Sort again"}


def test_lines_of_several_intakes_are_told_as_one(project, person):
    line = {"suffix": "gls", "where": "end", "folder": "", "role": "glossiness", "decided": True, "confidence": 0.9}
    for name in ("one", "two"):
        habit = [{**line, "written": "_gls", "files": 2, "why": "", "taught": False, "examples": [f"{name}_gls.png"]}]
        Intake.objects.create(project=project, name=name, by=person, habit=habit, state=Intake.State.SORTED)
    ((found, examples),) = lines_of(project)
    assert (found.files, sorted(file for _, file in examples)) == (4, ["one_gls.png", "two_gls.png"])
