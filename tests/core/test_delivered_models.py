"""Models in deliveries: planned with reasons, written with the maps that their slots wear, read back by others.

npm gltf-validator is Khronos' own; pygltflib and @gltf-transform/core read what we wrote.
"""

import json
import shutil
import subprocess

import numpy as np
import pygltflib
import pytest

from tests.meshes import glb, gltf_parts, quad
from tests.pictures import simple_set
from tests.standards.test_published_values import WEB
from texel.cli import main
from texel.delivery import parse_target, plan_delivery
from texel.delivery.folder import build_files
from texel.delivery.target import builtin_targets
from texel.errors import BadDocument
from texel.gltf_file import opened_gltf
from texel.library import Library, list_files
from texel.materials.exchange import read_gltf
from texel.meshes.delivered import model_order, plan_models, titles_of
from texel.meshes.plain import plain_master
from texel.meshes.reading import read_mesh
from texel.meshes.slots import Split, slot_keys, with_splits
from texel.schemas import check_document
from texel.sorting import sort_files

TARGET = parse_target(builtin_targets()["orm-y-minus"])
_NO_TANGENTS = "MESH_PRIMITIVE_GENERATED_TANGENT_SPACE"
BOAT = (quad(part="hull", slot="planks"), quad(part="rail", slot="planks", at=2), quad(part="coil", slot="rope", at=4))


@pytest.fixture
def folder(tmp_path):
    simple_set(tmp_path / "in", "planks")
    simple_set(tmp_path / "in", "rope", seed=5)
    return tmp_path / "in"


def wears(name, sets):
    master = plain_master(set(sets[name].in_use()))
    return {"name": name, "master": master, "changes": {}, "slots": {s["name"]: {"set": name} for s in master["slots"]}}


def order(mesh, worn, sets, splits=(), titles=None, main="boat.glb", files=None, regions=None, strokes=()):
    split = with_splits(read_mesh(main, files or {main: mesh}), splits)
    names = [one.name for one in split.slots]
    slots = [
        {
            "key": key, "title": title, "wears": wears(worn[key], sets) if key in worn else None,
            "parts": list(dict.fromkeys(piece.part for piece in split.pieces if piece.slot == at)),
            "region": regions[key].document() if regions and key in regions else None,
        }
        for at, (key, title) in enumerate(zip(slot_keys(names), titles_of(names, titles or {}), strict=True))
    ]  # fmt: skip
    return model_order({
        "name": "Boat", "main": main, "files": {name: f"model/{name}" for name in files or {main: mesh}},
        "splits": [one._asdict() for one in splits], "slots": slots, "strokes": list(strokes),
    })  # fmt: skip


def delivered(folder, mesh=None, worn=None, previous=None, main="boat.glb", files=None, target=TARGET, **how):
    mesh = mesh if mesh is not None else glb(*BOAT)
    beside = files or {main: mesh}
    place = folder.parent / "models"
    for name, data in beside.items():
        (place / name).parent.mkdir(parents=True, exist_ok=True)
        (place / name).write_bytes(data)
    library = Library(list_files(folder) | {f"model/{name}": place / name for name in beside})
    sets = {one.name: one for one in sort_files(Library(list_files(folder)), "in").sets}
    worn = {"planks": "planks", "rope": "rope"} if worn is None else worn
    made = plan_models([order(mesh, worn, sets, main=main, files=files, **how)], sets, library, target)
    plan = plan_delivery([], library, target, previous, casts=made.files)
    if not plan.files:
        return plan, None, {}, made.problems
    written = {}
    plan, manifest = build_files(plan, library, written.__setitem__, written.pop, make=made.make)
    return plan, manifest, written, made.problems


def the_file(folder, **how):
    return delivered(folder, **how)[2]["models/boat.glb"]


def validated(data, tmp_path):
    """Errors and warnings of Khronos' validator, but that a mesh came without tangents: the finding says that."""
    path = tmp_path / "model.glb"
    path.write_bytes(data)
    program = """
const [validator, file] = process.argv.slice(1);
require(validator).validateBytes(new Uint8Array(require("fs").readFileSync(file)))
  .then((report) => console.log(JSON.stringify(report.issues)));"""
    command = [shutil.which("node"), "-e", program, str(WEB / "node_modules" / "gltf-validator"), str(path)]
    told = subprocess.run(command, capture_output=True, text=True, check=True)
    return [one for one in json.loads(told.stdout)["messages"] if one["severity"] < 2 and one["code"] != _NO_TANGENTS]


def test_each_slot_has_the_material_of_what_it_wears(folder):
    read = read_gltf(the_file(folder))
    assert [one.document["title"] for one in read] == ["planks", "rope"]
    assert all(one.pictures for one in read)


def test_khronos_validator_has_no_complaint(folder, tmp_path):
    assert validated(the_file(folder), tmp_path) == []


