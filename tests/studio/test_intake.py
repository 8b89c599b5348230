"""Taking files in: by file and by zip, stored once, and every kind of bad input."""

import io
import json
import stat
import zipfile
from pathlib import Path

import pytest
from django.core.files.storage import default_storage

from studio.intake.models import IntakeFile, SourceFile
from studio.intake.uploads import UploadRejected, safe_path
from tests.pictures import huge_png_header, random_texels, simple_set
from texel.files import encode

pytestmark = pytest.mark.django_db


@pytest.fixture
def intake(call):
    return call("POST", "/intakes", {"name": "folder"})["id"]


def png(seed=0, **size):
    return encode(random_texels("rgb", seed=seed, **size), "png")


def zip_of(entries, **more) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in entries:
            archive.writestr(name, data, **more)
    return stream.getvalue()


def test_a_known_file_is_not_stored_twice(call, intake):
    first = call.upload(f"/intakes/{intake}/files", "a/deck_bc.png", png())
    second = call.upload(f"/intakes/{intake}/files", "b/deck_bc.png", png())
    assert first["digest"] == second["digest"]
    assert (first["width"], first["height"]) == (16, 12)
    assert SourceFile.objects.count() == 1
    _, files = default_storage.listdir(f"source/{first['digest'][:2]}")
    assert files == [first["digest"]]


def test_the_same_content_under_a_name_that_can_be_read(call, intake):
    hidden = call.upload(f"/intakes/{intake}/files", "deck.bin", png())
    assert "not a kind of file" in hidden["problem"]
    known = call.upload(f"/intakes/{intake}/files", "deck_bc.png", png())
    assert (known["problem"], known["width"]) == ("", 16)
    again = call.upload(f"/intakes/{intake}/files", "deck.doc", png())
    assert again["problem"].startswith("deck.doc:")
    assert SourceFile.objects.count() == 1


@pytest.mark.parametrize(
    ("name", "data", "word"),
    [
        ("cut.png", png()[:20], "cut off"),
        ("text.png", b"hello", "not a picture"),
        ("empty.png", b"", "empty"),
        ("huge.png", huge_png_header(), "100000"),
        ("notes.txt", b"hello", "not a kind of file"),
    ],
)
def test_unreadable_files_are_listed_with_the_reason(call, intake, run_jobs, name, data, word):
    call.upload(f"/intakes/{intake}/files", "deck_bc.png", png())
    taken = call.upload(f"/intakes/{intake}/files", name, data)
    assert word in taken["problem"]
    call("POST", f"/intakes/{intake}/sort")
    run_jobs()
    left = call("GET", "/sets")["undecided"]
    assert [one["map"]["file"] for one in left] == [name]
    assert word in left[0]["map"]["why"] or "not a picture" in left[0]["map"]["why"]


def test_reasons_carry_their_keys_until_somebody_decides_otherwise(call, intake, run_jobs):
    call.upload(f"/intakes/{intake}/files", "deck_bc.png", png())
    call("POST", f"/intakes/{intake}/sort")
    run_jobs()
    (one,) = call("GET", "/sets")["sets"]
    (first,) = one["maps"]
    assert [part["key"] for part in first["said"]] == ["why_named"]
    assert call("GET", "/habit")["lines"][0]["said"]
    call("POST", f"/maps/{first['id']}/place", {"set": one["id"], "role": "height"})
    (moved,) = call("GET", "/sets")["sets"][0]["maps"]
    assert (moved["why"], [part["key"] for part in moved["said"]]) == ("chosen by hand", ["why_by_hand"])
    call("POST", "/undo")
    assert call("GET", "/sets")["sets"][0]["maps"][0]["said"] == first["said"]


def test_a_png_cut_off_in_its_data_is_a_finding(call, intake, run_jobs):
    call.upload(f"/intakes/{intake}/files", "deck_bc.png", png(width=64, height=64)[:-50])
    call("POST", f"/intakes/{intake}/sort")
    run_jobs()
    (one,) = call("GET", "/sets")["sets"]
    assert one["judged"]
    assert one["errors"] == 1
    assert "cut off" in one["headline"]


def test_two_files_with_one_name(call, intake):
    call.upload(f"/intakes/{intake}/files", "deck_bc.png", png())
    again = call.upload(f"/intakes/{intake}/files", "deck_bc.png", png())
    assert again["problem"] == ""
    refused = call.upload(f"/intakes/{intake}/files", "deck_bc.png", png(seed=1), status=422)
    assert "already in this intake" in refused["detail"]
    assert IntakeFile.objects.count() == 1


