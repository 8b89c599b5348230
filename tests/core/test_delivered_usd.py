"""Models delivered as OpenUSD: read back by its own library (usd-core), with all its validators."""

from dataclasses import replace

import numpy as np
import pytest
from pxr import Usd, UsdGeom, UsdShade, UsdValidation

from tests.core.test_delivered_models import BOAT, delivered, folder
from tests.meshes import glb, gltf_parts, quad
from texel.cli import main
from texel.delivery import parse_target
from texel.delivery.target import builtin_targets
from texel.errors import BadDocument
from texel.gltf_file import joined_glb
from texel.meshes.mesh import MeshFile
from texel.meshes.reading import read_mesh

__all__ = ["folder"]

TARGET = parse_target({**builtin_targets()["orm-y-minus"], "models": ["glb", "usdz"]})
TWO_SLOTS = (quad(part="hull", slot="planks"), quad(part="hull", slot="rope", at=2))


def package(folder, tmp_path, *sheets, **how):
    made = delivered(folder, glb(*(sheets or BOAT)), target=TARGET, **how)[2]["models/boat.usdz"]
    (tmp_path / "boat.usdz").write_bytes(made)
    return tmp_path / "boat.usdz"


def stage_of(path):
    return Usd.Stage.Open(str(path))


def bound(prim):
    material = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()[0]
    return material.GetPrim().GetName()


def meshes(stage):
    return {prim.GetName(): prim for prim in stage.Traverse() if prim.IsA(UsdGeom.Mesh)}


def read_back(path) -> MeshFile:
    return read_mesh(path.name, {path.name: path.read_bytes()})


def test_every_validator_of_openusd_is_content(folder, tmp_path):
    stage = stage_of(package(folder, tmp_path, *TWO_SLOTS, quad(part="coil", slot="rope", at=4)))
    validators = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    assert [error.GetMessage() for error in UsdValidation.ValidationContext(validators).Validate(stage)] == []
    assert (UsdGeom.GetStageUpAxis(stage), UsdGeom.GetStageMetersPerUnit(stage)) == ("Y", 1.0)


def test_each_part_is_bound_to_what_it_wears(folder, tmp_path):
    stage = stage_of(package(folder, tmp_path))
    assert {name: bound(prim) for name, prim in meshes(stage).items()} == {
        "hull": "planks", "rail": "planks", "coil": "rope"
    }  # fmt: skip


def test_a_part_with_two_slots_has_a_subset_for_each(folder, tmp_path):
    stage = stage_of(package(folder, tmp_path, *TWO_SLOTS))
    hull = meshes(stage)["hull"]
    subsets = UsdShade.MaterialBindingAPI(hull).GetMaterialBindSubsets()
    assert {bound(one.GetPrim()): list(one.GetIndicesAttr().Get()) for one in subsets} == {
        "planks": [0, 1], "rope": [2, 3]
    }  # fmt: skip


def test_materials_read_the_maps_in_the_package(folder, tmp_path):
    stage = stage_of(package(folder, tmp_path))
    shader = UsdShade.Material(stage.GetPrimAtPath("/boat/Materials/rope")).ComputeSurfaceSource()[0]
    texture = UsdShade.Shader(shader.GetInput("diffuseColor").GetConnectedSource()[0].GetPrim())
    (attribute,) = UsdShade.Utils.GetValueProducingAttributes(texture.GetInput("file"))
    assert "boat.usdz[maps/rope_base_color.png]" in attribute.Get().resolvedPath


def test_positions_uvs_and_triangles_are_kept_to_the_bit(folder, tmp_path):
    odd = quad(part="hull", slot="planks", metres=1 / 3, uv_to=(0.25, 0.7))
    before = read_mesh("boat.glb", {"boat.glb": glb(odd, quad(part="coil", slot="rope"))})
    stage = stage_of(package(folder, tmp_path, odd, quad(part="coil", slot="rope")))
    for piece in before.pieces:
        prim = meshes(stage)[piece.part]
        mesh = UsdGeom.Mesh(prim)
        assert np.array_equal(np.array(mesh.GetPointsAttr().Get(), np.float32), piece.positions)
        assert np.array_equal(mesh.GetFaceVertexIndicesAttr().Get(), piece.triangles.ravel())
        st = np.array(UsdGeom.PrimvarsAPI(prim).GetPrimvar("st").Get(), np.float32)
        assert np.array_equal(st, np.stack([piece.uvs[0][:, 0], 1 - piece.uvs[0][:, 1]], axis=1))


