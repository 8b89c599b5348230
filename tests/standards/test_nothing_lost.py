"""Nothing is lost without a word: every input, slot, parameter, layer and cast of a sheet is in the written file, read
back by somebody else's library, or named in what is lost."""

import io
import json
import re

import MaterialX as mx
import numpy as np
import pygltflib
import pytest
from PIL import Image
from pxr import Sdf, Usd, UsdShade

from demo.materials import MASTERS
from tests.sheets import random_master
from texel.materials import INPUTS, evaluate, parse_master
from texel.materials.exchange import BakeOrder, FilledCast, export, export_maps
from texel.materials.versions import sample_maps

SIDE = 8
# Of a baked map or factor, the inputs that it stands for.
_GLTF = {
    "base_color": ("baseColorTexture", "baseColorFactor"), "metallic": ("metallicRoughnessTexture", "metallicFactor"),
    "roughness": ("metallicRoughnessTexture", "roughnessFactor"), "normal": ("normalTexture",),
    "normal_strength": ("normalTexture",), "occlusion": ("occlusionTexture",),
    "occlusion_strength": ("occlusionTexture",), "emissive": ("emissiveTexture", "emissiveFactor"),
    "emissive_strength": ("emissiveTexture", "emissiveFactor"), "opacity": ("alphaMode",),
    "cut_off": ("alphaCutoff",),
} | {name: tuple(filter(None, one.gltf[1:3])) for name, one in INPUTS.items() if one.gltf}  # fmt: skip
_USD = {
    "base_color": "diffuseColor", "metallic": "metallic", "roughness": "roughness", "normal": "normal",
    "normal_strength": "normal", "occlusion": "occlusion", "occlusion_strength": "occlusion",
    "emissive": "emissiveColor", "emissive_strength": "emissiveColor", "opacity": "opacity",
} | {name: one.usd for name, one in INPUTS.items() if one.usd}  # fmt: skip


def _second_set(document):
    """The sheet with some slots read at UV set 1."""
    places = [{"name": "main", "tiling": "tiling", "rotation": "turn"}, {"name": "light", "uv_set": 1}]
    slots = [one | ({"coordinates": "light"} if one["name"] == "pack" else {}) for one in document["slots"]]
    return document | {"coordinates": places, "slots": slots}


MASTERS_HERE = [parse_master(one) for one in MASTERS] + [
    parse_master(_second_set(random_master(seed).document) | {"opacity": {"mode": mode}})
    for seed, mode in zip(range(12), ("opaque", "cut_out", "blend") * 4, strict=True)
]
by_name = pytest.mark.parametrize("master", MASTERS_HERE, ids=lambda one: one.name)


def _casts(master):
    maps = sample_maps(master, SIDE)
    return [FilledCast("Plain", {}, maps), FilledCast("Bare & new", {}, {})]


def _told(master, name, lost):
    return any(one.startswith(f"{INPUTS[name].label}:") for one in lost)


def _all_named(master, lost, *, slots=()):
    text = "\n".join(lost)
    for name in [*master.parameters, *(one for one in master.slots if one not in slots)]:
        assert re.search(rf"\b{name}\b", text), name
    for layer in master.document.get("layers", []):
        assert (layer.get("title") or layer["name"]) in text


@by_name
def test_gltf_holds_it_or_says_so(master):
    made = export(master, "glb", "look", _casts(master), SIDE)
    read = pygltflib.GLTF2.load_from_bytes(next(iter(made.files.values())))
    assert [one.name for one in read.materials] == ["Plain", "Bare & new"]
    for material in read.materials:
        held = material.to_json()
        for name in master.inputs:
            keys = _GLTF.get(name, ())
            neutral = not _told(master, name, made.lost) and _is_neutral(master, name, material.name)
            assert any(f'"{key}"' in held for key in keys) or _told(master, name, made.lost) or neutral, name
    images = {one.name for one in read.images}
    _all_named(master, made.lost, slots={name for name, one in master.slots.items() if one.title in images})


def _is_neutral(master, name, cast):
    """An input that computes to what the surface has anyway needs no word."""
    maps = sample_maps(master, SIDE) if cast == "Plain" else {}
    made = evaluate(parse_master(master.document), maps, {}, SIDE, SIDE)[name]
    return abs(made - INPUTS[name].neutral).max() < 1e-6


@by_name
def test_usd_holds_it_or_says_so(master):
    made = export(master, "usda", "look", _casts(master), SIDE)
    layer = Sdf.Layer.CreateAnonymous(".usda")
    assert layer.ImportFromString(made.files["look.usda"].decode())
    stage = Usd.Stage.Open(layer)
    shaders = [UsdShade.Shader(one) for one in stage.Traverse() if one.GetName() == "Surface"]
    held = {given.GetBaseName() for one in shaders for given in one.GetInputs()}
    for name in master.inputs:
        assert _USD.get(name) in held or _told(master, name, made.lost), name
    titles = {one.GetDisplayName() for one in stage.Traverse()}
    assert {"Plain", "Bare & new"} <= titles
    _all_named(master, made.lost)


