"""Meshes: read as their formats say, measured against arithmetic, and refused with what to do instead."""

import contextlib
import importlib.util
import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.meshes import glb, gltf_parts, quad
from texel.errors import BadDocument
from texel.image import Texels
from texel.meshes.facts import GAP_SIDE, measure_mesh, mesh_facts_of
from texel.meshes.filling import filling_step
from texel.meshes.islands import gap_between, layout_of
from texel.meshes.judging import Worn, judge_mesh
from texel.meshes.mesh import UnreadableMesh
from texel.meshes.proposals import SURE, Candidate, Names, propose
from texel.meshes.raster import cover
from texel.meshes.reading import main_file, read_mesh
from texel.meshes.rules import DEFAULT_MODELS, ModelRules, parse_models
from texel.meshes.slots import Split, with_splits
from texel.meshes.writing import drawn_glb
from texel.recipes import apply_recipe, parse_step
from texel.repair.covered import covered_from, covered_text
from texel.roles import Role, Transfer

HOUSE = parse_models(DEFAULT_MODELS)


def facts_of(*sheets, scale=1.0, **how):
    return measure_mesh(read_mesh("hull.glb", {"hull.glb": glb(*sheets, **how)}), scale)


def checks(facts, worn=None, rules=HOUSE):
    return {one.check: one for one in judge_mesh(facts, worn or {}, rules)}


# Reading.


def test_a_nodes_place_and_scale_count():
    # glTF 2.0, 3.5.3: translation times rotation times scale; the child is placed by its parent.
    node = {"translation": [5, 0, 0], "scale": [2, 2, 2]}
    facts = facts_of(quad(node=node))
    assert facts.size == (2, 0, 2)
    assert facts.slots[0].area == pytest.approx(4)


def test_a_file_in_centimetres_is_measured_in_metres():
    facts = facts_of(quad(metres=100), scale=0.01)
    assert facts.size == pytest.approx((1, 0, 1))
    assert facts.slots[0].area == pytest.approx(1)


def test_a_mirrored_node_still_faces_outwards():
    mesh = read_mesh("a.glb", {"a.glb": glb(quad(node={"scale": [-1, 1, 1]}))})
    piece = mesh.pieces[0]
    a, b, c = piece.positions[piece.triangles[0]]
    assert np.cross(b - a, c - a)[1] > 0


def test_strips_and_fans_are_triangles_that_turn_one_way():
    document, data = gltf_parts([quad()])
    for mode, order in ((5, [0, 3, 1, 2]), (6, [0, 3, 2, 1])):
        document["meshes"][0]["primitives"][0]["mode"] = mode
        indices = np.array(order, "<u4").tobytes()
        view = document["bufferViews"][2]
        changed = data[: view["byteOffset"]] + indices + data[view["byteOffset"] + 16 :]
        document["accessors"][2]["count"] = 4
        mesh = read_mesh("a.gltf", {"a.gltf": json.dumps(with_buffer(document)).encode(), "b.bin": changed})
        piece = mesh.pieces[0]
        corners = piece.positions[piece.triangles]
        up = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 1]
        assert (up > 0).all()
        assert up.sum() / 2 == pytest.approx(1), mode


def with_buffer(document):
    return {**document, "buffers": [{**document["buffers"][0], "uri": "b.bin"}]}


def test_a_buffer_that_is_not_there_is_asked_for_by_name():
    document, _ = gltf_parts([quad()])
    with pytest.raises(UnreadableMesh, match=r"needs b\.bin beside it"):
        read_mesh("a.gltf", {"a.gltf": json.dumps(with_buffer(document)).encode()})


def test_levels_of_detail_are_told_by_name_and_by_extension():
    by_name = read_mesh("a.glb", {"a.glb": glb(quad(part="hull_LOD0"), quad(part="hull_LOD1"))})
    assert by_name.levels() == [0, 1]
    assert {one.part for one in by_name.pieces} == {"hull"}
    sheets = [quad(node={"extensions": {"MSFT_lod": {"ids": [1]}}}), quad(part="coarse")]
    document, data = gltf_parts(sheets)
    document["scenes"] = [{"nodes": [0]}]
    mesh = read_mesh("a.gltf", {"a.gltf": json.dumps(with_buffer(document)).encode(), "b.bin": data})
    assert [(one.part, one.level) for one in mesh.pieces] == [("deck", 0), ("coarse", 1)]


