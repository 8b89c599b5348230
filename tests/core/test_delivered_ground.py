"""Patches of ground in deliveries: read back exactly, by Pillow; the material by MaterialX and against the far maps."""

import json

import numpy as np
import pytest
from PIL import Image

from tests.pictures import simple_set
from texel.cli import main
from texel.delivery import parse_target, plan_delivery
from texel.delivery.folder import deliver_folder
from texel.delivery.target import builtin_targets
from texel.errors import BadDocument
from texel.files import encode
from texel.ground import delivered as delivering
from texel.ground.delivered import ground_order, plan_ground
from texel.ground.material import ground_master, slot_names
from texel.ground.patch import parse_patch
from texel.image import Texels
from texel.library import Library, list_files
from texel.materials import parse_master
from texel.materials.baking import bake
from texel.meshes.plain import plain_order
from texel.roles import Role, Transfer
from texel.schemas import check_document
from texel.sorting import sort_files

TARGET = parse_target(builtin_targets()["orm-y-minus"])
LAYERS = [
    {"name": "Reeds", "wears": "reeds", "tile": 4},
    {"name": "Mud", "wears": "mud", "tile": 8, "turn": 30, "rule": [{"measure": "altitude", "to": 0.5, "fade": 0.5}]},
]


@pytest.fixture
def folder(tmp_path):
    simple_set(tmp_path / "in", "reeds")
    simple_set(tmp_path / "in", "mud", seed=5)
    return tmp_path / "in"


def marsh(layers=LAYERS, **more):
    return {
        "format": "fair-texel/ground", "version": 1, "name": "Marsh", "metres": 32, "side": 128, "far": 256,
        "shape": {"kind": "made", "low": -1, "high": 2, "seed": 2}, "layers": layers, **more,
    }  # fmt: skip


def planned(folder, document, previous=None, height=""):
    files = list_files(folder)
    sets = {one.name: one for one in sort_files(Library(files)).sets}
    layers = [
        plain_order(one["wears"], set(sets[one["wears"]].in_use()), relief=True) if "wears" in one else None
        for one in document["layers"]
    ]
    library = Library(files)
    order = ground_order({"ground": document, "height": height, "layers": layers})
    made = plan_ground([order], sets, library, TARGET)
    return plan_delivery([], library, TARGET, previous, casts=made.files), library, made


def delivered(folder, out, document, height=""):
    plan, library, made = planned(folder, document, height=height)
    assert made.problems == []
    deliver_folder(plan, library, out, make=made.make)
    return json.loads((out / "manifest.json").read_text())


def picture(path):
    return np.asarray(Image.open(path))


def test_weights_are_read_back_and_sum_to_full_scale(folder, tmp_path):
    told = delivered(folder, tmp_path / "out", marsh())["grounds"][0]
    pixels = picture(tmp_path / "out" / told["layers"][0]["weights"])
    assert (pixels.astype(int).sum(axis=2) == 255).all()
    assert [one["channel"] for one in told["layers"]] == ["r", "g"]


def test_heights_are_read_back_in_metres(folder, tmp_path):
    pixels = np.random.default_rng(1).integers(0, 65536, (128, 128, 1)).astype(np.uint16)
    (folder / "land.png").write_bytes(encode(Texels(pixels, "y", Transfer.LINEAR), "png"))
    shape = {"kind": "map", "low": -4, "high": 12, "map": "land.png"}
    told = delivered(folder, tmp_path / "out", marsh(shape=shape), "land.png")["grounds"][0]
    assert (told["low"], told["high"], told["metres"]) == (-4, 12, 32)
    assert np.array_equal(picture(tmp_path / "out" / told["height"]), pixels[:, :, 0])


def test_the_manifest_follows_its_schema_and_tells_each_layer(folder, tmp_path):
    document = delivered(folder, tmp_path / "out", marsh())
    check_document(document, "manifest", "the manifest")
    mud = document["grounds"][0]["layers"][1]
    assert (mud["wears"], mud["tile"], mud["turn"], mud["repeat"]) == ("mud", 8, 30, "plain")
    assert all((tmp_path / "out" / path).is_file() for path in mud["maps"].values())


