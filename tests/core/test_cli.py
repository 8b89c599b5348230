"""The command line as scripts see it: one JSON document, exit codes, messages without a traceback."""

import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from tests.pictures import normal_texels, random_texels, save, simple_set
from texel.cli import main
from texel.files import read
from texel.roles import Green


def run(capsys, *words):
    code = main([str(word) for word in words])
    out, err = capsys.readouterr()
    return code, out, err


def run_json(capsys, *words):
    code, out, _ = run(capsys, *words, "--json")
    return code, json.loads(out)


def test_sort_says_what_it_decided(capsys, tmp_path):
    simple_set(tmp_path, "deck")
    (tmp_path / "notes.txt").write_text("x")
    code, document = run_json(capsys, "sort", tmp_path)
    assert code == 0
    assert set(document) == {"sets", "undecided", "habit", "tiled"}
    (one,) = document["sets"]
    assert one["name"] == "deck"
    assert set(one["maps"][0]) == {"role", "file", "channel", "confidence", "why", "said"}
    assert [left["file"] for left in document["undecided"]] == ["notes.txt"]


@pytest.mark.parametrize(("green", "word"), [(Green.UP, "up"), (Green.DOWN, "down")])
def test_direction(capsys, tmp_path, green, word):
    path = save(tmp_path / "n.png", normal_texels(green))
    code, document = run_json(capsys, "direction", path)
    assert (code, document["green"]) == (0, word)
    assert 0.5 < document["confidence"] <= 1


def test_flip_pack_and_unpack(capsys, tmp_path):
    source = save(tmp_path / "n.png", normal_texels())
    assert run(capsys, "flip", source, tmp_path / "f.png")[0] == 0
    assert run(capsys, "flip", tmp_path / "f.png", tmp_path / "ff.png")[0] == 0
    np.testing.assert_array_equal(read(tmp_path / "ff.png").pixels, read(source).pixels)
    for seed, role in enumerate(("occlusion", "roughness", "metallic")):
        save(tmp_path / f"{role}.png", random_texels("y", seed=seed))
    sets = [f"--set={role}={tmp_path / role}.png" for role in ("occlusion", "roughness", "metallic")]
    assert run(capsys, "pack", "--layout", "orm", *sets, "-o", tmp_path / "orm.png")[0] == 0
    assert run(capsys, "unpack", tmp_path / "orm.png", "--layout", "orm", "-o", tmp_path / "back")[0] == 0
    for role in ("occlusion", "roughness", "metallic"):
        back = read(tmp_path / f"back/{role}.png").pixels
        np.testing.assert_array_equal(back, read(tmp_path / f"{role}.png").pixels)


def test_check_exits_with_1_on_errors_only(capsys, tmp_path):
    simple_set(tmp_path, "deck", normal_word="nor_gl")
    assert run_json(capsys, "check", tmp_path) == (0, {"findings": []})
    save(tmp_path / "deck_nor_gl.png", normal_texels(Green.DOWN, 64))
    code, document = run_json(capsys, "check", tmp_path)
    assert code == 1
    (found,) = document["findings"]
    assert {"check", "severity", "set", "role", "file", "measure", "threshold", "message", "remedy"} <= set(found)


def test_deliver_with_edited_sets(capsys, tmp_path):
    source, out = tmp_path / "in", tmp_path / "out"
    simple_set(source, "deck", normal_word="nor_gl", green=Green.DOWN)
    _, document = run_json(capsys, "sort", source)
    document["sets"][0]["name"] = "Pier Deck"
    normal = next(m for m in document["sets"][0]["maps"] if m["role"] == "normal")
    normal["recipe"] = [{"step": "flip_green"}]
    (tmp_path / "sets.json").write_text(json.dumps(document))
    words = ["deliver", source, "--target", "gltf", "--sets", tmp_path / "sets.json", "-o", out]
    code, said = run_json(capsys, *words)
    assert code == 0
    assert (out / "manifest.json").is_file()
    assert (out / "pier_deck/pier_deck_normal.png").is_file()
    assert {one["status"] for one in said["files"]} == {"new"}
    again = run_json(capsys, *words)[1]
    assert {one["status"] for one in again["files"]} == {"unchanged"}
    assert again["findings"] == []


def test_deliver_judges_the_sets_when_asked(capsys, tmp_path):
    simple_set(tmp_path / "in", "deck", normal_word="nor_gl", green=Green.DOWN)
    words = ["deliver", tmp_path / "in", "--target", "gltf", "--check", "-o", tmp_path / "out"]
    code, said = run_json(capsys, *words)
    assert code == 1
    assert "direction_against_name" in {one["check"] for one in said["findings"]}


@pytest.mark.parametrize(
    "words",
    [
        ["direction", "nowhere.png"],
        ["sort", "nowhere"],
        ["sort", "text.png"],
        ["direction", "text.png"],
        ["flip", "text.png", "out.png"],
        ["flip", "grey.png", "out.png"],
        ["flip", "grey.png"],
        ["pack", "--layout", "hull", "--set", "roughness=grey.png", "-o", "o.png"],
        ["pack", "--layout", "orm", "--set", "roughnes=grey.png", "-o", "o.png"],
        ["pack", "--layout", "orm", "--set", "height=grey.png", "-o", "o.png"],
        ["pack", "--layout", "orm", "--set", "roughness=grey.png", "-o", "o.bmp"],
        ["pack", "--layout", "orm", "-o", "o.png"],
        ["unpack", "grey.png", "--layout", "nowhere.json", "-o", "d"],
        ["deliver", ".", "--target", "engine", "-o", "../out"],
        ["deliver", ".", "--target", "gltf", "-o", "inside"],
        ["sort", "empty", "--json"],
        ["nonsense"],
        [],
    ],
)
def test_bad_input_exits_with_2_and_a_message(tmp_path, words, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "text.png").write_text("hello")
    (tmp_path / "empty").mkdir()
    save(tmp_path / "grey.png", random_texels("y"))
    assert main(words) == 2
    assert capsys.readouterr().err.strip()
    assert not (tmp_path / "out.png").exists()