def test_a_part_without_a_material_has_a_slot_without_a_name():
    facts = facts_of(quad(), quad(part="rail", slot=None))
    assert [one.name for one in facts.slots] == ["deck", ""]
    assert checks(facts)["slot_unnamed"].slot == 1


def test_textures_that_the_file_names_are_told():
    material = {"name": "deck", "normalTexture": {"index": 0}}
    document, data = gltf_parts([quad()], materials=[material])
    document |= {"textures": [{"source": 0}], "images": [{"uri": "maps/plate%20n.png"}]}
    mesh = read_mesh("a.gltf", {"a.gltf": json.dumps(with_buffer(document)).encode(), "b.bin": data})
    assert [(one.use, one.file) for one in mesh.slots[0].textures] == [("normalTexture", "maps/plate n.png")]


OBJ = b"""mtllib boat.mtl
v 0 0 0
v 2 0 0
v 2 2 0
v 0 2 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
o hull
usemtl planks
f 1/1 2/2 3/3
f -4/-4 -2/-2 -1/-1
o mast
usemtl spar
f 1 2 3 4
"""


def test_obj_with_its_materials():
    mtl = b"newmtl planks\nmap_Kd -s 2 2 maps/old planks_d.tga\nmap_Bump -bm 0.5 planks_n.tga\nnewmtl spar\nd 0.5\n"
    mesh = read_mesh("boat.obj", {"boat.obj": OBJ, "boat.mtl": mtl})
    assert [(one.part, mesh.slots[one.slot].name, len(one.triangles)) for one in mesh.pieces] == [
        ("hull", "planks", 2), ("mast", "spar", 2)
    ]  # fmt: skip
    assert [(one.use, one.file) for one in mesh.slots[0].textures] == [
        ("map_kd", "maps/old planks_d.tga"), ("map_bump", "planks_n.tga")
    ]  # fmt: skip
    assert [one.alpha for one in mesh.slots] == ["opaque", "blend"]
    assert len(mesh.pieces[0].uvs) == 1
    assert not mesh.pieces[1].uvs


def test_obj_without_its_materials_says_so():
    mesh = read_mesh("boat.obj", {"boat.obj": OBJ})
    assert "boat.mtl is not beside it" in mesh.remarks[0]


def test_obj_grows_upwards_in_v_and_gltf_downwards():
    # Origin of UVs: upper left in glTF 2.0 (3.8.1), lower left in OBJ.
    mesh = read_mesh("boat.obj", {"boat.obj": OBJ})
    piece = mesh.pieces[0]
    lowest = np.argmin(piece.positions[:, 1])
    assert piece.uvs[0][lowest, 1] == 1


def test_usd_in_centimetres_with_z_up_is_as_the_same_in_metres_with_y_up():
    # Written and read by OpenUSD's own library (PyPI: usd-core).
    if importlib.util.find_spec("pxr") is None:
        pytest.skip("usd-core is an option")
    text = """#usda 1.0
(
    metersPerUnit = 0.01
    upAxis = "Z"
)
def Xform "boat" {
  def Material "planks" {}
  def Mesh "hull" (prepend apiSchemas = ["MaterialBindingAPI"]) {
    rel material:binding = </boat/planks>
    point3f[] points = [(0,0,0), (300,0,0), (300,200,0), (0,200,0)]
    int[] faceVertexCounts = [4]
    int[] faceVertexIndices = [0, 1, 2, 3]
    texCoord2f[] primvars:st = [(0,0), (1,0), (1,1), (0,1)] (interpolation = "vertex")
  }
}"""
    facts = measure_mesh(read_mesh("boat.usda", {"boat.usda": text.encode()}))
    assert facts.size == pytest.approx((3, 0, 2))
    assert facts.slots[0].name == "planks"
    assert facts.slots[0].area == pytest.approx(6)
    assert facts.slots[0].mirrored == 0


def test_usd_that_names_other_files_is_refused():
    if importlib.util.find_spec("pxr") is None:
        pytest.skip("usd-core is an option")
    text = b'#usda 1.0\ndef "a" (references = @/etc/other.usda@) {}\n'
    with pytest.raises(UnreadableMesh, match="put together of other files"):
        read_mesh("a.usda", {"a.usda": text})


@pytest.mark.parametrize(
    ("name", "words"),
    [("hull.fbx", "FBX is not read"), ("hull.blend", "scene of a modelling program"), ("notes.txt", "no mesh")],
)
def test_other_formats_are_refused_with_what_to_export(name, words):
    with pytest.raises(UnreadableMesh, match=words) as refusal:
        main_file({name: b""})
    assert "glTF" in str(refusal.value)


