"""Exported materials before their standards' own validators, and read by second libraries."""

import json
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pygltflib
import pytest
from PIL import Image
from pxr import Gf, Usd, UsdGeom, UsdShade, UsdValidation

from demo.materials import MASTERS
from tests.sheets import random_master
from tests.standards.test_published_values import VALIDATOR, WEB
from texel.files import read
from texel.materials import evaluate, parse_master
from texel.materials.exchange import FilledCast, export
from texel.materials.versions import sample_maps

_SIDE = 32
_MASTERS = [*(parse_master(one) for one in MASTERS), random_master(3), random_master(8)]


def _casts(master):
    """Three: as it is, without maps, and with another value for every number."""
    maps = sample_maps(master, _SIDE)
    changes = {
        name: (one.default[0] * 0.5 + 0.1,) for name, one in master.parameters.items()
        if one.kind == "number" and one.low <= one.default[0] * 0.5 + 0.1 <= one.high
    }  # fmt: skip
    return [FilledCast("Plain", {}, maps), FilledCast("Bare & new", {}, {}), FilledCast("Worn", changes, maps)]


def _written(master, kind, folder):
    made = export(master, kind, "look", _casts(master), _SIDE)
    for path, body in made.files.items():
        (folder / path).parent.mkdir(exist_ok=True)
        (folder / path).write_bytes(body)
    return folder / f"look.{kind}"


@pytest.mark.parametrize("master", _MASTERS, ids=lambda one: one.name)
def test_casts_as_variants_pass_the_khronos_validator_and_are_read_by_another_library(master, tmp_path):
    """npm gltf-validator, Khronos' own: no error, no warning. pygltflib reads the same materials."""
    path = _written(master, "glb", tmp_path)
    done = subprocess.run(
        [shutil.which("node") or "", "-e", VALIDATOR, str(path)], cwd=WEB, capture_output=True, text=True, check=True
    )
    issues = json.loads(done.stdout)
    assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"]
    read_again = pygltflib.GLTF2().load(str(path))
    assert [one.name for one in read_again.materials] == ["Plain", "Bare & new", "Worn"]
    variants = read_again.extensions["KHR_materials_variants"]["variants"]
    assert [one["name"] for one in variants] == ["Plain", "Bare & new", "Worn"]


@pytest.mark.parametrize("master", _MASTERS, ids=lambda one: one.name)
def test_stages_pass_every_validator_of_openusd_and_casts_specialise_their_base(master, tmp_path):
    """usd-core (pxr): all registered validators; a cast has no shader of its own, yet a whole network."""
    stage = Usd.Stage.Open(str(_written(master, "usda", tmp_path)))
    validators = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    assert [error.GetMessage() for error in UsdValidation.ValidationContext(validators).Validate(stage)] == []
    assert UsdGeom.GetStageUpAxis(stage) == "Y"
    scope = stage.GetDefaultPrim().GetChild("Materials")
    casts = [one for one in scope.GetChildren() if one.GetName() != "Base"]
    assert [one.GetDisplayName() for one in casts] == ["Plain", "Bare & new", "Worn"]
    for cast in casts:
        assert len(stage.GetRootLayer().GetPrimAtPath(cast.GetPath()).nameChildren) == 0
        shader, _, _ = UsdShade.Material(cast).ComputeSurfaceSource()
        assert shader.GetIdAttr().Get() == "UsdPreviewSurface"
    square = UsdShade.MaterialBindingAPI(stage.GetDefaultPrim().GetChild("Square")).ComputeBoundMaterial()[0]
    assert square.GetPrim() == casts[0]