def test_a_second_library_reads_the_binding(folder):
    read = pygltflib.GLTF2.load_from_bytes(the_file(folder))
    of_part = {node.name: read.meshes[node.mesh].primitives[0].material for node in read.nodes}
    assert {part: read.materials[at].name for part, at in of_part.items()} == {
        "hull": "planks", "rail": "planks", "coil": "rope"
    }  # fmt: skip
    colour = read.materials[1].pbrMetallicRoughness.baseColorTexture.index
    assert "Colour" in read.images[read.textures[colour].source].name


def test_positions_are_kept_to_the_bit(folder):
    before = read_mesh("boat.glb", {"boat.glb": glb(*BOAT)})
    after = read_mesh("after.glb", {"after.glb": the_file(folder)})
    for was, now in zip(before.pieces, after.pieces, strict=True):
        assert np.array_equal(was.positions, now.positions)
        assert np.array_equal(was.uvs[0], now.uvs[0])
        assert np.array_equal(was.triangles, now.triangles)


def test_what_the_file_holds_beside_materials_stays(folder):
    document, data = gltf_parts(
        BOAT, nodes=[{"name": "lamp socket", "translation": [0, 2, 0], "extras": {"kind": "lamp"}}]
    )
    document["buffers"][0]["uri"] = "boat.bin"
    files = {"in/boat.gltf": json.dumps(document).encode(), "in/boat.bin": data}
    made = opened_gltf(the_file(folder, main="in/boat.gltf", files=files))[0]
    assert made["nodes"][3] == document["nodes"][3]
    assert "uri" not in made["buffers"][0]


def test_former_textures_and_variants_go(folder, tmp_path):
    document, data = gltf_parts(BOAT)
    document["materials"][0]["normalTexture"] = {"index": 0}
    document |= {"textures": [{"source": 0}], "images": [{"uri": "gone.png"}]}
    document["extensionsUsed"] = ["KHR_materials_variants", "KHR_materials_ior"]
    document["extensions"] = {"KHR_materials_variants": {"variants": [{"name": "wet"}]}}
    document["meshes"][0]["primitives"][0]["extensions"] = {
        "KHR_materials_variants": {"mappings": [{"material": 0, "variants": [0]}]}
    }
    document["buffers"][0]["uri"] = "boat.bin"
    files = {"boat.gltf": json.dumps(document).encode(), "boat.bin": data}
    written = the_file(folder, main="boat.gltf", files=files)
    assert validated(written, tmp_path) == []
    assert "gone.png" not in json.dumps(opened_gltf(written)[0])


def test_levels_of_detail_are_kept(folder, tmp_path):
    sheets = [
        quad(part="hull", slot="planks", node={"extensions": {"MSFT_lod": {"ids": [1]}}}),
        quad(part="far", slot="rope"),
    ]
    document, data = gltf_parts(sheets)
    document["scenes"], document["extensionsUsed"] = [{"nodes": [0]}], ["MSFT_lod"]
    document["buffers"][0]["uri"] = "boat.bin"
    files = {"boat.gltf": json.dumps(document).encode(), "boat.bin": data}
    read = read_mesh("after.glb", {"after.glb": the_file(folder, main="boat.gltf", files=files)})
    assert [(one.part, one.level) for one in read.pieces] == [("hull", 0), ("far", 1)]


def test_obj_becomes_gltf_with_a_node_a_part(folder, tmp_path):
    text = b"o hull_LOD0\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n"
    text += b"usemtl planks\nf 1/1 2/2 3/3 4/4\n"
    text += b"o hull_LOD1\nusemtl rope\nf 1/1 2/2 3/3\n"
    written = the_file(folder, main="boat.obj", files={"boat.obj": text})
    assert validated(written, tmp_path) == []
    read = read_mesh("after.glb", {"after.glb": written})
    assert [(one.part, one.level, len(one.triangles)) for one in read.pieces] == [("hull", 0, 2), ("hull", 1, 1)]


def test_a_split_slot_is_another_material(folder):
    split = [Split("planks", "rail")]
    worn = {"planks": "planks", "planks (rail)": "rope", "rope": "rope"}
    read = read_mesh("after.glb", {"after.glb": the_file(folder, worn=worn, splits=split)})
    assert {one.part: read.slots[one.slot].name for one in read.pieces} == {
        "hull": "planks", "rail": "planks (rail)", "coil": "rope"
    }  # fmt: skip


def test_a_mesh_that_two_nodes_show_is_copied_where_one_is_split(folder):
    document, data = gltf_parts([quad(part="left", slot="planks"), quad(part="rope", slot="rope")])
    document["nodes"].append({"name": "right", "mesh": 0, "translation": [3, 0, 0]})
    document["scenes"] = [{"nodes": [0, 1, 2]}]
    document["buffers"][0]["uri"] = "boat.bin"
    files = {"boat.gltf": json.dumps(document).encode(), "boat.bin": data}
    worn = {"planks": "planks", "planks (right)": "rope", "rope": "rope"}
    written = the_file(folder, main="boat.gltf", files=files, worn=worn, splits=[Split("planks", "right")])
    read = read_mesh("after.glb", {"after.glb": written})
    assert {one.part: read.slots[one.slot].name for one in read.pieces} == {
        "left": "planks", "rope": "rope", "right": "planks (right)"
    }  # fmt: skip