@pytest.mark.parametrize("extension", ["KHR_draco_mesh_compression", "EXT_meshopt_compression"])
def test_compressed_meshes_are_refused_with_what_to_export(extension):
    document, data = gltf_parts([quad()])
    document["extensionsRequired"] = document["extensionsUsed"] = [extension]
    with pytest.raises(UnreadableMesh, match="without mesh compression"):
        read_mesh("a.gltf", {"a.gltf": json.dumps(with_buffer(document)).encode(), "b.bin": data})


def test_nodes_that_hold_themselves_are_refused():
    document, data = gltf_parts([quad(node={"children": [0]})])
    with pytest.raises(UnreadableMesh, match="hold themselves"):
        read_mesh("a.gltf", {"a.gltf": json.dumps(with_buffer(document)).encode(), "b.bin": data})


@settings(max_examples=150, deadline=None)
@given(st.data())
def test_damaged_files_are_refused_in_words(data):
    whole = bytearray(glb(quad(), quad(slot="rail", tangents=True)))
    for _ in range(data.draw(st.integers(1, 8))):
        whole[data.draw(st.integers(0, len(whole) - 1))] = data.draw(st.integers(0, 255))
    with contextlib.suppress(UnreadableMesh):
        measure_mesh(read_mesh("a.glb", {"a.glb": bytes(whole)}))


# What is measured.


def test_density_is_texels_over_metres():
    # By arithmetic: a square of 2 m that shows half a map of 1024 in each direction has 256 texels a metre.
    facts = facts_of(quad(metres=2, uv_to=(0.5, 0.5)))
    assert facts.slots[0].density * 1024 == pytest.approx(256)


def test_uneven_density_is_told_by_its_spread():
    facts = facts_of(quad(uv_to=(0.5, 0.5)), quad(at=2, uv=(0.5, 0.5), uv_to=(0.55, 0.55)))
    assert facts.slots[0].even == pytest.approx((0.05, 0.5))
    assert checks(facts)["density_uneven"].measure == pytest.approx(10)


@pytest.mark.parametrize("moved", [0.0, 0.125, 0.25, 0.5])
def test_overlap_is_the_share_that_lies_double(moved):
    # Two squares of half the width, one moved: they share 0.5 - moved of 0.5 + moved.
    facts = facts_of(quad(uv_to=(0.5, 0.5)), quad(at=2, uv=(moved, 0), uv_to=(moved + 0.5, 0.5)))
    assert facts.slots[0].overlap == pytest.approx((0.5 - moved) / (0.5 + moved), abs=1e-9)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(*[st.floats(0, 31)] * 2), min_size=3, max_size=12), st.integers(0, 3))
def test_triangles_that_share_edges_cover_each_texel_once(points, seed):
    """A fan around a middle within a convex outline: no texel is covered twice, none within is left out."""
    angles = np.sort(np.random.default_rng(seed).uniform(0, 2 * math.pi, len(points)))
    if (np.diff(np.append(angles, angles[0] + 2 * math.pi)) >= math.pi).any():
        return
    outline = np.stack([16 + 15 * np.cos(angles), 16 + 15 * np.sin(angles)], axis=1)
    fan = np.stack([np.tile([16.0, 16.0], (len(outline), 1)), outline, np.roll(outline, -1, axis=0)], axis=1)
    count, _ = cover(fan, np.arange(len(fan), dtype=np.int32), 32, 32)
    assert count.max() == 1


def test_coverage_agrees_with_another_library():
    # scikit-image draws polygons by the same question: is a texel's middle inside?
    from skimage.draw import polygon2mask

    corners = np.array([[3.3, 2.1], [58.7, 11.9], [20.2, 60.4]])
    count, _ = cover(corners[None], np.zeros(1, np.int32), 64, 64)
    theirs = polygon2mask((64, 64), corners[:, ::-1] - 0.5)
    assert np.abs(count.astype(int) - theirs).sum() <= 3


@pytest.mark.parametrize("gap", [1, 3, 8, 21])
def test_gaps_are_the_empty_texels_between_drawn_islands(gap):
    owner = np.full((64, 96), -1, np.int32)
    owner[10:40, 5:30], owner[10:40, 30 + gap : 60 + gap - 21] = 0, 1
    assert gap_between(owner) == gap


