"""Exported MaterialX: valid by its own library, and drawn by its own generated shaders as NumPy computes it."""

import os
import subprocess
import sys
from pathlib import Path

import MaterialX as mx
import numpy as np
import pytest
from PIL import Image

from tests.agreement import SIDE, STEP, apart, computed, rgba, shaken
from tests.sheets import function_master, operation_master, random_master
from texel.materials import INPUTS, OPERATIONS, parse_master
from texel.materials.exchange import CastOf, materialx_of, output_name, problems_of, read_materialx
from texel.materials.ready import ready_masters
from texel.materials.versions import sample_maps

# Off screen, in software; without the override the driver blurs with its widest filter (measured: up to 200/255).
_SOFTWARE = {
    "LIBGL_ALWAYS_SOFTWARE": "1",
    "MESA_EXTENSION_OVERRIDE": "-GL_EXT_texture_filter_anisotropic -GL_ARB_texture_filter_anisotropic",
}
_TURNED = {
    "format": "fair-texel/master", "version": 1, "name": "turned",
    "slots": [{"name": "lie", "role": "height"}, {"name": "bumps", "role": "normal"}],
    "coordinates": [{"name": "main", "tiling": [0.75, 0.5], "offset": [0.1, 0.3], "rotation": 33}],
    "inputs": {"height": "lie", "normal": "bumps"},
}  # fmt: skip
# Read smaller levels of what is tiled, or read where sixteen reads between texels say, each weighed in steps of 1/256.
_NOT_HELD = ("cloth", "water-flow", "parallax")


def as_data(document):
    """The document with its colours' slots read as linear."""
    if "layers" in document:
        layers = [one | {"sheet": as_data(one["sheet"])} for one in document["layers"]]
        return document | {"layers": layers}
    return document | {"slots": [one | {"colour_space": "linear"} for one in document["slots"]]}


_SHEETS = {f"random_{seed}": random_master(seed, 90 * (seed % 4)) for seed in range(40)}
# Maps as data: MaterialX averages before the sheet decodes, which differs between texels.
_SHEETS |= {
    f"ready_{name}": parse_master(as_data(one)) for name, one in ready_masters().items() if name not in _NOT_HELD
}
_SHEETS |= {f"operation_{name}": operation_master(name) for name in OPERATIONS}
_SHEETS["functions"] = function_master()
# A graph that others might have drawn: every value goes through nodes that a sheet has no word for.
_FOREIGN = """<?xml version="1.0"?>
<materialx version="1.39" colorspace="lin_rec709">
  <nodegraph name="foreign">
    <input name="worn" type="float" value="0.35" uimin="0" uimax="1" uiname="Worn" uifolder="Age" />
    <input name="dye" type="color3" value="0.9, 0.4, 0.2" />
    <texcoord name="st" type="vector2" />
    <place2d name="laid" type="vector2">
      <input name="texcoord" type="vector2" nodename="st" />
      <input name="scale" type="vector2" value="-1, 1" />
      <input name="rotate" type="float" value="90" />
      <input name="offset" type="vector2" value="0.25, 0.5" />
    </place2d>
    <image name="paint" type="color3">
      <input name="file" type="filename" value="foreign-paint.png" colorspace="srgb_texture" />
      <input name="texcoord" type="vector2" nodename="laid" />
    </image>
    <tiledimage name="packed" type="color3">
      <input name="file" type="filename" value="foreign-packed.png" />
      <input name="uvoffset" type="vector2" value="0.125, 0.25" />
    </tiledimage>
    <separate3 name="apart" type="multioutput"><input name="in" type="color3" nodename="packed" /></separate3>
    <saturate name="faded" type="color3">
      <input name="in" type="color3" nodename="paint" /><input name="amount" type="float" value="0.4" />
    </saturate>
    <multiply name="dyed" type="color3">
      <input name="in1" type="color3" nodename="faded" /><input name="in2" type="color3" interfacename="dye" />
    </multiply>
    <contrast name="harder" type="float">
      <input name="in" type="float" nodename="apart" output="outg" /><input name="amount" type="float" value="1.5" />
    </contrast>
    <remap name="spread" type="float">
      <input name="in" type="float" nodename="harder" />
      <input name="outlow" type="float" interfacename="worn" /><input name="outhigh" type="float" value="0.9" />
    </remap>
    <ifgreater name="metal" type="float">
      <input name="value1" type="float" nodename="apart" output="outb" />
      <input name="value2" type="float" value="0.52" />
      <input name="in1" type="float" value="0.8" /><input name="in2" type="float" value="0.1" />
    </ifgreater>
    <modulo name="striped" type="float">
      <input name="in1" type="float" nodename="apart" output="outr" /><input name="in2" type="float" value="0.3" />
    </modulo>
    <overlay name="laid_over" type="float">
      <input name="fg" type="float" nodename="striped" /><input name="bg" type="float" nodename="harder" />
      <input name="mix" type="float" value="0.7" />
    </overlay>
    <cos name="waved" type="float"><input name="in" type="float" nodename="laid_over" /></cos>
    <output name="base_color" type="color3" nodename="dyed" />
    <output name="roughness" type="float" nodename="spread" />
    <output name="metallic" type="float" nodename="metal" />
    <output name="occlusion" type="float" nodename="waved" />
  </nodegraph>
  <gltf_pbr name="surface" type="surfaceshader">
    <input name="base_color" type="color3" nodegraph="foreign" output="base_color" />
    <input name="roughness" type="float" nodegraph="foreign" output="roughness" />
    <input name="metallic" type="float" nodegraph="foreign" output="metallic" />
    <input name="occlusion" type="float" nodegraph="foreign" output="occlusion" />
  </gltf_pbr>
  <surfacematerial name="old_tin" type="material">
    <input name="surfaceshader" type="surfaceshader" nodename="surface" />
  </surfacematerial>
</materialx>
"""
_SHEETS["turned"] = parse_master(_TURNED)
_SHEETS["alone"] = parse_master(
    {"format": "fair-texel/master", "version": 1, "name": "alone", "inputs": {"roughness": "uv.r * 0.5"}}
)
_SHEETS["two_colours"] = parse_master(
    {
        "format": "fair-texel/master", "version": 1, "name": "two_colours",
        "slots": [{"name": "dye", "role": "base_color"}, {"name": "glow", "role": "emissive"}],
        "inputs": {"base_color": "dye", "emissive": "glow * dye.g", "opacity": "dye.a"},
    }
)  # fmt: skip


