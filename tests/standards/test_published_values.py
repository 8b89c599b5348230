"""The core against published standards. The source stands beside each check."""

import json
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pytest

from demo.materials import MASTERS
from tests.pictures import EIGHT, random_texels, simple_set
from texel.channels import pack
from texel.cli import main
from texel.colour import decode_srgb, encode_srgb, luminance
from texel.delivery import builtin_targets, deliver_folder, parse_target, plan_delivery
from texel.files import read, write
from texel.image import Texels
from texel.library import Library
from texel.resize import resize
from texel.roles import Green, Role, Transfer
from texel.sorting import sort_files

WEB = Path(__file__).resolve().parents[2] / "web"


def test_srgb_curve():
    """IEC 61966-2-1:1999; the values of the worked examples follow from its two formulas."""
    assert decode_srgb(np.array(128 / 255)) == pytest.approx(0.21586, abs=1e-5)
    assert encode_srgb(np.array(0.5)) == pytest.approx(0.735357, abs=1e-6)
    assert decode_srgb(np.array(0.04045)) == pytest.approx(0.04045 / 12.92, abs=1e-7)
    every = np.arange(256) / 255
    np.testing.assert_allclose(encode_srgb(decode_srgb(every)), every, atol=1e-6)


def test_luminance_weights():
    """Rec. ITU-R BT.709."""
    primaries = Texels(np.eye(3, dtype=np.float32)[None], "rgb", Transfer.LINEAR)
    np.testing.assert_allclose(luminance(primaries.pixels)[0], [0.2126, 0.7152, 0.0722], atol=1e-6)


def test_colour_is_averaged_in_linear_light():
    """Half black, half white is linear 0.5, which is 188 in sRGB (IEC 61966-2-1), not 128."""
    pixels = np.zeros((2, 2, 3), np.uint8)
    pixels[:, 0] = 255
    small = resize(Texels(pixels, "rgb", Transfer.SRGB, Role.BASE_COLOR), 1, 1)
    assert small.pixels[0, 0].tolist() == [188, 188, 188]
    data = resize(Texels(pixels, "rgb", Transfer.LINEAR), 1, 1)
    assert data.pixels[0, 0].tolist() == [128, 128, 128]


def delivered(tmp_path, target="gltf", **kind):
    source = tmp_path / "in"
    simple_set(source, "deck", **kind)
    library = Library.of_folder(source)
    plan = plan_delivery(sort_files(library).sets, library, parse_target(builtin_targets()[target]))
    return deliver_folder(plan, library, tmp_path / "out")[1], library


def test_gltf_channel_order(tmp_path):
    """glTF 2.0: occlusion in R (occlusionTextureInfo), roughness in G, metallic in B (3.9.2), linear."""
    delivered(tmp_path)
    document = json.loads((tmp_path / "out/deck/deck.gltf").read_text())
    material = document["materials"][0]
    surface = material["pbrMetallicRoughness"]

    def picture(slot):
        image = document["images"][document["textures"][slot["index"]]["source"]]
        return read(tmp_path / "out/deck" / image["uri"])

    packed = picture(surface["metallicRoughnessTexture"])
    for letter, word in zip("rgb", ("ao", "r", "m"), strict=True):
        np.testing.assert_array_equal(packed.channel(letter), read(tmp_path / f"in/deck_{word}.png").channel("r"))
    assert material["occlusionTexture"] == surface["metallicRoughnessTexture"]
    assert packed.tags.declared_transfer is None
    assert picture(surface["baseColorTexture"]).tags.declared_transfer == "srgb"


@pytest.mark.parametrize("green", [Green.UP, Green.DOWN])
@pytest.mark.parametrize("target", [n for n, t in builtin_targets().items() if t.get("material", "gltf") == "gltf"])
def test_gltf_normals_are_y_up_whatever_the_target(tmp_path, target, green):
    """glTF 2.0, 3.9.3: +Y up. The delivered normal follows the target, the material's copy follows glTF."""
    from texel.normals.direction import find_direction

    manifest, _ = delivered(tmp_path, target, green=green)
    for entry in manifest["files"]:
        if entry["kind"] != "material" and entry["green"]:
            texels = read(tmp_path / "out" / entry["path"]).as_role(Role.NORMAL)
            assert find_direction(texels).green.value == entry["green"]
    document = json.loads(next((tmp_path / "out").rglob("*.gltf")).read_text())
    index = document["textures"][document["materials"][0]["normalTexture"]["index"]]["source"]
    used = next((tmp_path / "out").rglob("*.gltf")).parent / document["images"][index]["uri"]
    assert find_direction(read(used).as_role(Role.NORMAL)).green is Green.UP