def test_vertex_colours_and_normals_come_back(folder, tmp_path):
    document, data = gltf_parts([quad(part="hull", slot="planks"), quad(part="coil", slot="rope")])
    colours = np.array([[1, 0, 0.5, 0], [0, 1, 0.25, 1], [0.5, 0, 0, 1], [1, 1, 1, 0.125]], "<f4")
    normals = np.tile(np.array([[0, 1, 0]], "<f4"), (4, 1))
    for name, values, kind in (("COLOR_0", colours, "VEC4"), ("NORMAL", normals, "VEC3")):
        view = {"buffer": 0, "byteOffset": len(data), "byteLength": values.nbytes}
        document["bufferViews"].append(view)
        document["accessors"].append(
            {"bufferView": len(document["bufferViews"]) - 1, "componentType": 5126, "count": 4, "type": kind}
        )
        document["meshes"][0]["primitives"][0]["attributes"][name] = len(document["accessors"]) - 1
        data += values.tobytes()
    document["buffers"][0]["byteLength"] = len(data)
    made = delivered(folder, joined_glb(document, data), target=TARGET)[2]["models/boat.usdz"]
    hull = next(one for one in read_mesh("a.usdz", {"a.usdz": made}).pieces if one.part == "hull")
    corners = np.array([[0, 2, 1], [0, 3, 2]]).ravel()
    assert np.array_equal(hull.colours, colours[corners])
    assert np.allclose(hull.normals, [0, 1, 0])


def test_coarser_levels_are_kept_and_not_shown(folder, tmp_path):
    fine = quad(part="hull", slot="planks", node={"extensions": {"MSFT_lod": {"ids": [1]}}})
    document, data = gltf_parts([fine, quad(part="hull", slot="rope")])
    document["scenes"], document["extensionsUsed"] = [{"nodes": [0]}], ["MSFT_lod"]
    made = delivered(folder, joined_glb(document, data), target=TARGET)[2]["models/boat.usdz"]
    (tmp_path / "boat.usdz").write_bytes(made)
    stage = stage_of(tmp_path / "boat.usdz")
    shown = {name: UsdGeom.Imageable(prim).ComputeVisibility() for name, prim in meshes(stage).items()}
    assert shown == {"hull_LOD0": "inherited", "hull_LOD1": "invisible"}
    assert read_back(tmp_path / "boat.usdz").levels() == [0, 1]


def test_the_target_says_which_files_a_model_gets(folder):
    _, manifest, files, _ = delivered(folder, target=TARGET)
    assert manifest["models"] == [{"name": "Boat", "files": ["models/boat.glb", "models/boat.usdz"]}]
    assert {one for one in files if one.startswith("models/")} == {"models/boat.glb", "models/boat.usdz"}
    again, *_ = delivered(folder, target=replace(TARGET, models=("glb",)), previous=manifest)
    assert {one.path: one.status for one in again.files} == {"models/boat.glb": "unchanged"}
    with pytest.raises(BadDocument, match="models"):
        parse_target({**builtin_targets()["orm-y-minus"], "models": []})


def test_the_same_again_is_the_same_bytes(folder, tmp_path):
    assert package(folder, tmp_path).read_bytes() == package(folder, tmp_path).read_bytes()


@pytest.mark.parametrize("form", ["glb", "usdz"])
def test_a_unit_of_a_centimetre_is_a_centimetre_elsewhere(folder, tmp_path, capsys, form):
    """An OBJ has no unit: a square of 100 is one metre wide where one unit is 0.01 m."""
    (tmp_path / "mesh").mkdir()
    square = b"v 0 0 0\nv 100 0 0\nv 100 100 0\nv 0 100 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl planks\n"
    (tmp_path / "mesh" / "deck.obj").write_bytes(square + b"f 1/1 2/2 3/3 4/4\n")
    written = tmp_path / f"deck.{form}"
    words = ["model", str(tmp_path / "mesh" / "deck.obj"), "--folder", str(folder), "--unit", "0.01"]
    assert main([*words, "-o", str(written)]) == 0
    assert "100" not in capsys.readouterr().err
    read = read_back(written)
    assert float(read.pieces[0].positions.max()) == pytest.approx(1, rel=1e-6)
