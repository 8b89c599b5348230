"""Surfaces in tiles: told by the numbers of their sets, and written with <UDIM> where formats have it.

Numbers: MaterialX Specification 1.39, "Filename Substitutions" (UDIM = 1001 + U + V*10).
"""

import json

import MaterialX as mx
import numpy as np
import pytest
from pxr import Usd, UsdShade

from tests.pictures import save
from texel.channels.layout import ready_layout
from texel.cli import main
from texel.image import Texels
from texel.materials import parse_master
from texel.materials.exchange import BakeOrder, FilledCast, export, export_maps, read_materialx
from texel.roles import Role, Transfer
from texel.tiles import Tiled, files_of, named_tile, tiled, tiled_by_name

WALL = parse_master({
    "format": "fair-texel/master", "version": 1, "name": "wall", "title": "Wall",
    "slots": [{"name": "colour", "role": "base_color"}, {"name": "dull", "role": "roughness"},
              {"name": "grime", "role": "detail_mask"}],
    "parameters": [{"name": "shade", "kind": "colour", "default": [1, 1, 1]}],
    "inputs": {"base_color": "colour * shade", "roughness": "dull"},
})  # fmt: skip


def plain(value, role=Role.BASE_COLOR):
    count, space = (3, Transfer.SRGB) if role is Role.BASE_COLOR else (1, Transfer.LINEAR)
    return Texels(np.full((4, 4, count), value, np.uint8), "rgb" if count == 3 else "y", space, role)


def cast():
    """Colour in two tiles, roughness everywhere alike."""
    colour = {1001: plain(50), 1012: plain(200)}
    maps = {"colour": colour[1001], "dull": plain(90, Role.ROUGHNESS)}
    return FilledCast("Quay", {}, maps, {"colour": colour})


@pytest.mark.parametrize(
    ("name", "told"),
    [("wall.1001", ("wall", 1001)), ("wall_1002", ("wall", 1002)), ("Wall 1100", ("Wall", 1100)), ("wall.1101", None),
     ("wall_1920", None), ("wall1001", None), ("1001", None), ("wall.1000", None)],
)  # fmt: skip
def test_a_tile_is_told_by_its_number(name, told):
    assert named_tile(name) == told


def test_one_tile_is_no_surface_in_tiles():
    assert tiled(["wall.1001", "rope", "deck_1001", "crate_1042", "crate_1043"]) == []
    names = ["wall.1002", "wall.1001", "rope"]
    assert tiled_by_name(names)["wall.1002"] == Tiled("wall", {1001: "wall.1001", 1002: "wall.1002"})


def test_materialx_names_all_tiles_by_one_word():
    made = export(WALL, "mtlx", "look", [cast()])
    assert {"maps/quay_colour.1001.png", "maps/quay_colour.1012.png", "maps/quay_dull.png"} < set(made.files)
    document = mx.createDocument()
    mx.readFromXmlString(document, made.files["look.mtlx"].decode())
    files = {one.getName(): one.getValueString() for node in document.getNodes() for one in node.getInputs()}
    assert files["colour"] == "maps/quay_colour.<UDIM>.png"
    assert files["dull"] == "maps/quay_dull.png"
    (back,) = read_materialx(made.files["look.mtlx"].decode())
    assert back.casts[0].files["colour"] == "maps/quay_colour.<UDIM>.png"


def test_usd_reads_baked_tiles_by_one_word(tmp_path):
    made = export(WALL, "usda", "look", [cast()], 4)
    for path, body in made.files.items():
        (tmp_path / path).parent.mkdir(exist_ok=True)
        (tmp_path / path).write_bytes(body)
    stage = Usd.Stage.Open(str(tmp_path / "look.usda"))
    materials = [UsdShade.Material(one) for one in stage.Traverse() if one.GetName() == "Quay"]
    assert materials[0].GetInput("base_color_map").Get().path == "maps/Quay_base_color.<UDIM>.png"
    assert {1001, 1012} == set(files_of(tmp_path / "maps" / "Quay_base_color.<UDIM>.png"))
    assert made.files["maps/Quay_base_color.1001.png"] != made.files["maps/Quay_base_color.1012.png"]


def test_a_slot_without_the_tile_reads_its_default():
    partial = cast()._replace(tiles={"colour": {1001: plain(50)}, "dull": {1002: plain(9, Role.ROUGHNESS)}})
    assert partial.numbers == (1001, 1002)
    assert set(partial.tile(1002).maps) == {"dull"}
    assert set(cast().tile(1012).maps) == {"colour", "dull"}


def test_gltf_has_the_first_tile_and_tells():
    lost = export(WALL, "glb", "look", [cast()], 4).lost
    assert "Tiles: glTF has none; of Quay only 1001 is written" in lost


def test_baked_maps_are_one_for_each_tile():
    order = BakeOrder(4, 4, layouts=(ready_layout("occlusion-roughness-metallic"),))
    files = export_maps(WALL, [cast()], order).files
    assert {"quay_base_color.1001.png", "quay_base_color.1012.png"} <= set(files)


def test_what_moves_tiles_is_told():
    moved = parse_master(WALL.document | {"coordinates": [{"name": "main", "tiling": [2, 2]}]})
    assert any("tiles lie elsewhere" in one for one in export(moved, "mtlx", "look", [cast()]).lost)
    placed = parse_master(WALL.document | {"inputs": {"base_color": "colour * uv.r"}})
    assert any("the same in every baked tile" in one for one in export(placed, "usda", "look", [cast()], 4).lost)
    assert not any("Tiles" in one for one in export(WALL, "mtlx", "look", [cast()]).lost)


def test_the_command_line_lists_tiles_and_exports_them(tmp_path, capsys):
    folder = tmp_path / "wall"
    folder.mkdir()
    for number, value in ((1001, 50), (1002, 200)):
        save(folder / f"wall_bc.{number}.png", plain(value))
        save(folder / f"wall_r.{number}.png", plain(value, Role.ROUGHNESS))
    assert main(["sort", str(folder)]) == 0
    assert "wall in tiles: 1001, 1002" in capsys.readouterr().out
    assert main(["sort", str(folder), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["tiled"]
    assert told == [
        {"name": "wall", "tiles": [{"number": 1001, "set": "wall.1001"}, {"number": 1002, "set": "wall.1002"}]}
    ]
    master = tmp_path / "wall.json"
    master.write_text(json.dumps(WALL.document))
    given = ["--map", f"colour={folder}/wall_bc.<UDIM>.png", "-o", str(tmp_path / "out.mtlx")]
    assert main(["material", "export", str(master), *given]) == 0
    assert sorted(one.name for one in (tmp_path / "maps").iterdir()) == ["wall_colour.1001.png", "wall_colour.1002.png"]
    given[1] = f"colour={folder}/none_bc.<UDIM>.png"
    assert main(["material", "export", str(master), *given]) == 2
    assert "there is no tile of this name" in capsys.readouterr().err
