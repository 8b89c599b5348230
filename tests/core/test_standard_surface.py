"""The standard surface through the formats: every input goes out and comes back, by a number, by a map, or is told."""

import json
import struct

import numpy as np
import pytest

from tests.sheets import operation_master
from texel.image import Texels
from texel.materials import INPUTS, evaluate, parse_master
from texel.materials.baking import bake_input
from texel.materials.exchange import FilledCast, export, glb_of, materialx_of, read_gltf, read_materialx
from texel.roles import Role, Transfer

MORE = [name for name, one in INPUTS.items() if one.on_demand and name != "cut_off"]
LEAF = {"name": "leaf", "role": "base_color"}


def sheet(inputs, **more):
    return parse_master({"format": "fair-texel/master", "version": 1, "name": "probe", "inputs": inputs, **more})


def number_for(name):
    one = INPUTS[name]
    low, high = one.bounds
    parts = [low + (high - low) * share for share in (0.375, 0.5, 0.75)]
    return parts[0] if one.size == 1 else parts


def text_for(name):
    given = number_for(name)
    return f"rgb({given[0]}, {given[1]}, {given[2]})" if INPUTS[name].size == 3 else f"{given}"


def gltf_document(data):
    length = struct.unpack("<I", data[12:16])[0]
    return json.loads(data[20 : 20 + length])


@pytest.mark.parametrize("name", [one for one in MORE if INPUTS[one].meaning != "normal"])
def test_a_number_goes_through_gltf_and_back(name):
    master = sheet({name: text_for(name)})
    written = glb_of(master, [FilledCast("Look", {}, {})], 4)
    assert written.lost == ()
    (extension,) = gltf_document(written.data)["materials"][0]["extensions"]
    assert extension == INPUTS[name].gltf.extension
    (found,) = read_gltf(written.data)
    made = evaluate(parse_master(found.document), {}, {}, 1, 1)[name]
    np.testing.assert_allclose(made.ravel(), np.ravel(number_for(name)), atol=1e-6)


@pytest.mark.parametrize("name", [one for one in MORE if INPUTS[one].gltf.texture and INPUTS[one].meaning != "normal"])
def test_what_varies_is_baked_where_the_extension_has_a_map(name):
    grey = Texels(np.arange(16, dtype=np.uint8).reshape(4, 4, 1) * 16, "y", Transfer.LINEAR, Role.HEIGHT)
    master = sheet({name: "1 - lie * 0.5"}, slots=[{"name": "lie", "role": "height"}])
    written = glb_of(master, [FilledCast("Look", {}, {"lie": grey})], 4)
    assert not [one for one in written.lost if one.startswith(INPUTS[name].label)]
    held = gltf_document(written.data)["materials"][0]["extensions"][INPUTS[name].gltf.extension]
    assert INPUTS[name].gltf.texture in held
    (found,) = read_gltf(written.data)
    (slot,) = found.document["slots"]
    letters = INPUTS[name].gltf.letters
    assert found.document["inputs"][name] in (f"{slot['name']}.{letters}", slot["name"])


def test_a_slots_own_map_goes_into_an_extension_as_it_is():
    colour = Texels(np.full((2, 2, 3), 128, np.uint8), "rgb", Transfer.SRGB, Role.BASE_COLOR)
    master = sheet({"sheen": "leaf * rgb(0.5, 0.25, 1)"}, slots=[LEAF])
    held = gltf_document(glb_of(master, [FilledCast("Cloth", {}, {"leaf": colour})], 4).data)
    sheen = held["materials"][0]["extensions"]["KHR_materials_sheen"]
    assert sheen["sheenColorFactor"] == [0.5, 0.25, 1]
    assert len(held["images"]) == 1


def test_the_coats_own_normals_go_out_and_come_back():
    bumps = Texels(np.full((2, 2, 3), (200, 128, 230), np.uint8), "rgb", Transfer.LINEAR, Role.NORMAL)
    master = sheet({"coat": "1", "coat_normal": "ripples"}, slots=[{"name": "ripples", "role": "normal"}])
    cast = FilledCast("Boat", {}, {"ripples": bumps})
    coat = gltf_document(glb_of(master, [cast], 4).data)["materials"][0]["extensions"]["KHR_materials_clearcoat"]
    assert "clearcoatNormalTexture" in coat
    (found,) = read_gltf(glb_of(master, [cast], 4).data)
    assert found.document["inputs"]["coat_normal"]


def test_anisotropy_varying_is_told_since_gltf_means_a_direction_by_its_map():
    written = glb_of(sheet({"anisotropy": "uv.x"}), [FilledCast("Brushed", {}, {})], 4)
    assert any(one.startswith("Anisotropy: glTF takes one number") for one in written.lost)


@pytest.mark.parametrize("name", MORE)
def test_own_materialx_comes_back_with_every_input(name):
    text = "normalise(vector(0, 0, 1))" if INPUTS[name].meaning == "normal" else text_for(name)
    master = sheet({name: text})
    (found,) = read_materialx(materialx_of(master))
    assert parse_master(found.document) == master
    assert INPUTS[name].materialx == "" or f'name="{INPUTS[name].materialx}"' in materialx_of(master)