def test_an_empty_intake_has_nothing_to_sort(call, intake):
    assert "empty" in call("POST", f"/intakes/{intake}/sort", status=422)["detail"]


@pytest.mark.parametrize(
    "name", ["../up.png", "/etc/x.png", "a/../../b.png", "C:\\x.png", "..\\x.png", "a\0b.png", "x" * 1000]
)
def test_paths_that_leave_their_folder(call, intake, name):
    with pytest.raises(UploadRejected):
        safe_path(name)
    if "\0" not in name:
        call.upload(f"/intakes/{intake}/files", "x.png", png(), status=422, field_path=name)
        assert IntakeFile.objects.count() == 0


def test_names_in_other_scripts(call, intake, run_jobs):
    for name in ("桟橋/板_bc.png", "кирпич_bc.png", "brücke_bc.png"):
        assert call.upload(f"/intakes/{intake}/files", name, png())["path"] == name
    call("POST", f"/intakes/{intake}/sort")
    run_jobs()
    assert {one["name"] for one in call("GET", "/sets")["sets"]} == {"板", "кирпич", "brücke"}


def test_a_zip_is_taken_whole(call, intake, tmp_path):
    simple_set(tmp_path, "deck", n=16)
    entries = [(f"set/{p.name}", p.read_bytes()) for p in tmp_path.glob("*.png")] + [
        ("__MACOSX/x.png", b"x"),
        ("set/.DS", b"x"),
    ]
    taken = call.upload(f"/intakes/{intake}/zip", "set.zip", zip_of(entries))
    assert sorted(one["path"] for one in taken) == sorted(f"set/{p.name}" for p in tmp_path.glob("*.png"))


@pytest.mark.parametrize("name", ["../up.png", "/abs.png", "a/../../up.png"])
def test_a_zip_with_bad_names_is_refused_whole(call, intake, name):
    refused = call.upload(
        f"/intakes/{intake}/zip", "bad.zip", zip_of([("good_bc.png", png()), (name, png())]), status=422
    )
    assert "points outside" in refused["detail"]
    assert IntakeFile.objects.count() == 0


def test_a_zip_that_unpacks_to_more_than_the_limit(call, intake, settings):
    settings.MAX_UNPACKED_BYTES = 1024 * 1024
    bomb = zip_of([(f"{n}.png", b"\0" * 300_000) for n in range(5)])
    assert len(bomb) < 10_000
    refused = call.upload(f"/intakes/{intake}/zip", "bomb.zip", bomb, status=422)
    assert "unpacks to 1 MB; at most 1 MB" in refused["detail"]
    assert IntakeFile.objects.count() == 0


def lying(data, marker=b"PK\x01\x02", offset=24, value=10):
    """A zip whose header says another number."""
    changed = bytearray(data)
    at = changed.index(marker) + offset
    changed[at : at + 4] = value.to_bytes(4, "little")
    return bytes(changed)


def told(call, intake, data):
    """What an upload of a zip says of each entry: its problem, by path."""
    return {one["path"]: one["problem"] for one in call.upload(f"/intakes/{intake}/zip", "x.zip", data)}


@pytest.mark.filterwarnings("ignore:Duplicate name")
@pytest.mark.parametrize(
    ("broken", "problem"),
    [
        (lambda good: lying(zip_of([("b_bc.png", b"\0" * 100_000), *good])), "cannot be unpacked"),
        (lambda good: cut_crc(good), "Bad CRC"),
    ],
)
def test_one_broken_entry_never_loses_the_others(call, intake, broken, problem):
    found = told(call, intake, broken([("a_bc.png", png())]))
    assert found["a_bc.png"] == ""
    assert problem in found["b_bc.png"]
    assert list(IntakeFile.objects.values_list("path", flat=True)) == ["a_bc.png"]


def cut_crc(good):
    """A zip whose entry b_bc.png has another checksum than its content."""
    data = bytearray(zip_of([("b_bc.png", b"content"), *good]))
    at = data.index(b"PK\x01\x02") + 16
    data[at] ^= 0xFF
    return bytes(data)