def test_the_material_is_what_the_maps_for_far_away_show(folder, tmp_path):
    """The sheet, evaluated on the delivered maps, against the patch drawn by itself."""
    document = marsh([one | {"edge": 0.5, "tile": 32} for one in LAYERS])
    told = delivered(folder, tmp_path / "out", document)["grounds"][0]
    sheet = parse_master(ground_master(parse_patch(document)))
    maps = {"weights1": Texels(picture(tmp_path / "out" / told["layers"][0]["weights"]), "rgba", Transfer.LINEAR)}
    for at, layer in enumerate(told["layers"]):
        for what, slot in slot_names(at).items():
            pixels = picture(tmp_path / "out" / layer["maps"][what])
            maps[slot] = Texels(pixels, "rgba" if pixels.shape[2] == 4 else "rgb", Transfer.LINEAR)
    baked = bake(sheet, maps, {}, 256, 256).maps[Role.BASE_COLOR].pixels.astype(int)
    far = picture(tmp_path / "out" / told["far"]["color"]).astype(int)
    assert np.percentile(np.abs(baked - far), 99) <= 3


def test_materialx_reads_the_material_and_finds_its_maps(folder, tmp_path):
    mx = pytest.importorskip("MaterialX")
    told = delivered(folder, tmp_path / "out", marsh())["grounds"][0]
    document = mx.createDocument()
    mx.readFromXmlFile(document, str(tmp_path / "out" / told["material"]))
    document.setDataLibrary(_standard(mx))
    assert document.validate() == (True, "")
    names = {one.getValueString() for one in document.traverseTree() if one.getAttribute("type") == "filename"}
    named = {name for name in names if name}
    assert len(named) == 7
    assert all((tmp_path / "out" / "ground" / name).is_file() for name in named)


def _standard(mx):
    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    return library


def test_only_what_a_stroke_changes_is_built_again(folder, tmp_path):
    before = delivered(folder, tmp_path / "out", marsh())
    stroke = {"layer": "Mud", "points": [[9, 9, 1]], "radius": 2, "strength": 1}
    plan, _, _ = planned(folder, marsh(strokes=[stroke]), before)
    changed = {one.path for one in plan.files if one.status == "changed"}
    assert changed == {f"ground/marsh_{what}.png" for what in ("far_color", "far_normal", "weights_1")}


def test_another_tile_size_changes_no_weights(folder, tmp_path):
    before = delivered(folder, tmp_path / "out", marsh())
    plan, _, _ = planned(folder, marsh([LAYERS[0] | {"tile": 5}, LAYERS[1]]), before)
    changed = {one.path for one in plan.files if one.status == "changed"}
    assert changed == {"ground/marsh.mtlx", "ground/marsh_far_color.png", "ground/marsh_far_normal.png"}


def test_each_layer_is_baked_once(folder, tmp_path, monkeypatch):
    counted = []
    monkeypatch.setattr(delivering, "bake", lambda *given: counted.append(given) or bake(*given))
    delivered(folder, tmp_path / "out", marsh())
    assert len(counted) == len(LAYERS)


def test_a_layer_that_wears_nothing_is_refused(folder):
    with pytest.raises(BadDocument, match="the layer Reeds wears nothing"):
        planned(folder, marsh([{"name": "Reeds", "tile": 1}]))


def test_what_the_material_cannot_say_is_told(folder, tmp_path):
    document = marsh([LAYERS[0] | {"repeat": "hexagons"}])
    assert delivered(folder, tmp_path / "out", document)["grounds"][0]["lost"] == [
        "Reeds: its tiles are not mixed against repetition"
    ]


@pytest.fixture
def marsh_file(tmp_path):
    path = tmp_path / "marsh.json"
    path.write_text(json.dumps(marsh()))
    return path


def test_the_command_measures_and_delivers(folder, tmp_path, marsh_file, capsys):
    words = ["--folder", str(folder), "--distance", "20", "--layer", "Reeds", "-o", str(tmp_path / "out"), "--json"]
    assert main(["ground", str(marsh_file), *words]) == 0
    told = json.loads(capsys.readouterr().out)
    assert sum(one["share"] for one in told["layers"]) == pytest.approx(1)
    assert [one["layer"] for one in told["repetition"]] == ["Reeds"]
    assert (tmp_path / "out" / "ground" / "Marsh.mtlx").is_file()


def test_the_command_says_which_set_is_missing(tmp_path, marsh_file, capsys):
    simple_set(tmp_path / "other", "rope")
    assert main(["ground", str(marsh_file), "--folder", str(tmp_path / "other"), "--distance", "3"]) == 2
    assert "the layer Reeds wears reeds, and the folder has no such set" in capsys.readouterr().err


def test_the_command_needs_the_height_map(tmp_path, capsys):
    path = tmp_path / "marsh.json"
    path.write_text(json.dumps(marsh(shape={"kind": "map", "low": 0, "high": 1, "map": "gone.png"})))
    assert main(["ground", str(path)]) == 2
    assert "gone.png: there is no such height map" in capsys.readouterr().err
