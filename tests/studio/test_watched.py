"""Watched folders: what is exported into them, file by file and again and again, becomes and updates sets."""

import os
import shutil

import pytest
from django.db.models import F

from studio.collecting import collect
from studio.intake.models import FileVersion, IntakeFile, SourceFile
from studio.jobs.models import Job
from studio.sets.models import TextureSet
from studio.watched.looking import Watcher
from studio.watched.models import WatchedFile, WatchedFolder
from tests.pictures import random_texels, save, simple_set

pytestmark = pytest.mark.django_db


@pytest.fixture(autouse=True)
def roots(settings, tmp_path):
    settings.WATCHED_ROOTS = [tmp_path / "paint"]
    settings.DESTINATION_ROOTS = [tmp_path / "engine", tmp_path / "paint"]
    settings.STORE_ROOT = tmp_path / "store"
    (tmp_path / "paint" / "hull").mkdir(parents=True)
    return tmp_path / "paint"


@pytest.fixture
def folder(roots):
    return roots / "hull"


@pytest.fixture
def watched(call):
    return call("POST", "/watched", {"name": "Paint", "place": "hull"})["id"]


@pytest.fixture
def rounds(run_jobs):
    """Look into the folders once more, some seconds later."""
    watcher, clock = Watcher(), [0.0]

    def run(times=2, seconds=3.0, jobs=True):
        for _ in range(times):
            watcher.look(clock[0])
            clock[0] += seconds
        if jobs:
            run_jobs()

    return run


def told(call):
    return call("GET", "/watched")[0]


def states(call):
    return {one["path"]: one["state"] for one in told(call)["files"]}


def repaint(path, seed):
    """Another picture under the same name, as large as the former, and not written at the same moment."""
    save(path, random_texels("rgb", width=64, height=64, seed=seed))
    os.utime(path, ns=(seed * 10**9, seed * 10**9))


def colour_map(call, name="hull"):
    row = next(one for one in call("GET", "/sets")["sets"] if one["name"] == name)
    return next(one for one in row["maps"] if one["role"] == "base_color")