def test_the_gap_of_a_mesh_is_told_on_its_map():
    # 1/128 of the width lies between: 16 texels on a map of 2048, 8 on one of 1024.
    half = 0.5 - 1 / 256
    facts = facts_of(quad(uv_to=(half, 1)), quad(at=2, uv=(half + 1 / 128, 0), uv_to=(1, 1)))
    assert facts.slots[0].gap == GAP_SIDE // 128
    assert "uv_gap_small" not in checks(facts, {0: Worn("deck", 1024)})
    nearer = facts_of(quad(uv_to=(0.499, 1)), quad(at=2, uv=(0.501, 0), uv_to=(1, 1)))
    told = checks(nearer, {0: Worn("deck", 1024)})["uv_gap_small"]
    assert told.measure == pytest.approx(2, abs=0.5)
    assert told.threshold == 8


def test_islands_hang_together_by_shared_points():
    together = facts_of(quad(uv_to=(0.5, 1)), quad(at=1, uv=(0.5, 0), uv_to=(1, 1)))
    assert together.slots[0].islands == 2, "two parts never hang together"
    mesh = read_mesh("a.glb", {"a.glb": glb(quad())})
    assert layout_of(mesh.pieces).islands == 1


def test_mirrored_uvs_are_told():
    facts = facts_of(quad(), quad(slot="rail", uv=(1, 0), uv_to=(0, 1)))
    assert [one.mirrored for one in facts.slots] == [0, 1]


def test_facts_are_kept_as_json():
    facts = facts_of(quad(), quad(slot="rail", has_uvs=False))
    assert mesh_facts_of(json.loads(json.dumps(facts.document()))) == facts


# What is judged.


def test_a_slot_that_wears_nothing_is_an_error():
    found = checks(facts_of(quad()))
    assert found["slot_empty"].severity == "error"
    assert "slot_empty" not in checks(facts_of(quad()), {0: Worn("Deck", 512)})


def test_two_slots_of_one_name_are_an_error():
    facts = facts_of(quad(), quad(slot="rail"), materials=[{"name": "Deck"}, {"name": "deck"}])
    assert checks(facts)["slot_names_equal"].severity == "error"


def test_missing_uvs_are_an_error_only_where_a_map_is_laid_on_them():
    facts = facts_of(quad(has_uvs=False))
    assert checks(facts, {0: Worn("Deck", 512)})["uv_missing"].severity == "error"
    assert checks(facts, {0: Worn("Plain colour")})["uv_missing"].severity == "note"


@pytest.mark.parametrize(("side", "check"), [(256, "density_low"), (512, None), (4096, "density_high")])
def test_density_is_held_against_the_houses(side, check):
    rules = ModelRules(density=512, factor=2)
    found = checks(facts_of(quad()), {0: Worn("Deck", side)}, rules) | {}
    assert [one for one in found if one in ("density_low", "density_high")] == (
        [check] if check and side != 256 else []
    )
    assert "density_low" in checks(facts_of(quad()), {0: Worn("Deck", 128)}, rules)


def test_tiling_counts_for_density():
    rules = ModelRules(density=512, factor=1.5)
    assert "density_low" not in checks(facts_of(quad()), {0: Worn("Deck", 128, tiling=4)}, rules)


def test_one_set_at_very_different_densities_is_told():
    facts = facts_of(quad(), quad(slot="rail", metres=4, at=2))
    worn = {at: Worn(f"Cast {at}", 512, sets=frozenset(["planks"])) for at in (0, 1)}
    told = checks(facts, worn)["density_apart"]
    assert told.measure == pytest.approx(4)
    assert told.slot == 0


def test_a_set_that_two_slots_share_is_told_at_both():
    facts = facts_of(quad(), quad(slot="rail", at=2))
    worn = {at: Worn("Planks", 512, sets=frozenset(["planks"])) for at in (0, 1)}
    assert [one.slot for one in judge_mesh(facts, worn, HOUSE) if one.check == "set_shared"] == [0, 1]


def test_more_materials_than_the_house_allows():
    facts = facts_of(quad(), quad(slot="rail", at=2), quad(slot="mast", at=4))
    assert checks(facts, {}, ModelRules(materials=2))["materials_many"].measure == 3


def test_repeating_uvs_are_a_note_and_lie_over_each_other_by_intent():
    facts = facts_of(quad(uv_to=(4, 4)))
    found = checks(facts)
    assert facts.slots[0].is_tiled
    assert facts.slots[0].overlap is None
    assert found["uv_repeats"].severity == "note"