def test_slots_are_called_as_somebody_said(folder):
    read = read_mesh("a.glb", {"a.glb": the_file(folder, titles={"planks": "Hull planks"})})
    assert [one.name for one in read.slots] == ["Hull planks", "rope"]


def test_a_model_with_an_empty_slot_is_left_out_with_the_reason(folder):
    _, manifest, _, problems = delivered(folder, worn={"planks": "planks"})
    assert manifest is None
    assert problems == ["the model Boat: the slot rope wears nothing"]


def test_the_manifest_holds_the_table_of_slots(folder):
    _, manifest, _, _ = delivered(folder)
    check_document(manifest, "manifest", "the manifest")
    assert manifest["models"] == [{"name": "Boat", "files": ["models/boat.glb"]}]
    assert manifest["files"][0]["slots"] == [
        {"slot": "planks", "parts": ["hull", "rail"], "wears": "planks"},
        {"slot": "rope", "parts": ["coil"], "wears": "rope"},
    ]


def test_the_same_again_is_unchanged_and_the_same_bytes(folder):
    _, manifest, first, _ = delivered(folder)
    plan, _, second, _ = delivered(folder, previous=manifest)
    assert plan.files[0].status == "unchanged"
    assert first["models/boat.glb"] == second["models/boat.glb"]


def test_another_mesh_another_map_and_other_wear_are_told_by_reason(folder):
    _, manifest, _, _ = delivered(folder)
    other = glb(quad(part="hull", slot="planks", metres=2), quad(part="coil", slot="rope", at=4))
    assert delivered(folder, other, previous=manifest)[0].files[0].why == ("source",)
    assert "source" in delivered(folder, worn={"planks": "rope", "rope": "rope"}, previous=manifest)[0].files[0].why
    simple_set(folder, "rope", seed=9)
    assert delivered(folder, previous=manifest)[0].files[0].why == ("source",)


def test_the_command_line_looks_at_a_model_and_writes_it(folder, tmp_path, capsys):
    (tmp_path / "mesh").mkdir()
    (tmp_path / "mesh" / "boat.glb").write_bytes(glb(*BOAT))
    wanted = ["model", str(tmp_path / "mesh" / "boat.glb"), "--folder", str(folder), "--json"]
    assert main([*wanted, "-o", str(tmp_path / "out.glb")]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["wears"] == {"planks": "planks", "rope": "rope"}
    assert read_mesh("out.glb", {"out.glb": (tmp_path / "out.glb").read_bytes()}).slots[1].name == "rope"


def test_the_command_line_ends_with_1_while_a_slot_is_empty(tmp_path, capsys):
    (tmp_path / "boat.glb").write_bytes(glb(*BOAT))
    assert main(["model", str(tmp_path / "boat.glb")]) == 1
    assert "Nothing is assigned" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("name", "words"), [("boat.fbx", "export glTF"), ("gone.glb", "no such file"), ("boat.txt", "no mesh")]
)
def test_the_command_line_refuses_in_words(tmp_path, capsys, name, words):
    if name != "gone.glb":
        (tmp_path / name).write_bytes(b"x")
    assert main(["model", str(tmp_path / name)]) == 2
    assert words in capsys.readouterr().err


def test_a_targets_texts_are_written_for_materials_and_models(folder):
    """The names of slots and what they wear, as an import script would read them; equal again when asked again."""
    template = "{{ model.name }}:{% for one in model.slots %} {{ one.slot }}={{ one.wears }}{% endfor %}"
    sidecars = [
        {"name": "{model}.slots.txt", "each": "model", "template": template},
        {"name": "{material}.txt", "each": "material", "template": "{{ material.name }}"},
    ]
    target = parse_target({**builtin_targets()["orm-y-minus"], "sidecars": sidecars})
    _, manifest, files, _ = delivered(folder, target=target)
    assert files["boat.slots.txt"] == b"Boat: planks=planks rope=rope"
    check_document(manifest, "manifest", "the manifest")
    assert manifest["models"] == [{"name": "Boat", "files": ["models/boat.glb", "boat.slots.txt"]}]
    again, *_ = delivered(folder, target=target, previous=manifest)
    assert {one.status for one in again.files} == {"unchanged"}


@pytest.mark.parametrize(("name", "each"), [("{set}.txt", "model"), ("a.txt", "material"), ("{model}.txt", "delivery")])
def test_names_of_texts_hold_the_word_of_what_they_are_for(name, each):
    with pytest.raises(BadDocument, match="stands in the name"):
        parse_target({
            **builtin_targets()["orm-y-minus"], "sidecars": [{"name": name, "each": each, "template": ""}]
        })  # fmt: skip