VALIDATOR = """
const fs = require("fs"), path = require("path"), validator = require("gltf-validator");
const file = process.argv[1];
validator.validateBytes(new Uint8Array(fs.readFileSync(file)), {
  externalResourceFunction: (uri) =>
    Promise.resolve(new Uint8Array(fs.readFileSync(path.join(path.dirname(file), decodeURIComponent(uri))))),
}).then((report) => console.log(JSON.stringify(report.issues)));
"""


@pytest.mark.parametrize("target", list(builtin_targets()))
def test_materials_pass_the_khronos_validator(tmp_path, target):
    """npm gltf-validator, Khronos' own; no error, no warning."""
    node = shutil.which("node")
    assert node
    delivered(tmp_path, target)
    for path in (tmp_path / "out").rglob("*.gltf"):
        done = subprocess.run([node, "-e", VALIDATOR, str(path)], cwd=WEB, capture_output=True, text=True, check=True)
        issues = json.loads(done.stdout)
        assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"]


@pytest.mark.parametrize("document", MASTERS, ids=lambda one: one["name"])
def test_baked_masters_pass_the_khronos_validator(tmp_path, document):
    """npm gltf-validator; KHR_materials_emissive_strength for what shines brighter than a map holds."""
    (tmp_path / "master.json").write_text(json.dumps(document))
    words = ["bake", tmp_path / "master.json", "--gltf", "--size", "32x16", "-o", tmp_path / "out"]
    if document["name"] == "lamp-glass":
        glow = Texels(np.full((4, 4, 3), 255, np.uint8), "rgb", Transfer.SRGB)
        write(glow, tmp_path / "glow.png")
        words += ["--map", f"glow={tmp_path / 'glow.png'}"]
    assert main([str(word) for word in words]) == 0
    path = tmp_path / "out" / f"{document['name']}.gltf"
    done = subprocess.run(
        [shutil.which("node") or "", "-e", VALIDATOR, str(path)], cwd=WEB, capture_output=True, text=True, check=True
    )
    issues = json.loads(done.stdout)
    assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"]
    (material,) = json.loads(path.read_text())["materials"]
    mode = {"cut_out": "MASK", "blend": "BLEND"}.get(document.get("opacity", {}).get("mode"))
    assert material.get("alphaMode") == mode
    strength = material.get("extensions", {}).get("KHR_materials_emissive_strength", {}).get("emissiveStrength")
    assert strength == (4 if document["name"] == "lamp-glass" else None)


def test_gloss_is_one_minus_roughness_and_back(tmp_path):
    """Common practice: gloss = smoothness = 1 - roughness. Exact for integers."""
    source = tmp_path / "in"
    simple_set(source, "tile")
    (source / "tile_r.png").rename(source / "tile_gloss.png")
    library = Library.of_folder(source)
    sets = sort_files(library).sets
    for name, letter, inverted in (("orm-y-minus", "g", True), ("metal-rough-gloss-y-plus", "a", False)):
        plan = plan_delivery(sets, library, parse_target(builtin_targets()[name]))
        from texel.delivery.build import packed_texels

        planned = next(f for f in plan.files if f.output in ("orm", "Surface"))
        gloss = read(source / "tile_gloss.png").channel("r")
        np.testing.assert_array_equal(
            packed_texels(planned, library).channel(letter), 255 - gloss if inverted else gloss
        )


def test_packed_map_read_as_srgb_is_the_wet_look():
    """0.5 roughness read as sRGB is 0.21586 (follows from IEC 61966-2-1); common practice calls it wet."""
    half = Texels(np.full((2, 2, 1), 128, np.uint8), "y", Transfer.LINEAR, Role.ROUGHNESS)
    from texel.channels import spell_layout

    packed = pack(spell_layout("orm"), {Role.ROUGHNESS: half})
    assert float(decode_srgb(packed.channel("g") / 255)[0, 0]) == pytest.approx(0.21586, abs=1e-5)


def test_linear_data_given_where_srgb_is_meant_is_an_error():
    texels = random_texels("rgb", EIGHT)
    with pytest.raises(Exception, match="holds linear numbers"):
        texels.require(Transfer.SRGB, "a colour row")