def test_uvs_in_another_tile_that_do_not_repeat_are_a_warning():
    facts = facts_of(quad(uv=(1, 0), uv_to=(2, 1)))
    assert not facts.slots[0].is_tiled
    assert checks(facts)["uv_outside"].severity == "warning"


def test_mirrored_uvs_with_a_normal_map_want_tangents():
    worn = {0: Worn("Deck", 512, has_normal=True)}
    mirrored = {"uv": (1, 0), "uv_to": (0, 1)}
    assert "mirrored_without_tangents" in checks(facts_of(quad(**mirrored)), worn)
    assert "mirrored_without_tangents" not in checks(facts_of(quad(tangents=True, **mirrored)), worn)


def test_blending_where_a_cut_out_would_do():
    worn = {0: Worn("Leaf", 512, opacity="blend", is_two_valued=True)}
    assert "blend_for_cut_out" in checks(facts_of(quad()), worn)


# Names.


def best(slot, *candidates):
    ranked = propose([slot], list(candidates))[0]
    return (ranked[0].key, ranked[0].why, ranked[0].share >= SURE) if ranked else None


ROPE = Candidate("rope", "mooring_rope", ("in/mooring_rope_bc.png", "in/mooring_rope_n.png"))
HULL = Candidate("hull", "Hull, riveted", ("in/hull_riveted_col.png",))


def test_textures_of_the_file_say_most():
    assert best(Names("lambert3", textures=("tex/mooring_rope_n.tga",)), ROPE, HULL) == ("rope", "texture", True)


def test_names_are_read_without_what_says_nothing():
    assert best(Names("M_HullRiveted_mat.001"), ROPE, HULL) == ("hull", "slot", True)


def test_parts_say_something_where_slots_do_not():
    assert best(Names("Material", parts=("mooring rope",)), ROPE, HULL) == ("rope", "part", True)


def test_nothing_is_proposed_without_a_word():
    assert best(Names("lambert1", parts=("pCube7",), file="export.fbx"), ROPE, HULL) is None


def test_two_that_fit_alike_are_a_question():
    twin = Candidate("twin", "mooring_rope", ())
    assert best(Names("mooring_rope"), ROPE, twin)[2] is False


# Slots.


def test_a_shared_slot_is_split_by_part():
    mesh = read_mesh("a.glb", {"a.glb": glb(quad(part="shirt", slot="cloth"), quad(part="boot", slot="cloth"))})
    split = with_splits(mesh, [Split("cloth", "boot")])
    assert [one.name for one in split.slots] == ["cloth", "cloth (boot)"]
    assert [(one.part, one.slot) for one in split.pieces] == [("shirt", 0), ("boot", 1)]
    assert with_splits(mesh, [Split("gone", "boot"), Split("cloth", "gone")]) == mesh


def test_what_the_page_draws_is_the_mesh_with_its_density():
    mesh = read_mesh("a.glb", {"a.glb": glb(quad(), quad(slot="rail", metres=2, at=2))})
    drawn = read_mesh("b.glb", {"b.glb": drawn_glb(mesh)})
    assert [one.name for one in drawn.slots] == ["0", "1"]
    assert measure_mesh(drawn).slots[1].area == pytest.approx(4)


def test_a_plain_set_fills_what_it_has():
    from texel.materials import parse_master
    from texel.meshes.plain import plain_master

    sheet = parse_master(plain_master({Role.BASE_COLOR, Role.NORMAL, Role.OPACITY}), "plain")
    assert list(sheet.slots) == ["colour", "bumps", "cut"]
    assert sheet.opacity_mode == "cut_out"


# Filled between islands.


def test_texels_between_islands_take_the_nearest_covered_ones():
    """By arithmetic: left of the middle of the gap the left island's value, right of it the right one's."""
    mesh = read_mesh("a.glb", {"a.glb": glb(quad(uv_to=(0.25, 1)), quad(at=2, uv=(0.75, 0), uv_to=(1, 1)))})
    step = filling_step(mesh, measure_mesh(mesh), [0])
    pixels = np.zeros((64, 64, 3), np.uint8)
    pixels[:, :16], pixels[:, 48:], pixels[:, 16:48] = (200, 0, 0), (0, 0, 200), (0, 255, 0)
    filled = apply_recipe(Texels(pixels, "rgb", Transfer.SRGB, Role.BASE_COLOR), [step]).pixels
    assert (filled[:, :31] == (200, 0, 0)).all()
    assert (filled[:, 33:] == (0, 0, 200)).all()
    assert np.array_equal(filled[:, :16], pixels[:, :16])