def test_the_program_itself_ends_so_too_without_a_traceback(tmp_path):
    environment = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}
    words = [sys.executable, "-m", "texel", "direction", "nowhere.png"]
    done = subprocess.run(words, cwd=tmp_path, capture_output=True, text=True, env=environment)
    assert done.returncode == 2
    assert "there is no such file" in done.stderr
    assert "Traceback" not in done.stderr


def test_an_empty_folder_still_gives_one_document(capsys, tmp_path):
    code, out, err = run(capsys, "sort", tmp_path, "--json")
    assert (code, json.loads(out)) == (2, {"sets": [], "undecided": [], "habit": [], "tiled": []})
    assert "empty" in err


def test_sources_are_never_written_over(capsys, tmp_path):
    one = tmp_path / "roughness.png"
    save(one, random_texels("rgb"))
    before = one.read_bytes()
    for words in (
        ["flip", one, tmp_path / "." / one.name],
        ["pack", "--layout", "orm", "--set", f"roughness={one}", "-o", one],
        ["unpack", one, "--layout", "orm", "-o", tmp_path],
    ):
        code, out, err = run(capsys, *words)
        assert (code, out) == (2, "")
        assert "never changed" in err
    assert one.read_bytes() == before
    assert [path.name for path in tmp_path.iterdir()] == [one.name]


def test_a_missing_folder_is_named(capsys, tmp_path):
    save(tmp_path / "n.png", random_texels("rgb"))
    code, _, err = run(capsys, "flip", tmp_path / "n.png", tmp_path / "nowhere" / "n.png")
    assert code == 2
    assert "no folder" in err
    assert "nowhere" in err


def test_encode_writes_what_inspect_reads_and_measure_measures(capsys, tmp_path):
    path = save(tmp_path / "deck_bc.png", random_texels("rgb", width=32, height=32))
    for name, format_ in (("a.ktx2", "astc_6x6"), ("a.dds", "bc1")):
        words = ("encode", path, tmp_path / name, "--format", format_, "--quality", "quick")
        code, document = run_json(capsys, *words)
        assert (code, document["levels"], document["colour_space"], document["error"]) == (0, 6, "srgb", None)
        assert run_json(capsys, *words, "--measure")[1]["error"]["psnr"] > 10
        code, told = run_json(capsys, "inspect", tmp_path / name)
        assert (told["probe"]["width"], told["tags"]["says"]) == (32, "srgb")
    words = ("measure", path, tmp_path / "a.dds", "--as", "colour", "--picture", tmp_path / "e.png")
    code, document = run_json(capsys, *words)
    assert document["delta_e_99"] > document["delta_e"] > 0
    assert read(tmp_path / "e.png").channels == "y"
    assert run(capsys, "measure", path, path, "--as", "mask")[1] == "no difference at all\n"
    for words in (("a.png", "--format", "bc1"), ("b.dds", "--format", "bc9"), ("b.dds", "--format", "bc1", "--zstd")):
        code, _, err = run(capsys, "encode", path, tmp_path / words[0], *words[1:])
        assert (code, bool(err)) == (2, True)


def test_sort_explains_the_habit_writes_it_and_reads_it_back(capsys, tmp_path):
    folder = tmp_path / "in"
    for stem in ("oak", "elm"):
        simple_set(folder, stem)
        (folder / f"{stem}_r.png").rename(folder / f"{stem}_zub.png")
    habit = tmp_path / "habit.json"
    code, out, _ = run(capsys, "sort", folder, "--explain", "--learn", str(habit))
    assert code == 0
    row = next(line for line in out.splitlines() if line.startswith("_zub"))
    assert "open" in row
    document = json.loads(habit.read_text())
    line = next(line for line in document["lines"] if line["suffix"] == "zub")
    habit.write_text(json.dumps(document | {"lines": [line | {"role": "roughness", "decided": True}]}))
    _, sorted_again = run_json(capsys, "sort", folder, "--habit", str(habit))
    roles = {ref["file"]: ref["role"] for one in sorted_again["sets"] for ref in one["maps"]}
    assert roles["oak_zub.png"] == roles["elm_zub.png"] == "roughness"


def test_deliver_tells_what_it_lacks_and_fails(capsys, tmp_path):
    folder = tmp_path / "in"
    simple_set(folder, "oak")
    (folder / "oak_r.png").rename(folder / "oak_zub.png")
    simple_set(folder, "elm")
    (folder / "elm_r.png").rename(folder / "elm_zub.png")
    code, out, err = run(capsys, "deliver", folder, "--target", "orm-y-minus", "-o", str(tmp_path / "out"), "--json")
    assert code == 1
    assert "not delivered: oak_zub.png" in err
    assert {one["file"] for one in json.loads(out)["undecided"]} == {"oak_zub.png", "elm_zub.png"}