@pytest.mark.filterwarnings("ignore:Duplicate name")
def test_of_two_entries_with_one_name_the_first_is_taken(call, intake):
    taken = call.upload(f"/intakes/{intake}/zip", "x.zip", zip_of([("a_bc.png", png()), ("a_bc.png", png(1))]))
    assert [one["problem"] for one in taken] == [
        "",
        "x.zip holds two files with the name a_bc.png; the first was taken",
    ]


def test_a_zip_with_links_or_that_is_none(call, intake):
    link = zipfile.ZipInfo("link_bc.png")
    link.external_attr = (stat.S_IFLNK | 0o777) << 16
    for data, word in (
        (zip_of([(link, b"/etc/passwd")]), "link"),
        (b"PK\x03\x04 not a zip", "not a sound zip"),
        (zip_of([("a_bc.png", png())])[:-30], "not a sound zip"),
    ):
        assert word in call.upload(f"/intakes/{intake}/zip", "x.zip", data, status=422)["detail"]
    assert IntakeFile.objects.count() == 0


def test_a_zip_that_is_refused_leaves_nothing_in_the_store(call, intake, settings):
    """The fault: what was unpacked before it was refused stayed in the store."""
    data = zip_of([("a_bc.png", png()), ("b_bc.png", png(1))])
    settings.PROJECT_BYTES = 150
    assert "at most" in call.upload(f"/intakes/{intake}/zip", "x.zip", data, status=422)["detail"]
    root = Path(settings.STORAGES["default"]["OPTIONS"]["location"])
    assert [path for path in root.rglob("*") if path.is_file()] == []


def test_zips_that_broke_the_reader_before(call, intake):
    for path in sorted(Path(__file__).parent.parent.glob("offending/*.zip")):
        answer = call.client.post(f"/api{call.base}/intakes/{intake}/zip", {"file": path.open("rb")})
        assert answer.status_code in (200, 422), path.name
        assert "detail" in answer.json() or isinstance(answer.json(), list)


@pytest.mark.parametrize(("setting", "word"), [("PROJECT_BYTES", "project Ferry"), ("PERSON_BYTES", "you have taken")])
def test_projects_and_people_have_room_for_so_much(call, intake, settings, setting, word):
    first, second = png(), png(1)
    setattr(settings, setting, len(first) + len(second) // 2)
    call.upload(f"/intakes/{intake}/files", "a_bc.png", first)
    refused = call.upload(f"/intakes/{intake}/files", "b_bc.png", second, status=422)["detail"]
    assert word in refused
    assert "at most" in refused


def test_uploads_beyond_the_limit_are_refused(call, intake, settings):
    settings.MAX_UPLOAD_BYTES = 100
    assert "larger than" in call.upload(f"/intakes/{intake}/files", "a_bc.png", png(), status=422)["detail"]


def test_a_sorted_intake_is_closed(call, intake, run_jobs):
    call.upload(f"/intakes/{intake}/files", "deck_bc.png", png())
    call("POST", f"/intakes/{intake}/sort")
    run_jobs()
    assert call("GET", "/intakes")[0]["state"] == "sorted"
    assert "closed" in call.upload(f"/intakes/{intake}/files", "b_bc.png", png(), status=409)["detail"]
    call("DELETE", f"/intakes/{intake}", status=409)


def test_a_cancelled_upload_leaves_nothing(call, intake):
    call.upload(f"/intakes/{intake}/files", "deck_bc.png", png())
    call("DELETE", f"/intakes/{intake}", status=204)
    assert json.loads(json.dumps(call("GET", "/intakes"))) == []
    assert IntakeFile.objects.count() == 0


def test_the_sample_folder_is_taken_in_by_a_worker(call, run_jobs, sign_in):
    sign_in("look", "cleo")("POST", "/intakes/sample", status=403)
    assert call("POST", "/intakes/sample")["state"] == "sorting"
    run_jobs()
    taken = call("GET", "/intakes")[0]
    assert (taken["state"], taken["refused"]) == ("sorted", 0)
    sets = {one["name"] for one in call("GET", "/sets")["sets"]}
    assert {"deck_tread_plate", "slate-pier", "BrassBell"} <= sets, sets


def test_a_sample_that_fails_can_be_discarded(call, run_jobs, monkeypatch):
    def full(*_):
        raise OSError("No space left on device")

    monkeypatch.setattr("studio.sorting.sample.write_project_folder", full)
    pk = call("POST", "/intakes/sample")["id"]
    run_jobs()
    assert call("GET", "/intakes")[0]["state"] == "failed"
    call("DELETE", f"/intakes/{pk}", status=204)