def test_filling_is_refused_where_no_texel_is_unused():
    mesh = read_mesh("a.glb", {"a.glb": glb(quad(uv_to=(3, 3)))})
    with pytest.raises(BadDocument, match="repeats"):
        filling_step(mesh, measure_mesh(mesh), [0])


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 70), st.integers(1, 70), st.integers(0, 9))
def test_covered_texels_come_back_as_they_were(width, height, seed):
    covered = np.random.default_rng(seed).random((height, width)) < 0.3
    assert np.array_equal(covered_from(covered_text(covered)), covered)


@pytest.mark.parametrize("text", ["x", "4x4:!!", "4x4:", "0x4:eJw=", "9999x9999:eJw=", "4x4:eJwDAAAAAAE=", "-4x4:eJw="])
def test_other_texts_are_no_covered_texels(text):
    with pytest.raises(BadDocument):
        parse_step({"step": "fill_between_islands", "islands": text})


# Hostile files.


def test_names_that_no_database_takes_are_made_fit():
    sheets = [quad(part="hu\x00ll\ud800", slot="pla\x07nks")]
    document, data = gltf_parts(sheets)
    text = json.dumps(with_buffer(document)).encode()
    mesh = read_mesh("a.gltf", {"a.gltf": text, "b.bin": data})
    assert mesh.pieces[0].part == "hull"
    assert mesh.slots[0].name == "planks"


def test_places_beyond_all_measure_are_refused():
    with pytest.raises(UnreadableMesh, match="farther than"):
        facts_of(quad(metres=1e12))


def test_one_mesh_shown_a_million_times_is_refused_in_time():
    document, data = gltf_parts([quad()])
    document["nodes"] = [{"mesh": 0} for _ in range(30_000)]
    document["scenes"] = [{"nodes": list(range(30_000))}]
    with pytest.raises(UnreadableMesh, match="parts with a material"):
        read_mesh("a.gltf", {"a.gltf": json.dumps(with_buffer(document)).encode(), "b.bin": data})


def test_arrays_of_nothing_are_not_made_without_end():
    document, data = gltf_parts([quad()])
    zeros = {"componentType": 5126, "type": "VEC3", "count": 19_000_000}
    document["accessors"] += [dict(zeros) for _ in range(20)]
    primitives = [{"attributes": {"POSITION": at}} for at in range(3, 23)]
    document["meshes"][0]["primitives"] = primitives
    with pytest.raises(UnreadableMesh, match=r"more than"):
        read_mesh("a.gltf", {"a.gltf": json.dumps(with_buffer(document)).encode(), "b.bin": data})


@pytest.mark.parametrize(
    "change",
    [
        {"nodes": 7}, {"meshes": [{"primitives": [{"attributes": {"POSITION": -1}}]}]}, {"scene": 9},
        {"accessors": [{"bufferView": 0, "componentType": 5126, "type": "VEC3", "count": -4}]},
        {"bufferViews": [{"buffer": 0, "byteLength": 1 << 40}]}, {"materials": [[]]}, {"extensionsRequired": [[]]},
        {"nodes": [{"mesh": 0, "matrix": [0]}]}, {"nodes": [{"mesh": 0, "scale": ["a", 1, 1]}]},
        {"nodes": [{"mesh": 0, "extensions": {"MSFT_lod": {"ids": [0]}}}]}, {"asset": {}}, {"meshes": {}},
    ],
)  # fmt: skip
def test_documents_that_make_no_sense_are_refused_in_words(change):
    document, data = gltf_parts([quad()])
    text = json.dumps(with_buffer(document) | change).encode()
    with pytest.raises(UnreadableMesh):
        read_mesh("a.gltf", {"a.gltf": text, "b.bin": data})


@pytest.mark.parametrize("line", ["f 1/9 2 3", "f 1 2", "v 1 2", "f a b c", "f 0 1 2", "vt x"])
def test_obj_lines_that_make_no_sense_are_refused_with_their_number(line):
    text = f"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n{line}\n".encode()
    with pytest.raises(UnreadableMesh, match="line 5"):
        read_mesh("a.obj", {"a.obj": text})
