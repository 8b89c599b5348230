"""Baking sheets into maps, and the command line on masters."""

import json

import numpy as np
import pytest

from demo.materials import MASTERS, NEWER
from tests.pictures import random_texels, save
from tests.sheets import random_master
from texel.cli import main
from texel.compression.table import builtin_tables
from texel.errors import BadDocument
from texel.files import read
from texel.image import to_unit
from texel.materials import evaluate, parse_master
from texel.materials.baking import BAKED, bake
from texel.materials.versions import sample_maps
from texel.roles import Green, Role, Transfer


@pytest.mark.parametrize("seed", range(6))
def test_strips_and_threads_give_what_the_whole_gives(seed):
    master = random_master(seed, 33, (1.5, 2.25))
    maps = sample_maps(master)
    whole = evaluate(master, maps, {}, 700, 300)
    made = bake(master, maps, {}, 700, 300, bits=16, threads=3).maps
    for role, texels in made.items():
        one = BAKED[role]
        wanted = np.clip(np.nan_to_num(whole[one.input]), 0, 1)
        if one.kind == "data" and role is not Role.OCCLUSION:
            assert np.abs(to_unit(texels.pixels) - wanted).max() <= 0.51 / 65535
    assert np.array_equal(
        made[Role.HEIGHT].pixels, bake(master, maps, {}, 700, 300, threads=1).maps[Role.HEIGHT].pixels
    )


def test_a_plain_sheet_bakes_back_its_own_maps():
    document = MASTERS[0] | {"inputs": {"base_color": "colour", "normal": "bumps", "roughness": "pack.g"}}
    document["parameters"] = [one for one in document["parameters"] if one["name"] in ("tiling", "turn")]
    master = parse_master(document)
    maps = sample_maps(master, 64)
    made = bake(master, maps, {}, 64, 64).maps
    assert np.array_equal(made[Role.BASE_COLOR].pixels, maps["colour"].pixels)
    assert made[Role.BASE_COLOR].transfer is Transfer.SRGB
    assert np.array_equal(made[Role.ROUGHNESS].pixels[:, :, 0], maps["pack"].pixels[:, :, 1])
    # Renormalised, so that eight bits may round to the next step.
    assert np.abs(made[Role.NORMAL].pixels.astype(int) - maps["bumps"].pixels).max() <= 1
    down = bake(master, maps, {}, 64, 64, green=Green.DOWN).maps[Role.NORMAL].pixels.astype(int)
    assert np.abs(255 - down[:, :, 1] - made[Role.NORMAL].pixels[:, :, 1]).max() <= 1


def test_what_shines_brighter_than_a_map_holds_becomes_a_factor():
    master = parse_master(MASTERS[3])
    made = bake(master, sample_maps(master, 16), {"strength": (8,)}, 16, 16, bits=16)
    assert 4 < made.emissive_strength <= 8
    assert made.maps[Role.EMISSIVE].pixels.max() == 65535
    dark = bake(master, {}, {"lit": (0,)}, 16, 16)
    assert (dark.emissive_strength, dark.maps[Role.EMISSIVE].pixels.max()) == (1, 0)


@pytest.mark.parametrize(("width", "height", "bits"), [(0, 8, 8), (20000, 8, 8), (8, 8, 12)])
def test_sizes_and_depths_have_limits(width, height, bits):
    with pytest.raises(BadDocument, match="baked from"):
        bake(parse_master(MASTERS[0]), {}, {}, width, height, bits)


@pytest.fixture
def files(tmp_path):
    for name, document in (("solid", MASTERS[0]), ("newer", NEWER[0][0]), ("ground", MASTERS[1])):
        (tmp_path / f"{name}.json").write_text(json.dumps(document))
    (tmp_path / "broken.json").write_text(json.dumps(MASTERS[0] | {"inputs": {"normal": "pack.r"}}))
    cast = {"format": "fair-texel/cast", "version": 1, "name": "Worn", "changes": {"dirt": 0, "relief": 0}}
    (tmp_path / "cast.json").write_text(json.dumps(cast))
    save(tmp_path / "bc.png", random_texels("rgb", width=32, height=32))
    return tmp_path


