"""Scan libraries: searched by what the camera sees, fetched over a line that breaks, refused by their terms.

The library is the stand-in that ships with the product, over real HTTP.
"""

import hashlib
import json
import threading
from pathlib import Path

import pytest

from scanlibrary.service import Service
from scanlibrary.shelf import Shelf
from scanlibrary.surfaces import ITEMS
from studio.intake.models import IntakeFile
from studio.jobs.models import Job
from studio.scans.client import Library, LibraryAway
from studio.scans.models import Scan, ScanAccount
from studio.sets.models import TextureSet
from texel.schemas import check_document

pytestmark = pytest.mark.django_db
SMALL = (64, 128)
COBBLE = {"library": "Tin", "surface": "slipway-cobble", "pixels": 64}
LICENCES = {
    "format": "fair-texel/licences", "version": 1,
    "terms": [
        {"licence": "CC0-1.0", "use": "free"}, {"licence": "CC-BY-4.0", "use": "credit"},
        {"licence": "LicenseRef-print-only", "use": "refused", "why": "Bought for a poster."},
    ],
}  # fmt: skip


@pytest.fixture(scope="module")
def shelf(tmp_path_factory):
    return Shelf(tmp_path_factory.mktemp("shelf"), SMALL)


@pytest.fixture
def service(shelf, settings):
    one = Service(shelf)
    threading.Thread(target=one.serve_forever, daemon=True).start()
    settings.SCAN_LIBRARIES = {"Tin": one.address}
    yield one
    one.shutdown()
    one.server_close()
    (shelf.root / "revisions.json").unlink(missing_ok=True)


@pytest.fixture
def account(call, service):
    return call("PUT", "/scans/libraries/Tin/account", {"key": service.shelf.key})


@pytest.fixture
def no_pause(monkeypatch):
    monkeypatch.setattr("studio.scans.client._FIRST_PAUSE", 0.0)
    monkeypatch.setattr("studio.scans.client.time.sleep", lambda seconds: None)


@pytest.fixture
def cobble(call, account, run_jobs):
    call("POST", "/scans", COBBLE)
    run_jobs()
    return call("GET", "/scans")[0]


def listed(call, surface="slipway-cobble", **asked):
    query = "&".join(f"{name}={value}" for name, value in asked.items())
    rows = call("GET", f"/scans/libraries/Tin/surfaces?{query}")["surfaces"]
    return next(one for one in rows if one["id"] == surface)


def test_the_key_is_tried_and_kept_sealed(call, service):
    assert call("GET", "/scans/libraries") == [{"name": "Tin", "account": None}]
    call("PUT", "/scans/libraries/Tin/account", {"key": "wrong"}, status=422)
    assert call("GET", "/scans/libraries")[0]["account"] is None
    call("PUT", "/scans/libraries/Tin/account", {"key": service.shelf.key})
    assert call("GET", "/scans/libraries")[0]["account"] == "Larkspur Tin"
    assert service.shelf.key not in ScanAccount.objects.get().sealed


def test_each_person_has_an_account_of_their_own(call, other, account):
    assert other("GET", "/scans/libraries")[0]["account"] is None
    answer = other("GET", "/scans/libraries/Tin/surfaces", status=409)
    assert "key" in answer["detail"]


def test_a_key_is_forgotten(call, account):
    call("DELETE", "/scans/libraries/Tin/account", status=204)
    assert not ScanAccount.objects.exists()


def test_surfaces_are_searched_by_words(call, account):
    rows = call("GET", "/scans/libraries/Tin/surfaces?search=stone%20wet")["surfaces"]
    assert [one["id"] for one in rows] == ["slipway-cobble"]


def test_the_resolution_that_is_enough_follows_from_the_camera(call, account):
    # 90 degrees and 1 metre: 2 metres fill a screen of 100 pixels, so 2 metres of surface want 100 texels.
    near = listed(call, distance=1, height=100, angle=90)
    assert [(fit["pixels"], fit["is_enough"]) for fit in near["fits"]] == [(64, False), (128, True)]
    far = listed(call, distance=2, height=100, angle=90)
    assert [(fit["pixels"], fit["is_enough"]) for fit in far["fits"]] == [(64, True), (128, False)]
    assert far["fits"][1]["wasted"] == 0.75


