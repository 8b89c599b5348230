"""Sample models that package registries carry, sound and broken ones: each is read, or refused with a reason.

Debian assimp-testmodels (glTF samples of Khronos, its asset generator and OBJ files of many programs) and PyPI
materialxgltf. What is sound, and how many triangles it has, is said by Khronos' own validator (npm gltf-validator).
"""

import json
import re
import shutil
import subprocess
from pathlib import Path

import pytest

from tests.samples import DEBIAN, SAMPLES, read, read_or_refused
from tests.standards.test_published_values import WEB
from texel.meshes.facts import measure_mesh
from texel.meshes.gltf import read_gltf_mesh
from texel.meshes.judging import judge_mesh
from texel.meshes.mesh import UnreadableMesh
from texel.meshes.reading import MESH_KINDS, main_file
from texel.meshes.rules import DEFAULT_MODELS, parse_models

# Extensions without which a file must not be read, by its own words, and that are refused with their names.
REFUSED = {"KHR_draco_mesh_compression", "KHR_technique_webgl"}
_VALIDATE = """
const fs = require("fs"), path = require("path");
const [validator, ...names] = process.argv.slice(1);
const { validateBytes } = require(validator);
const told = {};
(async () => {
  for (const name of names) {
    const beside = (uri) => new Uint8Array(fs.readFileSync(path.join(path.dirname(name), decodeURIComponent(uri))));
    try {
      const how = { externalResourceFunction: async (uri) => beside(uri) };
      const { issues, info } = await validateBytes(new Uint8Array(fs.readFileSync(name)), how);
      told[name] = { errors: issues.numErrors, triangles: info.totalTriangleCount, needs: info.extensionsRequired };
    } catch (error) {
      told[name] = { errors: 1 };
    }
  }
  console.log(JSON.stringify(told));
})();"""
# What a reason must not be made of.
_JARGON = re.compile(r"Error|object has no attribute|indices must be|NoneType|<class|0x[0-9a-f]{6}")


def named(path):
    return f"{path.parent.name}/{path.name}"


@pytest.fixture(scope="module")
def validated():
    gltf = [str(path) for path in SAMPLES if path.suffix.lower() != ".obj"]
    command = [shutil.which("node"), "-e", _VALIDATE, str(WEB / "node_modules/gltf-validator"), *gltf]
    return json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout)


def test_there_are_samples():
    assert len(SAMPLES) > 80


@pytest.mark.parametrize("path", SAMPLES, ids=named)
def test_each_is_measured_and_judged_or_refused_in_plain_words(path):
    mesh, told = read_or_refused(path)
    if mesh is None:
        assert told.startswith(f"{path.name}: ")
        assert not _JARGON.search(told), told
        return
    facts = measure_mesh(mesh)
    assert facts.triangles > 0
    assert all(one.message for one in judge_mesh(facts, {}, parse_models(DEFAULT_MODELS)))


def test_what_the_validator_calls_sound_is_read_with_as_many_triangles(validated):
    wrong = {}
    for name, told in validated.items():
        if told["errors"] or not told["triangles"] or set(told.get("needs") or ()) & REFUSED:
            continue
        mesh = read(Path(name))
        # Instances of one mesh are counted once there.
        drawn = {(one.slot, len(one.triangles), one.positions.shape) for one in mesh.pieces}
        count = sum(triangles for _, triangles, _ in drawn)
        if count != told["triangles"]:
            wrong[name] = count, told["triangles"]
    assert wrong == {}


def test_other_formats_are_refused_with_what_to_export():
    others = [path for path in DEBIAN.rglob("*") if path.suffix.lower() in (".fbx", ".blend", ".3ds", ".dae", ".stl")]
    assert len(others) > 50
    for path in others:
        with pytest.raises(UnreadableMesh, match=re.escape(f"export {MESH_KINDS} instead")):
            main_file({path.name: b""})


def test_obj_in_utf_16_is_read_like_the_same_in_utf_8():
    wide, plain = read(DEBIAN / "OBJ/box_UTF16BE.obj"), read(DEBIAN / "OBJ/box.obj")
    assert measure_mesh(wide).triangles == measure_mesh(plain).triangles == 12


def test_gltf_of_the_first_version_is_told_in_both_forms():
    for name in ("BoxTextured-glTF-Binary/BoxTextured.glb", "BoxTextured-glTF/BoxTextured.gltf"):
        path = DEBIAN / "glTF" / name
        with pytest.raises(UnreadableMesh, match="it is glTF 1"):
            read_gltf_mesh(path.name, path.read_bytes())