def test_cut_off_and_refraction_are_parameters_of_a_cast_in_materialx():
    parameters = [
        {"name": "edge", "kind": "number", "default": 0.4, "low": 0, "high": 1},
        {"name": "bend", "kind": "number", "default": 1.33, "low": 1, "high": 3},
    ]
    inputs = {"opacity": "leaf.a", "cut_off": "edge", "ior": "bend"}
    master = sheet(inputs, slots=[LEAF], parameters=parameters, opacity={"mode": "cut_out", "cut_off": 0.3})
    text = materialx_of(master)
    assert 'name="alpha_cutoff" type="float" interfacename="edge"' in text
    assert 'name="ior" type="float" interfacename="bend"' in text
    (found,) = read_materialx(text)
    assert parse_master(found.document) == master
    changed = glb_of(master, [FilledCast("Thin", {"edge": (0.7,)}, {})], 4)
    assert gltf_document(changed.data)["materials"][0]["alphaCutoff"] == 0.7


def test_what_the_gltf_surface_of_materialx_lacks_is_told():
    lost = export(sheet({"subsurface": "0.5", "ior": "1 + uv.x"}), "mtlx", "look", ()).lost
    assert any(one.startswith("Subsurface:") for one in lost)
    assert any(one.startswith("Index of refraction:") for one in lost)


def test_usd_holds_coat_and_refraction_as_numbers_that_casts_override():
    parameters = [{"name": "bend", "kind": "number", "default": 1.5, "low": 1, "high": 3}]
    master = sheet({"ior": "bend", "coat": "0.75", "coat_roughness": "uv.x"}, parameters=parameters)
    casts = [FilledCast("Glass", {}, {}), FilledCast("Water", {"bend": (1.33,)}, {})]
    made = export(master, "usda", "look", casts, 4)
    text = made.files["look.usda"].decode()
    assert "float inputs:ior = 1.5" in text
    assert "float inputs:ior = 1.33" in text
    assert "float inputs:clearcoat = 0.75" in text
    assert any(one.startswith("Coat roughness:") for one in made.lost)


@pytest.mark.parametrize(
    ("surface", "inputs", "wanted"),
    [
        ("standard_surface", {"specular_IOR": "1.33", "transmission": "0.5", "coat_normal": None},
         {"ior": 1.33, "transmission": 0.5}),
        ("standard_surface", {"sheen": "1", "sheen_roughness": "0.4", "specular_anisotropy": "0.25"},
         {"sheen_roughness": 0.4, "anisotropy": 0.25}),
        ("open_pbr_surface", {"specular_ior": "1.4", "subsurface_weight": "0.5", "transmission_weight": "0.25"},
         {"ior": 1.4, "subsurface": 0.5, "transmission": 0.25}),
        ("gltf_pbr", {"anisotropy_rotation": "3.14159265", "sheen_roughness": "0.3", "ior": "1.2"},
         {"anisotropy_rotation": 0.5, "sheen_roughness": 0.3, "ior": 1.2}),
    ],
)  # fmt: skip
def test_surfaces_of_the_library_are_read_with_all_they_say(surface, inputs, wanted):
    given = "".join(
        f'<input name="{name}" type="float" value="{value}" />' for name, value in inputs.items() if value is not None
    )
    text = (
        '<?xml version="1.0"?><materialx version="1.39">'
        f'<{surface} name="look" type="surfaceshader">{given}</{surface}>'
        '<surfacematerial name="m" type="material"><input name="surfaceshader" type="surfaceshader" nodename="look" />'
        "</surfacematerial></materialx>"
    )
    (found,) = read_materialx(text)
    assert found.lost == ()
    made = evaluate(parse_master(found.document), {}, found.casts[0].changes if found.casts else {}, 1, 1)
    for name, value in wanted.items():
        assert made[name].ravel()[0] == pytest.approx(value, abs=1e-5), name


def test_an_input_baked_by_compiled_loops_is_the_same(monkeypatch):
    master = operation_master("mix")
    slow = bake_input(master, {}, {}, 16, "emissive")
    monkeypatch.setattr("texel.materials.baking._LARGE", 1)
    np.testing.assert_array_equal(bake_input(master, {}, {}, 16, "emissive").pixels, slow.pixels)


@pytest.mark.parametrize("text", ["lie", "bend * 2", "row", "on", "uv.x"])
def test_refraction_that_is_no_number_and_no_parameter_is_told_in_materialx(text):
    master = sheet(
        {"ior": text}, slots=[{"name": "lie", "role": "height"}], rows=[{"name": "row", "expression": "1 + lie"}],
        parameters=[{"name": "bend", "kind": "number", "default": 1.2},
                    {"name": "on", "kind": "switch", "default": True}],
    )  # fmt: skip
    assert any(one.startswith("Index of refraction:") for one in export(master, "mtlx", "look", ()).lost)


@pytest.mark.parametrize("text", ["bend", "1.4", "row"])
def test_refraction_that_is_one_number_or_a_parameter_is_written_whole(text):
    parameters = [{"name": "bend", "kind": "number", "default": 1.4}]
    master = sheet({"ior": text}, parameters=parameters, rows=[{"name": "row", "expression": "1 + 0.4"}])
    made = export(master, "mtlx", "look", ())
    assert made.lost == ()
    given = 'interfacename="bend"' if text == "bend" else 'value="1.4'
    assert f'name="ior" type="float" {given}' in made.files["look.mtlx"].decode()