@pytest.mark.parametrize("asked", ["distance=0", "distance=nan", "angle=180", "height=0", "metres=-1"])
def test_a_camera_that_cannot_be_is_refused(call, account, asked):
    assert call("GET", f"/scans/libraries/Tin/surfaces?{asked}", status=422)["detail"]


def test_a_preview_is_shown(call, account):
    assert call("GET", "/scans/libraries/Tin/surfaces/tide-silt/preview?side=64").content.startswith(b"\x89PNG")


def test_a_surface_becomes_a_set_with_its_size_and_licence(call, cobble):
    assert (cobble["state"], cobble["revision"], cobble["pixels"]) == ("done", 1, 64)
    one = TextureSet.objects.get()
    assert cobble["sets"] == [{"id": one.pk, "name": one.name}]
    assert (one.metres, one.licence) == (2.0, "CC0-1.0")
    roles = {row["role"] for row in call("GET", f"/sets/{one.pk}")["maps"]}
    assert roles == {"base_color", "normal", "roughness", "occlusion", "height"}


def test_taking_a_surface_in_is_one_step_to_undo(call, cobble):
    call("POST", "/undo")
    assert not TextureSet.objects.exists()


def test_a_surface_is_taken_in_once(call, cobble):
    answer = call("POST", "/scans", COBBLE, status=409)
    assert "already" in answer["detail"]


def test_terms_that_the_project_refuses_are_told_and_refused(call, account, service):
    call("PUT", "/rules/licences/house", LICENCES)
    one = listed(call, "customs-house-plaster")
    assert one["refused"]
    assert "Bought for a poster." in one["problem"]
    order = {"library": "Tin", "surface": "customs-house-plaster", "pixels": 64}
    assert "Bought for a poster." in call("POST", "/scans", order, status=409)["detail"]
    assert service.sent == []
    assert not Scan.objects.exists()


def test_terms_that_are_refused_meanwhile_stop_the_job(call, account, run_jobs, service):
    call("POST", "/scans", {"library": "Tin", "surface": "customs-house-plaster", "pixels": 64})
    call("PUT", "/rules/licences/house", LICENCES)
    run_jobs()
    one = call("GET", "/scans")[0]
    assert (one["state"], one["sets"]) == ("failed", [])
    assert "Bought for a poster." in one["message"]
    assert not IntakeFile.objects.exists()


def test_a_line_that_breaks_is_taken_up_where_it_broke(call, account, run_jobs, service, no_pause):
    service.break_after = 3000
    call("POST", "/scans", COBBLE)
    run_jobs()
    one = call("GET", "/scans")[0]
    assert one["state"] == "done", one["message"]
    begun = [start for _, start in service.sent]
    assert any(begun), "no file was gone on with in the middle"
    for file in service.shelf.surface("slipway-cobble")["resolutions"][0]["files"]:
        starts = [start for name, start in service.sent if name == file["name"]]
        assert starts == sorted(set(starts)), "no byte was fetched twice"


def test_a_library_that_goes_away_is_told_and_gone_on_with(call, account, run_jobs, service, no_pause, monkeypatch):
    service.break_after = 2000
    calls = []
    real = Library._go_on

    def away(self, *given):
        calls.append(1)
        if 3 < len(calls) < 12:
            raise ConnectionError
        return real(self, *given)

    monkeypatch.setattr(Library, "_go_on", away)
    call("POST", "/scans", COBBLE)
    run_jobs()
    one = call("GET", "/scans")[0]
    assert one["state"] == "failed"
    assert "what came is kept" in one["message"]
    have = dict(service.sent)
    service.break_after, service.sent[:] = None, []
    calls.extend([1] * 20)
    call("POST", f"/scans/{one['id']}/resume")
    run_jobs()
    assert call("GET", "/scans")[0]["state"] == "done"
    assert have.keys() - {name for name, start in service.sent if start == 0}, "everything was fetched anew"