def test_files_that_lie_there_become_sets(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    assert [one["name"] for one in call("GET", "/sets")["sets"]] == ["hull"]
    assert (told(call)["taken"], told(call)["files"]) == (len(list(folder.iterdir())), [])


def test_a_file_is_taken_in_when_it_has_stood_still(call, watched, folder, rounds):
    simple_set(folder, "hull")
    colour = next(folder.glob("*_bc*"))
    whole = colour.read_bytes()
    for size in (100, 200, len(whole)):
        colour.write_bytes(whole[:size])
        rounds(1, seconds=1.5)
        assert states(call)[colour.name] == "changing"
    rounds()
    assert colour.name not in states(call)
    assert SourceFile.objects.filter(uses__path=colour.name).get().bytes == len(whole)


def test_a_half_written_file_is_refused_and_taken_when_it_is_whole(call, watched, folder, rounds):
    simple_set(folder, "hull")
    colour = next(folder.glob("*_bc*"))
    whole = colour.read_bytes()
    colour.write_bytes(whole[: len(whole) // 2])
    rounds(4)
    (refused,) = told(call)["files"]
    assert (refused["path"], refused["state"]) == (colour.name, "refused")
    assert colour.name in refused["problem"]
    colour.write_bytes(whole)
    rounds()
    assert told(call)["files"] == []


def test_a_half_written_export_leaves_the_former_content(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    colour = next(folder.glob("*_bc*"))
    before = colour_map(call)["source"]
    colour.write_bytes(colour.read_bytes()[:-200])
    rounds(4)
    assert states(call) == {colour.name: "refused"}
    assert colour_map(call)["source"] == before


def test_an_export_updates_its_set_and_keeps_the_recipe(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    seen = colour_map(call)
    call("PUT", f"/maps/{seen['id']}/recipe", {"recipe": [{"step": "invert"}]})
    repaint(next(folder.glob("*_bc*")), 77)
    rounds()
    now = colour_map(call)
    assert now["id"] == seen["id"]
    assert now["source"] != seen["source"]
    assert [step["step"] for step in now["recipe"]] == ["invert"]


def test_an_updated_set_is_judged_anew(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    repaint(next(folder.glob("*_bc*")), 77)
    rounds(jobs=False)
    assert Job.objects.filter(kind="watched", state="waiting").count() == 1
    rounds(1)
    assert TextureSet.objects.filter(judged=F("revision")).count() == 1


def test_before_and_after_of_an_export_are_shown(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    repaint(next(folder.glob("*_bc*")), 77)
    rounds()
    (version,) = call("GET", f"/versions?set={colour_map(call)['set']}")
    assert (version["is_current"], version["origin"]) == (True, "exported again in Paint")
    before, after = (
        call("GET", f"/versions/{version['id']}/picture?of={of}&map={version['map']}").content
        for of in ("before", "after")
    )
    assert before.startswith(b"\x89PNG")
    assert before != after


def test_the_former_version_can_be_brought_back(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    before = colour_map(call)["source"]
    repaint(next(folder.glob("*_bc*")), 77)
    rounds()
    (version,) = call("GET", "/versions")
    call("POST", f"/versions/{version['id']}/bring-back", status=204)
    assert colour_map(call)["source"] == before
    rounds()
    assert colour_map(call)["source"] == before, "what lies in the folder comes again only when it is written again"
    call("POST", "/undo")
    assert colour_map(call)["source"] == version["after"]


def test_former_versions_are_not_collected_as_unused(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    repaint(next(folder.glob("*_bc*")), 77)
    rounds()
    collect(young_seconds=-1)
    version = FileVersion.objects.get()
    assert SourceFile.objects.filter(pk=version.before_id).exists()


def test_deliveries_that_hold_a_former_content_are_told(call, watched, folder, rounds, run_jobs):
    simple_set(folder, "hull")
    rounds()
    place = call("POST", "/destinations", {"name": "Art", "kind": "folder", "place": "art", "target": "orm-y-minus"})
    call("POST", "/deliveries", {"target": "orm-y-minus", "destinations": [place["id"]]})
    run_jobs()
    assert call("GET", "/deliveries/outdated") == []
    repaint(next(folder.glob("*_bc*")), 77)
    rounds()
    (old,) = call("GET", "/deliveries/outdated")
    assert (old["number"], old["destinations"], [one["name"] for one in old["sets"]]) == (1, ["Art"], ["hull"])


def test_new_files_join_the_sets_that_are_there(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rough = next(folder.glob("*_r.*"))
    later = rough.read_bytes()
    rough.unlink()
    rounds()
    seen = colour_map(call)
    rough.write_bytes(later)
    simple_set(folder, "deck", seed=9)
    rounds()
    sets = {one["name"]: one for one in call("GET", "/sets")["sets"]}
    assert set(sets) == {"deck", "hull"}
    assert colour_map(call)["id"] == seen["id"]
    assert "roughness" in {one["role"] for one in sets["hull"]["maps"]}


def test_a_renamed_file_is_no_new_one(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    seen = colour_map(call)
    colour = next(folder.glob("*_bc*"))
    colour.rename(folder / "hull_basecolor.png")
    rounds()
    assert colour_map(call)["id"] == seen["id"]
    assert colour_map(call)["file"] == "hull_basecolor.png"


def test_a_file_that_has_gone_stays_in_its_set(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    colour = next(folder.glob("*_bc*"))
    colour.unlink()
    rounds()
    assert states(call) == {colour.name: "missing"}
    assert colour_map(call)["role"] == "base_color"


def test_a_folder_that_has_gone_takes_nothing_away(call, watched, folder, rounds):
    simple_set(folder, "hull")
    rounds()
    shutil.rmtree(folder)
    rounds()
    assert "cannot be looked into" in told(call)["problem"]
    assert states(call) == {}
    folder.mkdir()
    simple_set(folder, "hull")
    rounds()
    assert told(call)["problem"] == ""


def test_other_files_beside_the_textures_are_left_alone(call, watched, folder, rounds):
    (folder / "hull.paint").write_bytes(b"a project of the painting program")
    (folder / ".hull_col.png.tmp").write_bytes(b"half")
    simple_set(folder, "hull")
    rounds()
    assert IntakeFile.objects.filter(path__contains="paint").count() == 0
    assert told(call)["files"] == []


def test_links_out_of_the_folder_are_not_followed(call, watched, folder, rounds, tmp_path):
    simple_set(tmp_path / "elsewhere", "secret")
    (folder / "elsewhere").symlink_to(tmp_path / "elsewhere")
    rounds()
    assert WatchedFile.objects.count() == 0


def test_a_file_that_changes_while_it_waits_is_taken_in_as_it_is_then(call, watched, folder, rounds, run_jobs):
    simple_set(folder, "hull")
    colour = next(folder.glob("*_bc*"))
    rounds(jobs=False)
    repaint(colour, 5)
    run_jobs()
    assert not SourceFile.objects.filter(uses__path=colour.name).exists()
    rounds()
    assert SourceFile.objects.get(uses__path=colour.name).bytes == colour.stat().st_size


def test_a_job_that_ended_badly_is_not_tried_for_ever(call, watched, folder, rounds):
    from studio.jobs.queue import finish

    simple_set(folder, "hull")
    rounds(jobs=False)
    finish(Job.objects.get(kind="watched").pk, None, Job.State.FAILED, "its process ended unexpectedly (code -11)")
    rounds(3)
    assert Job.objects.filter(kind="watched").count() == 1
    assert set(states(call).values()) == {"refused"}
    call("POST", f"/watched/{watched}/again")
    rounds()
    assert told(call)["files"] == []


def test_a_paused_folder_is_not_looked_into(call, watched, folder, rounds):
    one = told(call)
    call("PATCH", f"/watched/{watched}", {"name": "Paint", "place": "hull", "paused": True}, seen=one["revision"])
    simple_set(folder, "hull")
    rounds()
    assert WatchedFile.objects.count() == 0


@pytest.mark.parametrize("place", ["..", "/etc", "hull/../..", "", "nowhere"])
def test_folders_elsewhere_are_refused(call, place):
    answer = call("POST", "/watched", {"name": "Paint", "place": place}, status=409)
    assert answer["detail"]
    assert not WatchedFolder.objects.exists()


def test_a_folder_that_deliveries_go_to_is_not_watched(call, watched, folder, rounds):
    call(
        "POST",
        "/destinations",
        {"name": "Art", "kind": "folder", "place": str(folder / "out"), "target": "orm-y-minus"},
    )
    simple_set(folder, "hull")
    rounds()
    assert "deliveries are brought to" in told(call)["problem"]
    assert WatchedFile.objects.count() == 0


def test_a_file_is_replaced_by_hand(call, take_in, tmp_path, run_jobs):
    simple_set(tmp_path / "in", "hull")
    take_in(tmp_path / "in")
    seen = colour_map(call)
    save(tmp_path / "new.png", random_texels("rgb", width=64, height=64, seed=70))
    call.upload(f"/versions/of-map/{seen['id']}", "new.png", (tmp_path / "new.png").read_bytes())
    assert colour_map(call)["source"] != seen["source"]
    call("POST", "/undo")
    assert colour_map(call)["source"] == seen["source"]


def test_a_replacement_that_cannot_be_read_is_refused(call, take_in, tmp_path):
    simple_set(tmp_path / "in", "hull")
    take_in(tmp_path / "in")
    seen = colour_map(call)
    answer = call.upload(f"/versions/of-map/{seen['id']}", "new.png", b"no picture", status=422)
    assert answer["detail"]
    assert colour_map(call)["source"] == seen["source"]


def test_a_file_larger_than_any_may_be_is_not_even_copied(call, watched, folder, rounds, settings):
    settings.MAX_UPLOAD_BYTES = 3000
    simple_set(folder, "hull")
    rounds()
    assert all("larger than" in one["problem"] for one in told(call)["files"])
    assert told(call)["files"]


def test_what_was_taken_and_not_sorted_is_sorted_with_the_next(call, watched, folder, rounds, monkeypatch):
    simple_set(folder, "hull")
    monkeypatch.setattr("studio.watched.taking.sort_more", lambda *given: None)
    rounds()
    assert not TextureSet.objects.exists()
    monkeypatch.undo()
    repaint(next(folder.glob("*_bc*")), 77)
    rounds()
    assert [one.name for one in TextureSet.objects.all()] == ["hull"]


def test_a_folder_that_is_no_longer_allowed_does_not_hinder_others(call, folder, settings, tmp_path):
    call("POST", "/watched", {"name": "Paint", "place": str(folder)})
    (tmp_path / "elsewhere" / "deck").mkdir(parents=True)
    settings.WATCHED_ROOTS = [tmp_path / "elsewhere"]
    assert call("POST", "/watched", {"name": "Deck", "place": "deck"})["name"] == "Deck"
    assert {one["name"]: bool(one["problem"]) for one in call("GET", "/watched")} == {"Deck": False, "Paint": True}


def test_a_folder_within_a_watched_one_is_refused(call, watched, folder):
    (folder / "inner").mkdir()
    assert (
        "watches this folder"
        in call("POST", "/watched", {"name": "Inner", "place": "hull/inner"}, status=409)["detail"]
    )
