"""Sheets in OpenPBR's surface (OpenPBR Surface 1.1, as MaterialX 1.39 ships it): valid, and read back alike."""

import json

import MaterialX as mx
import numpy as np
import pytest

from texel.cli import main
from texel.materials import INPUTS, evaluate, parse_master
from texel.materials.exchange import export, materialx_of, problems_of, read_materialx
from texel.materials.exchange.mtlx_document import library
from texel.materials.exchange.mtlx_shaders import GLTF_SURFACE, OPEN_PBR
from texel.materials.ready import ready_masters
from texel.materials.versions import sample_maps

SLOTS = [{"name": "colour", "role": "base_color"}, {"name": "pack", "layout": "occlusion-roughness-metallic"},
         {"name": "bumps", "role": "normal"}]  # fmt: skip
# Everything at once, each from a map; numbers that no other input has.
INPUTS_OF_ALL = {
    "base_color": "colour", "metallic": "pack.b", "roughness": "pack.g", "normal": "bumps", "occlusion": "pack.r",
    "emissive": "colour * 0.5", "emissive_strength": "2.5", "specular": "pack.r * 0.5", "coat": "pack.g * 0.3",
    "coat_roughness": "pack.b * 0.7", "sheen": "colour.bgr * 0.6", "transmission": "pack.r * 0.4", "ior": "1.33",
    "specular_color": "colour.gbr", "coat_normal": "bumps", "sheen_roughness": "pack.b", "anisotropy": "pack.g * 0.9",
    "subsurface": "pack.b * 0.2", "subsurface_color": "colour.brg", "opacity": "pack.r",
}  # fmt: skip


OF_ALL = {
    "format": "fair-texel/master", "version": 1, "name": "all", "slots": SLOTS, "inputs": INPUTS_OF_ALL,
    "opacity": {"mode": "blend"},
}  # fmt: skip


def sheet(inputs=INPUTS_OF_ALL, **more):
    return parse_master(OF_ALL | {"inputs": inputs} | more)


def document(master, surface=OPEN_PBR):
    made = mx.createDocument()
    mx.readFromXmlString(made, materialx_of(master, (), surface))
    return made


def surface_of(master, surface=OPEN_PBR):
    return document(master, surface).getNodeGraph(f"NG_{master.name}_surface").getNode("surface")


@pytest.mark.parametrize("ready", ready_masters())
def test_ready_made_masters_are_valid(ready):
    made = document(parse_master(ready_masters()[ready]))
    made.importLibrary(library())
    assert problems_of(made) == []


def test_what_a_sheet_gives_is_read_back_by_the_names_of_openpbr():
    """As somebody else's document: what is ours alone in it is taken out."""
    master = sheet()
    text = materialx_of(master, (), OPEN_PBR).replace("ft_name", "other_name")
    (found,) = read_materialx(text)
    assert not found.own
    maps = sample_maps(master)
    back = parse_master(found.document)
    theirs = {slot: maps[ours] for slot, ours in zip(back.slots, master.slots, strict=True)}
    with np.errstate(all="ignore"):
        wanted, made = evaluate(master, maps, {}, 32, 32), evaluate(back, theirs, {}, 32, 32)
    for name in INPUTS_OF_ALL:
        if name not in ("occlusion", "emissive", "emissive_strength"):
            # Normals of eight bits are not of length 1; who reads them makes them so.
            near = 1 / 127 if INPUTS[name].meaning == "normal" else 1e-4
            assert np.abs(made[name] - wanted[name]).max() < near, name
    glow = [one["emissive"] * one["emissive_strength"] for one in (made, wanted)]
    assert np.abs(glow[0] - glow[1]).max() < 1e-4


def test_every_input_that_openpbr_has_is_written():
    written = {one.getName() for one in surface_of(sheet()).getInputs()}
    assert {one.openpbr for one in INPUTS.values() if one.openpbr} <= written
    assert {"emission_luminance", "fuzz_weight", "transmission_color", "geometry_opacity"} <= written


def test_a_cut_out_is_there_or_not():
    master = sheet({"base_color": "colour", "opacity": "pack.r"}, opacity={"mode": "cut_out", "cut_off": 0.3})
    body = document(master).getNodeGraph("NG_all_surface")
    node = body.getNode(surface_of(master).getInput("geometry_opacity").getNodeName())
    assert (node.getCategory(), node.getInput("value2").getValueString()) == ("ifgreatereq", "0.3")
    (found,) = read_materialx(materialx_of(master, (), OPEN_PBR))
    assert parse_master(found.document) == master


def test_a_turn_of_anisotropy_is_a_whole_turn_in_both_surfaces():
    """The glTF surface takes radians (MaterialX 1.39, gltf_pbr.mtlx: 0 to 6.283185) and turns its tangent against
    rotate3d, by -57.29578 degrees a radian; OpenPBR takes the tangent."""
    master = sheet({"anisotropy": "0.5", "anisotropy_rotation": "0.25"})
    gltf = document(master, GLTF_SURFACE).getNodeGraph("NG_all_surface")
    by = gltf.getNode(gltf.getNode("surface").getInput("anisotropy_rotation").getNodeName())
    assert float(by.getInput("in2").getValueString()) == pytest.approx(2 * np.pi)
    open_pbr = document(master).getNodeGraph("NG_all_surface")
    turned = [one for one in open_pbr.getNodes() if one.getCategory() == "rotate3d"]
    amount = open_pbr.getNode(turned[0].getInput("amount").getNodeName())
    assert float(amount.getInput("in2").getValueString()) == pytest.approx(-57.29578 * 2 * np.pi, rel=1e-6)


def test_sheen_is_a_fuzz_of_its_strongest_channel():
    written = {one.getName(): one for one in surface_of(sheet({"sheen": "colour"})).getInputs()}
    assert "fuzz_weight" in written
    assert "fuzz_weight" not in {one.getName() for one in surface_of(sheet({"base_color": "colour"})).getInputs()}


def test_occlusion_is_told_as_lost():
    lost = export(sheet(), "openpbr", "look", ()).lost
    assert [one.split(":")[0] for one in lost] == ["Occlusion"]


def test_the_command_line_writes_it(tmp_path, capsys):
    master = tmp_path / "m.json"
    master.write_text(json.dumps(sheet().document))
    assert main(["material", "export", str(master), "--openpbr", "-o", str(tmp_path / "m.mtlx")]) == 0
    assert "open_pbr_surface" in (tmp_path / "m.mtlx").read_text()
    capsys.readouterr()
    assert main(["material", "export", str(master), "--openpbr", "-o", str(tmp_path / "m.glb")]) == 2
    assert "--openpbr is for files that end in .mtlx" in capsys.readouterr().err