@by_name
def test_materialx_holds_it_or_says_so(master):
    made = export(master, "mtlx", "look", _casts(master), SIDE)
    document = mx.createDocument()
    mx.readFromXmlString(document, made.files["look.mtlx"].decode())
    sheet = next(one for one in document.getNodeDefs() if one.hasAttribute("ft_name"))
    given = {one.getName() for one in sheet.getInputs()}
    assert given == {*master.parameters, *master.slots}
    assert len(sheet.getOutputs()) == len(master.inputs)
    assert {one.getAttribute("uiname") or one.getName() for one in document.getMaterialNodes()} == {
        "Plain",
        "Bare & new",
    }
    assert sheet.hasAttribute("ft_layers") == ("layers" in master.document)
    files = {
        one.getValueString() for one in document.traverseTree() if one.isA(mx.Input) and one.getType() == "filename"
    }
    assert {one for one in files if one} <= set(made.files)


@by_name
def test_glsl_holds_it_or_says_so(master):
    made = export(master, "glsl", "look", _casts(master), SIDE)
    code = made.files["look.glsl"].decode()
    assert all(f"made.{name} = " in code for name in INPUTS)
    assert all(f" u_{name};" in code for name in master.parameters)
    assert all(f" m_{name};" in code for name in master.slots)
    told = json.loads(made.files["look_bare_new.json"])
    assert told["cast"] == "Bare & new"
    assert len(told["samplers"]) == len(master.slots)
    for layer in master.document.get("layers", []):
        assert any((layer.get("title") or layer["name"]) in one for one in made.lost)


@by_name
def test_maps_hold_it_or_say_so(master):
    made = export_maps(master, _casts(master), BakeOrder(SIDE, SIDE))
    for path, body in made.files.items():
        assert Image.open(io.BytesIO(body)).size == (SIDE, SIDE), path
    for name in master.inputs:
        whole = name.removesuffix("_strength")
        assert f"plain_{whole}.png" in made.files or _told(master, name, made.lost), name
    _all_named(master, made.lost)


@pytest.mark.parametrize(
    ("expression", "places", "word"),
    [
        ("vertex.r", {}, "Vertex colour: baked maps have 0.25, 0.5, 0.75, 1 everywhere"),
        ("dirt.r", {"uv_set": 1}, "UV set 1: dirt"),
        ("dirt.r", {"rotation": 30}, "Tiling: the baked maps do not repeat, since dirt"),
        ("dirt.r", {"tiling": [1.5, 2]}, "Tiling: the baked maps do not repeat, since dirt"),
    ],
)
def test_what_baked_maps_cannot_follow_is_told(expression, places, word):
    master = parse_master(
        {
            "format": "fair-texel/master", "version": 1, "name": "worn", "inputs": {"roughness": f"{expression} * 0.5"},
            "slots": [{"name": "dirt", "role": "detail_mask"}], "coordinates": [{"name": "main", **places}],
        }
    )  # fmt: skip
    casts = [FilledCast("Plain", {}, sample_maps(master, SIDE))]
    for kind in ("glb", "usda"):
        made = export(master, kind, "look", casts, SIDE, (0.25, 0.5, 0.75, 1.0))
        assert any(one.startswith(word) for one in made.lost), made.lost


def test_the_given_vertex_colour_is_baked():
    document = {"format": "fair-texel/master", "version": 1, "name": "worn", "inputs": {"roughness": "vertex.g"}}
    order = BakeOrder(4, 4, vertex=(0.0, 0.5, 0.0, 1.0))
    made = export_maps(parse_master(document), [FilledCast("Plain", {}, {})], order)
    assert np.unique(Image.open(io.BytesIO(made.files["plain_roughness.png"]))).tolist() == [128]


@pytest.mark.parametrize("places", [{}, {"tiling": [2, 3]}, {"rotation": 90}, {"tiling": [2, 2], "rotation": -180}])
def test_what_repeats_is_not_told(places):
    master = parse_master(
        {
            "format": "fair-texel/master", "version": 1, "name": "worn", "inputs": {"roughness": "dirt.r * 0.5"},
            "slots": [{"name": "dirt", "role": "detail_mask"}], "coordinates": [{"name": "main", **places}],
        }
    )  # fmt: skip
    made = export(master, "usda", "look", [FilledCast("Plain", {}, sample_maps(master, SIDE))], SIDE)
    assert not any(one.startswith("Tiling") for one in made.lost)