def run(capsys, *words):
    code = main([str(word) for word in words])
    told = capsys.readouterr()
    return code, json.loads(told.out) if "--json" in words and told.out else told.out, told.err


def test_masters_are_checked_compared_and_exported(files, capsys):
    code, told, _ = run(capsys, "material", "check", files / "solid.json", "--json")
    assert (code, told["remarks"], told["cost"]["reads"]) == (0, [], 3)
    code, told, _ = run(capsys, "material", "check", files / "broken.json", "--json")
    assert (code, told["remarks"][0]["check"]) == (1, "not_a_normal")
    code, told, _ = run(capsys, "material", "diff", files / "solid.json", files / "newer.json", "--json")
    assert (code, told["changes"][0]["breaks"]) == (0, "removes")
    code, text, _ = run(capsys, "material", "diff", files / "solid.json", files / "newer.json")
    assert "the first place of the version" in text
    code, _, _ = run(capsys, "material", "export", files / "ground.json", "-o", files / "ground.glsl")
    assert code == 0
    assert "FtSurface ft_surface(" in (files / "ground.glsl").read_text()
    code, _, _ = run(capsys, "material", "export", files / "ground.json", "-o", files / "again.json")
    assert json.loads((files / "again.json").read_text()) == MASTERS[1]


def test_a_cast_is_baked_into_files(files, capsys):
    words = ("bake", files / "solid.json", "--cast", files / "cast.json", "--map", f"colour={files / 'bc.png'}")
    code, told, _ = run(capsys, *words, "--size", "32", "-o", files / "out", "--json")
    assert code == 0
    assert set(told["written"]) == {"base_color", "metallic", "roughness", "normal", "occlusion"}
    assert np.array_equal(read(files / "out/plain-solid_base_color.png").pixels, read(files / "bc.png").pixels)
    assert (read(files / "out/plain-solid_normal.png").pixels == (128, 128, 255)).all()


@pytest.mark.parametrize(
    ("words", "reason"),
    [
        (("material", "diff", "solid.json"), "takes 2"), (("material", "export", "solid.json"), "-o FILE"),
        (("material", "export", "solid.json", "-o", "x.doc"), "one of mtlx, glb"),
        (("material", "check", "nothing.json"), "no such file"),
        (("bake", "solid.json", "--map", "far=bc.png", "-o", "out"), "slots are colour, pack, bumps"),
        (("bake", "solid.json", "--size", "99999", "-o", "out"), "baked from"),
        (("bake", "solid.json", "--cast", "solid.json", "-o", "out"), "is not a cast document"),
        (("bake", "solid.json", "--size", "big", "-o", "out"), "is no size"),
    ],
)  # fmt: skip
def test_bad_words_are_told(files, capsys, monkeypatch, words, reason):
    monkeypatch.chdir(files)
    code, _, said = run(capsys, *words)
    assert code == 2
    assert reason in said


def test_maps_are_packed_by_layouts_and_a_sheet_is_held_to_a_tables_limits(files, capsys, monkeypatch):
    monkeypatch.chdir(files)
    code, told, _ = run(capsys, "bake", "solid.json", "--size", "8", "--layout", "orm", "-o", "packed", "--json")
    assert code == 0
    assert "orm" in told["written"]
    assert "roughness" not in told["written"]
    table = builtin_tables()["desktop"] | {"sheets": {"reads": 1, "arithmetic": 500}}
    (files / "table.json").write_text(json.dumps(table))
    code, told, _ = run(capsys, "material", "check", "solid.json", "--formats", "table.json", "--json")
    assert told["over_budget"] == ["3 texture reads, where 1 are allowed"]