@pytest.fixture(scope="module")
def drawn(tmp_path_factory):
    """Every input of every sheet, by MaterialX; one process for all, since its set-up takes longer than a sheet."""
    folder = tmp_path_factory.mktemp("materialx")
    for name, master in _SHEETS.items():
        (folder / f"{name}.mtlx").write_text(materialx_of(master))
        for slot, texels in sample_maps(master, SIDE).items():
            Image.fromarray(rgba(texels)).save(folder / f"{name}-{slot}.png")
    (folder / "foreign.mtlx").write_text(_FOREIGN)
    for slot, texels in _foreign_maps(read_materialx(_FOREIGN)[0]).items():
        Image.fromarray(rgba(texels)[:, :, :3]).save(folder / f"foreign-{slot}.png")
    program = [sys.executable, str(Path(__file__).with_name("materialx_renderer.py")), str(folder)]
    done = subprocess.run(
        ["xvfb-run", "-a", *program], env={**os.environ, **_SOFTWARE}, capture_output=True, text=True, timeout=600
    )
    assert done.returncode == 0, done.stderr[-2000:]
    return {name: np.load(folder / f"{name}.npz") for name in [*_SHEETS, "foreign"]}


def _foreign_maps(found):
    return sample_maps(parse_master(found.document), SIDE)


@pytest.mark.parametrize("name", _SHEETS)
def test_materialx_draws_what_numpy_computes(drawn, name):
    master = _SHEETS[name]
    maps = sample_maps(master, SIDE)
    wanted, off = computed(master, maps), shaken(master, maps)
    for one in master.inputs:
        made = drawn[name][output_name(one)][:, :, : INPUTS[one].size]
        # Between texels hardware weighs in steps of 1/256 along both axes; the waves differ by tens of steps of 8 bits
        # from texel to texel, and a vector spans twice as far as what is stored.
        between = name == "turned" or name.startswith("ready_")
        near = (3 if INPUTS[one].meaning == "normal" else 2) * STEP if between else STEP
        assert np.nanmax(np.where(off[one], 0, apart(made, wanted[one]))) <= near, one


def test_a_foreign_graph_is_read_as_materialx_draws_it(drawn):
    (found,) = read_materialx(_FOREIGN)
    assert found.lost == ()
    assert {one["name"] for one in found.document["parameters"]} == {"worn", "dye"}
    assert found.casts[0].files == {"paint": "foreign-paint.png", "packed": "foreign-packed.png"}
    master = parse_master(found.document)
    maps = _foreign_maps(found)
    wanted, off = computed(master, maps), shaken(master, maps)
    for name in ("base_color", "roughness", "metallic", "occlusion"):
        made = drawn["foreign"][name][:, :, : INPUTS[name].size]
        assert np.nanmax(np.where(off[name], 0, apart(made, wanted[name]))) <= STEP, name
        assert np.ptp(made) > 0.1, f"{name} would agree whatever it was"


@pytest.mark.parametrize("name", _SHEETS)
def test_documents_are_valid_and_say_only_what_a_cast_changes(name):
    master = _SHEETS[name]
    casts = [CastOf("Plain"), CastOf("Moss & 7", {"amount": (0.75,)}, {"lie": "moss height.png"})]
    text = materialx_of(master, casts if "amount" in master.parameters else casts[:1])
    document = mx.createDocument()
    mx.readFromXmlString(document, text)
    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    document.setDataLibrary(library)
    valid, why = document.validate()
    assert valid, why
    changed = {one.getName(): one.getInputCount() for one in document.getNodes() if one.getType() == "surfaceshader"}
    assert sorted(changed.values()) == ([0, 2] if "amount" in master.parameters else [0])
    assert problems_of(document) == []