def test_a_file_that_is_not_what_was_said_is_not_taken(call, account, run_jobs, service, no_pause, monkeypatch):
    real = Shelf.surface

    def lying(self, item):
        document = real(self, item)
        document["resolutions"][0]["files"][0]["sha256"] = hashlib.sha256(b"else").hexdigest()
        return document

    monkeypatch.setattr(Shelf, "surface", lying)
    call("POST", "/scans", COBBLE)
    run_jobs()
    one = call("GET", "/scans")[0]
    assert "is not what Tin said" in one["message"]
    assert not TextureSet.objects.exists()


def test_a_newer_revision_is_told_and_replaces_the_files(call, cobble, run_jobs, service):
    colour = next(m for m in call("GET", f"/sets/{cobble['sets'][0]['id']}")["maps"] if m["role"] == "base_color")
    call("PUT", f"/maps/{colour['id']}/recipe", {"recipe": [{"step": "invert"}]})
    service.shelf.publish("slipway-cobble")
    call("POST", "/scans/look")
    run_jobs()
    one = call("GET", f"/scans?set={cobble['sets'][0]['id']}")[0]
    assert (one["update_available"], one["newest"]) == (True, 2)
    call("POST", f"/scans/{one['id']}/update", {})
    run_jobs()
    now = next(m for m in call("GET", f"/sets/{cobble['sets'][0]['id']}")["maps"] if m["role"] == "base_color")
    assert (now["id"], [step["step"] for step in now["recipe"]]) == (colour["id"], ["invert"])
    assert now["source"] != colour["source"]
    assert not call("GET", "/scans")[0]["update_available"]
    assert call("GET", "/versions")[0]["origin"] == "revision 2 in Tin"


def test_another_resolution_takes_the_place_of_the_former(call, cobble, run_jobs):
    call("POST", f"/scans/{cobble['id']}/update", {"pixels": 128})
    run_jobs()
    maps = call("GET", f"/sets/{cobble['sets'][0]['id']}")["maps"]
    assert {one["width"] for one in maps} == {128}
    assert all("_128." in one["file"] for one in maps)
    assert TextureSet.objects.count() == 1


def test_a_resolution_that_there_is_not_is_refused(call, account):
    assert "64, 128" in call("POST", "/scans", {**COBBLE, "pixels": 2048}, status=422)["detail"]


@pytest.mark.parametrize(
    "answer",
    [b"", b"no json", b"[]", b'{"format": "fair-texel/scan-surfaces", "version": 2}', b"\xff\xfe" * 40],
)
def test_an_answer_that_follows_no_schema_is_told(call, account, monkeypatch, answer):
    monkeypatch.setattr(Library, "_bytes", lambda self, where, most: answer)
    assert "Tin" in call("GET", "/scans/libraries/Tin/surfaces", status=422)["detail"]


def test_an_answer_that_leads_elsewhere_is_not_followed(service, monkeypatch):
    from scanlibrary import service as module

    def led_away(self):
        self.send_response(302)
        self.send_header("Location", "http://127.0.0.1:1/secret")
        self.send_header("Content-Length", "0")
        self.end_headers()

    monkeypatch.setattr(module._Handler, "do_GET", led_away)
    with pytest.raises(LibraryAway, match="302"):
        Library("Tin", "key").surfaces()


def test_only_libraries_that_the_server_allows_are_asked(call, service):
    assert "knows no scan library" in call("PUT", "/scans/libraries/Else/account", {"key": "k"}, status=422)["detail"]


def test_a_library_that_does_not_answer_is_told(call, account, settings):
    settings.SCAN_LIBRARIES = {"Tin": "http://127.0.0.1:9"}
    assert "does not answer" in call("GET", "/scans/libraries/Tin/surfaces", status=422)["detail"]


def test_nobody_is_asked_for_who_may_only_look(sign_in, account, service):
    looker = sign_in("look", "cleo")
    looker("PUT", "/scans/libraries/Tin/account", {"key": service.shelf.key}, status=403)
    looker("POST", "/scans", COBBLE, status=403)
    assert not Job.objects.exists()