def test_maps_of_a_stage_hold_the_surface_and_its_normal_is_unpacked(tmp_path):
    master = parse_master(next(one for one in MASTERS if one["name"] == "plain-solid"))
    stage = Usd.Stage.Open(str(_written(master, "usda", tmp_path)))
    path = stage.GetDefaultPrim().GetPath().AppendPath("Materials/Plain")
    wanted = evaluate(master, sample_maps(master, _SIDE), {}, _SIDE, _SIDE)
    file = stage.GetPrimAtPath(path).GetAttribute("inputs:pack_map").Get().resolvedPath
    pack = np.asarray(Image.open(file), np.float32) / 255
    for at, name in enumerate(("occlusion", "roughness", "metallic")):
        np.testing.assert_allclose(pack[:, :, at], np.clip(wanted[name][:, :, 0], 0, 1), atol=0.51 / 255)
    normal = stage.GetPrimAtPath(path.AppendChild("Normal"))
    scale, bias = (Gf.Vec4f(normal.GetAttribute(f"inputs:{key}").Get()) for key in ("scale", "bias"))
    assert normal.GetAttribute("inputs:sourceColorSpace").Get() == "raw"
    stored = read(tmp_path / "maps/Plain_normal.png").pixels.astype(np.float32) / 255
    np.testing.assert_allclose(stored * scale[0] + bias[0], wanted["normal"], atol=1.1 / 255)


def _texture_of(stage, cast, name):
    """What an input reads: values 0 to 1 by the texture's colour space, scale and bias, and the channels."""
    shader, _, _ = UsdShade.Material(cast).ComputeSurfaceSource()
    source = shader.GetInput(name).GetConnectedSources()[0][0] if shader.GetInput(name) else None
    if source is None:
        return None
    texture = UsdShade.Shader(source.source.GetPrim())
    (attribute,) = UsdShade.Utils.GetValueProducingAttributes(texture.GetInput("file"))
    stored = read(Path(attribute.Get().resolvedPath)).pixels.astype(np.float64) / 255
    if texture.GetInput("sourceColorSpace").Get() == "sRGB":
        light = np.where(stored <= 0.04045, stored / 12.92, ((stored + 0.055) / 1.055) ** 2.4)
        stored = np.concatenate([light[..., :3], stored[..., 3:]], axis=-1)
    for key, apply in (("scale", np.multiply), ("bias", np.add)):
        given = texture.GetInput(key)
        found = UsdShade.Utils.GetValueProducingAttributes(given) if given else ()
        if found:
            stored = apply(stored, np.array(found[0].Get())[: stored.shape[-1]])
    at = {"rgb": slice(0, 3), "r": slice(0, 1), "g": slice(1, 2), "b": slice(2, 3), "a": slice(3, 4)}
    return stored[..., at[source.sourceName]]


@pytest.mark.parametrize("master", _MASTERS, ids=lambda one: one.name)
def test_a_stage_moved_elsewhere_gives_back_what_the_sheet_computes(master, tmp_path):
    """usd-core: every connected input of every cast, through its texture, against NumPy."""
    (tmp_path / "here").mkdir()
    _written(master, "usda", tmp_path / "here")
    (tmp_path / "here").rename(tmp_path / "there")
    stage = Usd.Stage.Open(str(tmp_path / "there" / "look.usda"))
    scope = stage.GetDefaultPrim().GetChild("Materials")
    for cast in _casts(master):
        prim = next(one for one in scope.GetChildren() if one.GetDisplayName() == cast.name)
        with np.errstate(all="ignore"):
            wanted = evaluate(master, cast.maps, cast.changes, _SIDE, _SIDE)
        glow = np.nan_to_num(np.maximum(wanted["emissive"] * wanted["emissive_strength"], 0), posinf=0)
        expected = {
            "diffuseColor": wanted["base_color"], "roughness": wanted["roughness"], "metallic": wanted["metallic"],
            "occlusion": 1 + (wanted["occlusion"] - 1) * wanted["occlusion_strength"], "normal": wanted["normal"],
            "emissiveColor": glow / max(1.0, glow.max()), "opacity": wanted["opacity"],
        }  # fmt: skip
        for name, value in expected.items():
            made = _texture_of(stage, prim, name)
            if made is None:
                continue
            low = -1 if name == "normal" else 0
            made = made / max(1.0, glow.max()) if name == "emissiveColor" else made
            # Half a step of 8 bits; of sRGB's brightest 2.3 times as much in light, of a vector twice.
            near = {"diffuseColor": 1.2, "emissiveColor": 1.2, "normal": 1.1}.get(name, 0.51) / 255
            assert np.abs(np.clip(made, low, 1) - np.clip(np.nan_to_num(value), low, 1)).max() <= near, name
