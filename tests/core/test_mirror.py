"""The mirror: what an engine would make of a delivered folder, and where that is not what was meant."""

import json

import numpy as np
import pytest

from tests.core.test_cli import run
from tests.core.test_incremental import full
from tests.pictures import random_texels, save, simple_set
from texel.blocks import format_named
from texel.checks import Severity
from texel.colour import srgb_to_unit_linear
from texel.delivery import builtin_targets
from texel.errors import BadDocument
from texel.mirror import builtin_mirrors, mirror_named, parse_mirror, reflect
from texel.schemas import check_document

DOWN, UP = "by-suffix-y-minus", "by-suffix-y-plus"


@pytest.fixture
def out(tmp_path):
    simple_set(tmp_path / "in", "deck")
    full(tmp_path / "in", tmp_path / "out")
    return tmp_path / "out"


def differences(out, habits=DOWN, **change):
    document = builtin_mirrors()[habits] | change
    told = reflect(out, parse_mirror(document))
    return {(file.path.split("/")[-1], one.kind): one for file in told.files for one in file.differences}


@pytest.mark.parametrize("name", list(builtin_mirrors()))
def test_ready_made_habits_follow_their_schema(name):
    check_document(builtin_mirrors()[name], "mirror", name)
    assert mirror_named(name).name == name


def test_an_engine_with_the_targets_habits_sees_what_was_meant(out):
    told = reflect(out, mirror_named(DOWN))
    assert (told.count(Severity.ERROR), told.count(Severity.WARNING)) == (0, 0)
    assert {role.value: path for role, path in told.materials["deck"].items()} == {
        "base_color": "deck/deck_color.png", "normal": "deck/deck_normal.png", "occlusion": "deck/deck_orm.png",
        "roughness": "deck/deck_orm.png", "metallic": "deck/deck_orm.png", "height": "deck/deck_height.png",
    }  # fmt: skip


def test_the_other_direction_of_green_is_told_as_the_symptom_that_it_gives(out):
    (one,) = [d for d in differences(out, UP).values() if d.severity is Severity.ERROR]
    assert (one.kind, one.misread) == ("green", "green_flipped")
    assert "Y-" in one.message


def test_a_reader_that_takes_all_for_colour_spoils_the_data(out):
    told = differences(out, "all-colour", green="down")
    spoilt = {path: one.misread for (path, kind), one in told.items() if kind == "space"}
    assert spoilt == {"deck_orm.png": "data_as_srgb", "deck_height.png": "data_as_srgb"}
    # IEC 61966-2-1: a stored half is 0.214 of light.
    assert srgb_to_unit_linear(np.array([[[128]]], np.uint8))[0, 0, 0] == pytest.approx(0.2159, abs=5e-4)
    assert "0.21" in told["deck_orm.png", "space"].message


def test_a_manifest_that_is_read_says_the_colour_space_of_every_file(out):
    told = reflect(out, parse_mirror(builtin_mirrors()["by-manifest"] | {"green": "down"}))
    assert {file.taken.by for file in told.files if file.meant} == {"manifest"}
    assert told.count(Severity.ERROR) == 0


def test_another_order_of_channels_is_told_channel_by_channel(out):
    line = {"suffixes": ["_ORM"], "channels": {"r": "metallic", "g": "roughness", "b": "occlusion"}}
    told = reflect(out, parse_mirror(builtin_mirrors()[DOWN] | {"reads": [line]}))
    wrong = next(file for file in told.files if file.path.endswith("_orm.png"))
    assert [(str(one.message), one.misread) for one in wrong.differences] == [
        ("R holds occlusion and is taken for metallic.", "channels_exchanged"),
        ("B holds metallic and is taken for occlusion.", "channels_exchanged"),
    ]


def test_gloss_that_is_taken_for_roughness_has_its_own_symptom(out):
    roles = {"r": "occlusion", "g": "glossiness", "b": "metallic"}
    one = differences(out, reads=[{"suffixes": ["_orm"], "channels": roles}])["deck_orm.png", "role"]
    assert one.misread == "gloss_as_roughness"