def test_the_stand_in_follows_its_own_interface(shelf):
    for item in ("slipway-cobble", "customs-house-plaster"):
        document = shelf.surface(item)
        check_document(document, "scan-surface", item)
        file = document["resolutions"][0]["files"][0]
        path: Path = shelf.path_of(item, SMALL[0], file["name"])
        assert hashlib.sha256(path.read_bytes()).hexdigest() == file["sha256"]
    assert json.dumps(shelf.listed("nothing such")) == "[]"


def test_names_that_lead_out_of_the_folder_are_refused(call, account, run_jobs, monkeypatch):
    real = Shelf.surface

    def sly(self, item):
        document = real(self, item)
        document["resolutions"][0]["files"][0]["name"] = ".."
        return document

    monkeypatch.setattr(Shelf, "surface", sly)
    monkeypatch.setattr(Shelf, "path_of", lambda self, item, pixels, name: self._drawn(ITEMS[item], 1, pixels)[0])
    call("POST", "/scans", COBBLE)
    run_jobs()
    one = call("GET", "/scans")[0]
    assert (one["state"], one["sets"]) == ("failed", [])


def test_two_files_of_one_name_are_refused(call, account, monkeypatch):
    real = Shelf.surface

    def twice(self, item):
        document = real(self, item)
        files = document["resolutions"][0]["files"]
        files[1]["name"] = files[0]["name"].upper()
        return document

    monkeypatch.setattr(Shelf, "surface", twice)
    assert "two files of one name" in call("POST", "/scans", COBBLE, status=422)["detail"]


def test_the_second_who_goes_on_is_told(call, other, account, service, run_jobs, no_pause, monkeypatch):
    monkeypatch.setattr(Library, "_go_on", lambda self, *given: (_ for _ in ()).throw(ConnectionError()))
    call("POST", "/scans", COBBLE)
    run_jobs()
    one = call("GET", "/scans")[0]["id"]
    call("POST", f"/scans/{one}/resume")
    assert "nothing to go on with" in other("POST", f"/scans/{one}/resume", status=409)["detail"]


def test_a_surface_that_cannot_be_asked_for_does_not_stop_the_others(call, cobble, run_jobs, service):
    call("POST", "/scans", {"library": "Tin", "surface": "tide-silt", "pixels": 64})
    run_jobs()
    Scan.objects.filter(surface="tide-silt").update(library="Gone")
    service.shelf.publish("slipway-cobble")
    call("POST", "/scans/look")
    run_jobs()
    assert {one["surface"]: one["update_available"] for one in call("GET", "/scans")} == {
        "slipway-cobble": True, "tide-silt": False,
    }  # fmt: skip
    assert "1 could not be asked for" in Job.objects.filter(kind="scan-look").last().message


def test_a_new_map_whose_name_is_taken_does_not_become_the_other_file(call, cobble, run_jobs, service, monkeypatch):
    """Somebody renamed a map to what the next revision calls a new one."""
    real = Shelf.surface
    entry = IntakeFile.objects.get(path__contains="roughness")
    IntakeFile.objects.filter(pk=entry.pk).update(path="slipway_cobble_extra_64.png")

    def more(self, item):
        document = real(self, item)
        files = document["resolutions"][0]["files"]
        new = {
            **next(one for one in files if one["map"] == "ao"),
            "map": "extra",
            "name": "slipway_cobble_extra_64.png",
        }
        files.append(new)
        return document

    shown = Shelf.path_of
    monkeypatch.setattr(Shelf, "surface", more)
    monkeypatch.setattr(Shelf, "path_of", lambda self, i, p, n: shown(self, i, p, n.replace("extra", "ao")))
    call("POST", f"/scans/{cobble['id']}/update", {})
    run_jobs()
    assert call("GET", "/scans")[0]["state"] == "done"
    files = Scan.objects.get().files
    assert files.get(map="extra").file_id != files.get(map="roughness").file_id
