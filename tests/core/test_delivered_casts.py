"""Casts in deliveries: planned with reasons, written in three formats, the same again whether anew or in step.

OpenUSD's own library reads the packages, MaterialX's the documents; glTF is read by our reader, which the Khronos
validator's rules are tested against elsewhere.
"""

import json

import MaterialX as mx
import pytest
from pxr import Sdf, Usd, UsdShade

from tests.pictures import simple_set
from texel.delivery import parse_target, plan_delivery
from texel.delivery.folder import build_files
from texel.delivery.target import builtin_targets
from texel.library import Library, list_files
from texel.materials.delivered import cast_order, plan_casts
from texel.materials.exchange import read_gltf
from texel.materials.starter import starter
from texel.mirror import mirror_named, reflect
from texel.schemas import check_document
from texel.sorting import sort_files

FORMATS = ["glb", "mtlx", "usdz"]


@pytest.fixture
def library(tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull", seed=5)
    return Library(list_files(tmp_path / "in"))


@pytest.fixture
def sets(library):
    return {one.name: one for one in sort_files(library, "in").sets}


def order(name="Wet deck", of="deck", changes=None):
    master = starter("Plain solid")
    slots = {slot["name"]: {"set": of} for slot in master["slots"] if slot.get("role") in ("base_color", "normal")}
    return cast_order({"name": name, "master": master, "changes": changes or {}, "slots": slots})


def target(formats=FORMATS):
    return parse_target({**builtin_targets()["orm-y-minus"], "casts": formats})


def delivered(library, sets, orders, previous=None, wanted=None, refused=None, **more):
    to = wanted or target()
    casts = plan_casts(orders, sets, library, to, refused=refused)
    plan = plan_delivery([sets["deck"]], library, to, previous, casts=casts.files, **more)
    files = {}
    plan, manifest = build_files(plan, library, files.__setitem__, files.pop, make=casts.make)
    return plan, manifest, files, casts.problems


def parameter(one):
    """A parameter of the cast's master with one number, and a value that is not its default."""
    assert "bump" in one.master.parameters
    return {"bump": 0.25}


def test_a_cast_is_delivered_in_every_format_that_the_target_names(library, sets):
    _plan, manifest, files, _ = delivered(library, sets, [order()])
    mains = {f"materials/wet_deck.{form}" for form in FORMATS}
    assert mains <= set(files)
    assert {entry["name"] for entry in manifest["casts"]} == {"Wet deck"}
    check_document(manifest, "manifest", "the manifest")


def test_the_package_opens_in_openusd(library, sets, tmp_path):
    _, _, files, _ = delivered(library, sets, [order()])
    (tmp_path / "deck.usdz").write_bytes(files["materials/wet_deck.usdz"])
    stage = Usd.Stage.Open(str(tmp_path / "deck.usdz"))
    materials = [prim for prim in stage.Traverse() if prim.IsA(UsdShade.Material)]
    assert materials
    values = [one.Get() for prim in materials for one in UsdShade.Material(prim).GetInputs()]
    pictures = [value.resolvedPath for value in values if isinstance(value, Sdf.AssetPath)]
    assert pictures
    assert all(path and ".usdz[" in path for path in pictures), "every picture lies in the package"


def test_the_graph_names_the_delivered_maps(library, sets):
    _, manifest, files, _ = delivered(library, sets, [order()])
    document = mx.createDocument()
    mx.readFromXmlString(document, files["materials/wet_deck.mtlx"].decode())
    named = {one.getValueString() for one in document.traverseTree() if one.getAttribute("type") == "filename"}
    assert {f"materials/{name}" for name in named if name} <= set(files)
    entry = next(one for one in manifest["files"] if one["path"].endswith(".mtlx"))
    assert {use["path"] for use in entry["uses"]} <= set(files)


def test_the_gltf_holds_its_maps(library, sets):
    _, _, files, _ = delivered(library, sets, [order()], wanted=target(["glb"]))
    assert read_gltf(files["materials/wet_deck.glb"], "deck.glb")
    assert not any("/maps/" in path for path in files)


def test_the_same_again_is_unchanged(library, sets):
    _, manifest, files, _ = delivered(library, sets, [order()])
    plan, again, same, _ = delivered(library, sets, [order()], manifest)
    assert {planned.status for planned in plan.files} == {"unchanged"}
    assert (again, same) == (manifest, files)


def test_what_changed_is_said(library, sets):
    one = order()
    _, manifest, _, _ = delivered(library, sets, [one])
    plan, _, _, _ = delivered(library, sets, [order(changes=parameter(one))], manifest)
    why = {planned.path: planned.why for planned in plan.files if planned.status == "changed"}
    assert why == {f"materials/wet_deck.{form}": ("parameters",) for form in FORMATS}
    master = {**one.master.document, "title": "Another title"}
    newer = cast_order({"name": one.name, "master": master, "changes": {}, "slots": {
        slot: {"set": fill.set} for slot, fill in one.slots.items()}})  # fmt: skip
    plan, _, _, _ = delivered(library, sets, [newer], manifest)
    assert {planned.why for planned in plan.files if planned.status == "changed"} == {("master",)}
    plan, _, _, _ = delivered(library, sets, [order(of="hull")], manifest)
    assert {planned.why for planned in plan.files if planned.status == "changed"} == {("source",)}


def test_a_cast_that_is_left_out_is_orphaned_unless_it_stays(library, sets):
    _, manifest, _, _ = delivered(library, sets, [order()])
    plan, _, _, _ = delivered(library, sets, [], manifest)
    assert {path.rsplit(".", 1)[1] for path in plan.orphaned} == {*FORMATS, "png"}
    plan, kept, _, _ = delivered(library, sets, [], manifest, carry_casts=["Wet deck"])
    assert plan.orphaned == ()
    assert kept["casts"] == manifest["casts"]


def test_two_casts_of_one_name_get_files_of_their_own(library, sets):
    _, _manifest, files, _ = delivered(library, sets, [order("Deck"), order("Deck", "hull")], wanted=target(["glb"]))
    assert {"materials/deck.glb", "materials/deck_2.glb"} <= set(files)


def test_a_cast_of_a_set_that_may_not_be_delivered_is_left_out(library, sets):
    refused = {"hull": "its licence forbids it"}
    _, manifest, _files, problems = delivered(library, sets, [order(), order("Hull", "hull")], refused=refused)
    assert problems == ["the cast Hull: it is fed with hull. its licence forbids it"]
    assert [one["name"] for one in manifest["casts"]] == ["Wet deck"]


def test_a_cast_of_a_set_that_is_gone_is_left_out(library, sets):
    problems = delivered(library, sets, [order("Gone", "nowhere")])[3]
    assert len(problems) == 1
    assert "is gone" in problems[0]


def test_a_target_without_a_word_takes_gltf():
    assert parse_target(json.loads(json.dumps(builtin_targets()["orm-y-minus"]))).casts == ("glb",)


def test_the_report_lists_casts_beside_sets(library, sets):
    _, _, files, _ = delivered(library, sets, [order()])
    report = json.loads(files["report.json"])
    check_document(report, "report", "the report")
    (cast,) = report["casts"]
    assert cast["name"] == "Wet deck"
    assert {one["path"] for one in cast["files"]} >= {f"materials/wet_deck.{form}" for form in FORMATS}
    assert b"Wet deck <span" in files["report.html"]


def test_the_mirror_knows_what_the_maps_of_slots_are(library, sets, tmp_path):
    _, _, files, _ = delivered(library, sets, [order()])
    for path, data in files.items():
        (tmp_path / "out" / path).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / "out" / path).write_bytes(data)
    seen = {one.path: one for one in reflect(tmp_path / "out", mirror_named("by-manifest")).files}
    assert all(one.meant is not None for path, one in seen.items() if path.startswith("materials/"))


def test_a_targets_texts_are_written_for_each_cast(library, sets):
    sidecars = [
        {"name": "materials/{material}.txt", "each": "material", "template": "{{ material.name }} {{ files | length }}"}
    ]
    wanted = parse_target({**builtin_targets()["orm-y-minus"], "casts": ["glb"], "sidecars": sidecars})
    _, manifest, files, _ = delivered(library, sets, [order()], wanted=wanted)
    assert files["materials/wet_deck.txt"] == b"Wet deck 1"
    check_document(manifest, "manifest", "the manifest")
    staying, *_ = delivered(library, sets, [], previous=manifest, wanted=wanted, carry_casts=["Wet deck"])
    assert "materials/wet_deck.txt" in [entry["path"] for entry in staying.carried["files"]]
