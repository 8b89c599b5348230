"""Search over everything: by parts of names, by slips of the pen, and only in one's own projects."""

import pytest

from demo.materials import MASTERS
from studio.projects.models import Membership, Project
from studio.sets.models import TextureSet
from tests.pictures import simple_set

pytestmark = pytest.mark.django_db


@pytest.fixture
def furnished(call, library, take_in, tmp_path):
    for seed, name in enumerate(("slate_pier", "slate_wall", "rope"), 3):
        simple_set(tmp_path / "in", name, seed=seed, n=16)
    take_in(tmp_path / "in")
    library("POST", "/masters", MASTERS[0])
    library("POST", f"/masters/{MASTERS[0]['name']}/publish", {})
    call("POST", "/materials", {"name": "Wet slate", "master": MASTERS[0]["name"]})
    call.base = ""
    return call


def found(call, words, project="ferry"):
    return [(one["kind"], one["name"]) for one in call("GET", f"/search?words={words}&project={project}")]


def test_all_words_have_to_stand_in_a_name_in_any_order(furnished):
    assert ("set", "slate_pier") in found(furnished, "pier+SLATE")
    assert ("set", "slate_wall") not in found(furnished, "pier+slate")


def test_sets_files_casts_masters_and_parameters_are_found(furnished):
    kinds = {kind for kind, _ in found(furnished, "slate")}
    assert kinds == {"set", "file", "cast"}
    assert ("master", MASTERS[0]["title"]) in found(furnished, MASTERS[0]["title"].split()[0])
    told = furnished("GET", "/search?words=dirt")
    assert [(one["kind"], one["key"], one["at"]) for one in told] == [("parameter", MASTERS[0]["name"], "dirt")]


def test_a_file_leads_to_its_set_and_map(furnished):
    one = next(one for one in furnished("GET", "/search?words=rope_bc") if one["kind"] == "file")
    rope = TextureSet.objects.get(name="rope")
    assert (one["key"], one["detail"]) == (str(rope.pk), "rope")
    assert rope.placements.filter(pk=int(one["at"]), role="base_color").exists()


def test_a_slip_of_the_pen_finds_what_was_meant(furnished):
    assert ("set", "slate_pier") in found(furnished, "salte_pier")


def test_what_means_something_in_patterns_is_a_letter_like_others(furnished):
    assert found(furnished, ".*") == []
    assert found(furnished, "sl%25te") == [] or ("set", "slate_pier") in found(furnished, "sl%25te")
    for odd in ("%5B", "(((", "%5C%5C", "a{9"):
        furnished("GET", f"/search?words={odd}")


def test_one_letter_and_nothing_find_nothing(furnished):
    assert found(furnished, "s") == found(furnished, "") == []


def test_projects_of_others_are_not_searched(furnished, sign_in):
    secret = Project.objects.create(slug="secret", name="Secret slate")
    TextureSet.objects.create(project=secret, name="slate_secret")
    assert "slate_secret" not in str(found(furnished, "slate"))
    stranger = sign_in(None, "zed")
    stranger.base = ""
    assert {kind for kind, _ in found(stranger, "slate")} <= {"master", "function"}


def test_things_of_the_project_at_hand_come_first(furnished, django_user_model):
    other = Project.objects.create(slug="harbour", name="Harbour")
    Membership.objects.create(project=other, user=django_user_model.objects.get(username="ada"), right="look")
    TextureSet.objects.create(project=other, name="slate")
    names = [name for kind, name in found(furnished, "slate") if kind == "set"]
    assert names == ["slate_pier", "slate_wall", "slate"]
    assert next(name for kind, name in found(furnished, "slate", "harbour") if kind == "set") == "slate"


def test_a_slip_of_the_pen_tells_a_shared_master_once(furnished, django_user_model):
    other = Project.objects.create(slug="harbour", name="Harbour")
    Membership.objects.create(project=other, user=django_user_model.objects.get(username="ada"), right="look")
    title = MASTERS[0]["title"]
    slipped = title[1] + title[0] + title[2:]
    assert [name for kind, name in found(furnished, slipped) if kind == "master"] == [title]