def test_what_nobody_reads_is_a_warning_and_a_name_that_says_nothing_an_error(out):
    told = differences(out, reads=[{"suffixes": ["_orm"], "channels": {"g": "roughness", "b": "metallic"}}])
    one = told["deck_orm.png", "unread"]
    assert (one.severity, one.misread) == (Severity.WARNING, "occlusion_missing")
    told = differences(out, common_names=False)
    assert {kind for _, kind in told} >= {"unknown"}
    assert "roughness" in told["deck_orm.png", "unknown"].message


def test_sizes_and_formats_that_it_would_make_are_told(out):
    told = differences(out, largest=32, compress=[{"format": "bc1"}])
    assert told["deck_color.png", "size"].message == "Made smaller: 32 x 32 of 64 x 64."
    assert told["deck_normal.png", "format"].severity is Severity.WARNING
    assert format_named("bc1").label in told["deck_normal.png", "format"].message
    assert ("deck_color.png", "format") not in told


def test_encoded_files_say_their_colour_space_themselves(tmp_path):
    simple_set(tmp_path / "in", "deck")
    full(tmp_path / "in", tmp_path / "out", builtin_targets()["orm-y-minus-bc"])
    told = reflect(tmp_path / "out", mirror_named(DOWN))
    assert told.count(Severity.ERROR) == 0
    assert {file.taken.by for file in told.files if file.path.endswith(".dds")} == {"tag"}


def test_files_that_are_gone_broken_or_named_by_a_material_are_told(out):
    (out / "deck/deck_color.png").unlink()
    (out / "deck/deck_orm.png").write_bytes(b"no picture")
    told = reflect(out, mirror_named(DOWN))
    kinds = {file.path: file.differences[0].kind for file in told.files if file.differences}
    assert kinds == {"deck/deck_color.png": "missing", "deck/deck_orm.png": "unreadable"}
    assert ["deck_color.png" in one.message for one in told.broken] == [True]


def test_a_folder_that_we_did_not_make_is_judged_by_names_and_pixels(tmp_path):
    simple_set(tmp_path / "theirs", "quay", normal_word="nor_gl")
    told = differences(tmp_path / "theirs", DOWN)
    assert told["quay_nor_gl.png", "green"].misread == "green_flipped"
    assert differences(tmp_path / "theirs", UP) == {}


@pytest.mark.parametrize("path", ["../secret.png", "/etc/hostname"])
def test_a_manifest_of_others_leads_nowhere_else(out, tmp_path, path):
    save(tmp_path / "secret.png", random_texels("rgb"))
    manifest = json.loads((out / "manifest.json").read_text())
    manifest["files"][0]["path"] = path
    (out / "manifest.json").write_text(json.dumps(manifest))
    told = reflect(out, mirror_named(DOWN))
    assert [one.kind for file in told.files if file.path == path for one in file.differences] == ["missing"]


@pytest.mark.parametrize(
    ("change", "word"),
    [
        ({"green": "left"}, "green"), ({"compress": [{"format": "bc99"}]}, "bc99"), ({"space": {}}, "unknown"),
        ({"more": 1}, "more"),
    ],
)  # fmt: skip
def test_habits_that_make_no_sense_are_refused(change, word):
    with pytest.raises(BadDocument, match=word):
        parse_mirror(builtin_mirrors()[UP] | change)


def test_the_command_line_exits_with_1_where_the_engine_is_wrong(capsys, out):
    code, told, _ = run(capsys, "mirror", str(out), "--as", UP, "--json")
    assert (code, json.loads(told)["errors"]) == (1, 1)
    assert run(capsys, "mirror", str(out), "--as", DOWN)[0] == 0
    assert run(capsys, "mirror", str(out), "--as", "nobody")[0] == 2
