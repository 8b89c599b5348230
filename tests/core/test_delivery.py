"""Plans, builds, manifests: same input, same bytes; never a silent overwrite; whole or not at all."""

import json
import re
from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.pictures import FLOAT, SIXTEEN, normal_texels, random_texels, save, simple_set
from texel import digest
from texel.delivery import builtin_targets, deliver_folder, folder, parse_target, plan_delivery, target_named
from texel.delivery.build import packed_chain
from texel.delivery.folder import read_manifest
from texel.delivery.manifest import RESERVED
from texel.dither import dithered
from texel.errors import BadDocument, DeliveryRefused, Unwritable
from texel.files import probe, read
from texel.image import Texels, narrow, to_unit, widen
from texel.library import Library
from texel.normals.direction import find_direction
from texel.normals.vectors import decode, unit
from texel.resize import resize
from texel.roles import Green, Role, Transfer
from texel.schemas import check_document
from texel.sets import MapRef, TextureSet, parse_sets, sets_document
from texel.sorting import sort_files


def target(name="orm-y-minus", **change):
    return parse_target(builtin_targets()[name] | change)


def deliver(source, out, wanted=None, **more):
    library = Library.of_folder(source)
    plan = plan_delivery(sort_files(library).sets, library, wanted or target(), read_manifest(out))
    return deliver_folder(plan, library, out, **more)


def tree(folder):
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


@pytest.mark.parametrize("name", list(builtin_targets()))
def test_same_input_same_bytes_and_a_manifest_that_tells_the_truth(tmp_path, name):
    simple_set(tmp_path / "in", "deck")
    plan, manifest = deliver(tmp_path / "in", tmp_path / "one", target(name))
    deliver(tmp_path / "in", tmp_path / "two", target(name))
    assert tree(tmp_path / "one") == tree(tmp_path / "two")
    check_document(manifest, "manifest", "the manifest")
    assert manifest == json.loads((tmp_path / "one/manifest.json").read_text())
    listed = {entry["path"]: entry for entry in manifest["files"]}
    assert set(listed) | set(RESERVED) == set(tree(tmp_path / "one"))
    for path, entry in listed.items():
        data = (tmp_path / "one" / path).read_bytes()
        assert (digest.of_bytes(data), len(data)) == (entry["digest"], entry["bytes"])
        if entry["kind"] != "material":
            found = probe(tmp_path / "one" / path)
            assert (found.width, found.height, found.bits) == (entry["width"], entry["height"], entry["bits"])
            for source in entry["sources"]:
                assert source["digest"] == digest.of_file(tmp_path / "in" / source["file"])
    assert str(tmp_path) not in json.dumps(manifest)
    assert all(planned.status == "new" for planned in plan.files)


def test_only_what_changed_is_changed(tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull", seed=9)
    deliver(tmp_path / "in", tmp_path / "out")
    before = {p: p.stat().st_ino for p in (tmp_path / "out").rglob("*.png")}
    save(tmp_path / "in/deck_r.png", random_texels("y", width=64, height=64, seed=8))
    (tmp_path / "in/hull_h.png").unlink()
    plan, _ = deliver(tmp_path / "in", tmp_path / "out")
    status = {planned.path: planned.status for planned in plan.files}
    assert [path for path, word in status.items() if word == "changed"] == ["deck/deck_orm.png"]
    assert "hull/hull_height.png" in plan.orphaned
    assert (tmp_path / "out/hull/hull_height.png").exists()
    again, _ = deliver(tmp_path / "in", tmp_path / "out")
    assert {planned.status for planned in again.files} == {"unchanged"}
    assert before  # the folder was there the whole time


def test_never_a_silent_overwrite(tmp_path):
    simple_set(tmp_path / "in", "deck")
    stranger = tmp_path / "out/deck/deck_color.png"
    stranger.parent.mkdir(parents=True)
    stranger.write_bytes(b"painted by hand")
    with pytest.raises(DeliveryRefused, match=r"deck_color\.png.*Nothing was written"):
        deliver(tmp_path / "in", tmp_path / "out")
    assert tree(tmp_path / "out") == {"deck/deck_color.png": b"painted by hand"}
    deliver(tmp_path / "in", tmp_path / "out", replace=True)
    (tmp_path / "out/deck/deck_orm.png").write_bytes(b"edited since")
    with pytest.raises(DeliveryRefused, match="edited"):
        deliver(tmp_path / "in", tmp_path / "out")


def test_a_delivery_that_fails_leaves_nothing(tmp_path, monkeypatch):
    simple_set(tmp_path / "in", "deck")
    monkeypatch.setattr("texel.delivery.folder.gltf_material", lambda *a: 1 / 0)
    with pytest.raises(DeliveryRefused, match="division by zero"):
        deliver(tmp_path / "in", tmp_path / "out")
    assert [p.name for p in tmp_path.iterdir()] == ["in"]


@pytest.mark.parametrize("word", ["nor_gl", "nor_dx", "n"])
@pytest.mark.parametrize("green", [Green.UP, Green.DOWN])
def test_pixels_decide_the_direction_not_the_name(tmp_path, word, green):
    simple_set(tmp_path / "in", "deck", normal_word=word, green=green)
    _, manifest = deliver(tmp_path / "in", tmp_path / "out")
    (entry,) = [e for e in manifest["files"] if e.get("output") == "normal" and e["kind"] == "map"]
    assert (entry["green"], entry["green_from"]) == ("down", "pixels")
    source = read(tmp_path / f"in/deck_{word}.png").pixels
    out = read(tmp_path / "out/deck/deck_normal.png").pixels
    wanted = source.copy()
    if green is Green.UP:
        wanted[:, :, 1] = 255 - wanted[:, :, 1]
    np.testing.assert_array_equal(out, wanted)


def test_a_flat_normal_goes_by_its_name(tmp_path):
    simple_set(tmp_path / "in", "deck", normal_word="nor_gl")
    flat = normal_texels(n=64)
    flat.pixels[:] = (128, 100, 250)
    save(tmp_path / "in/deck_nor_gl.png", flat)
    _, manifest = deliver(tmp_path / "in", tmp_path / "out")
    (entry,) = [e for e in manifest["files"] if e.get("output") == "normal" and e["kind"] == "map"]
    assert entry["green_from"] == "name"
    assert read(tmp_path / "out/deck/deck_normal.png").pixels[0, 0].tolist() == [128, 155, 250]


def test_depths_and_containers(tmp_path):
    simple_set(tmp_path / "in", "deck")
    document = builtin_targets()["orm-y-minus"]
    outputs = [dict(one) for one in document["outputs"]]
    outputs[0]["container"] = "tga"
    outputs[3] |= {"container": "exr", "bits": 32}
    deliver(tmp_path / "in", tmp_path / "out", target(outputs=outputs))
    height = read(tmp_path / "out/deck/deck_height.exr").pixels
    np.testing.assert_allclose(height, read(tmp_path / "in/deck_h.png").pixels / 65535, atol=1e-6)
    np.testing.assert_array_equal(
        read(tmp_path / "out/deck/deck_color.tga").pixels, read(tmp_path / "in/deck_bc.png").pixels
    )


def test_linear_float_colour_is_encoded_for_an_srgb_output(tmp_path):
    simple_set(tmp_path / "in", "deck")
    (tmp_path / "in/deck_bc.png").unlink()
    colour = random_texels("rgb", np.dtype(np.float32), 64, 64)
    colour.pixels[:] = 0.5
    save(tmp_path / "in/deck_bc.exr", colour)
    deliver(tmp_path / "in", tmp_path / "out")
    assert set(np.unique(read(tmp_path / "out/deck/deck_color.png").pixels)) == {188}


def test_maps_of_several_sizes_are_packed_at_the_largest(tmp_path):
    simple_set(tmp_path / "in", "deck")
    save(tmp_path / "in/deck_ao.png", random_texels("y", width=32, height=32))
    _, manifest = deliver(tmp_path / "in", tmp_path / "out")
    (entry,) = [e for e in manifest["files"] if e.get("output") == "orm"]
    assert (entry["width"], entry["height"]) == (64, 64)
    added = {s["role"]: [step["step"] for step in s["added"]] for s in entry["sources"]}
    assert added == {"occlusion": ["resize"], "roughness": [], "metallic": []}


def test_a_set_that_cannot_be_delivered_is_left_out_whole_and_named(tmp_path):
    simple_set(tmp_path / "in", "deck")
    simple_set(tmp_path / "in", "hull")
    save(tmp_path / "in/hull_n.png", random_texels("y", width=64, height=64))
    plan, manifest = deliver(tmp_path / "in", tmp_path / "out")
    assert {entry["set"] for entry in manifest["files"]} == {"deck"}
    assert "hull" in plan.problems[0]
    assert "normal" in plan.problems[0]


def test_of_sets_whose_names_meet_the_first_is_delivered_and_the_others_are_told(tmp_path):
    simple_set(tmp_path / "in", "deck")
    library = Library.of_folder(tmp_path / "in")
    (one,) = sort_files(library).sets
    plan = plan_delivery([TextureSet(name, one.maps) for name in ("Deck", "deck", "hull")], library, target())
    assert {planned.set for planned in plan.files} == {"Deck", "hull"}
    assert len(plan.problems) == 1
    assert re.fullmatch(r"deck: it would write deck/\w+\.png like Deck; rename one of the two sets", plan.problems[0])


def test_a_name_of_78_ideographs_is_cut_by_bytes_and_delivered(tmp_path):
    """The fault: letters were counted, and 78 of three bytes each are no name that a file system takes."""
    simple_set(tmp_path / "in", "deck")
    library = Library.of_folder(tmp_path / "in")
    (one,) = sort_files(library).sets
    plan, _ = deliver_folder(
        plan_delivery([TextureSet("\u6728" * 78, one.maps)], library, target()), library, tmp_path / "o"
    )
    assert not plan.problems
    assert max(len(part.encode()) for name in tree(tmp_path / "o") for part in name.split("/")) <= 255


@pytest.mark.parametrize("fault", [Unwritable("no room for it"), IndexError("a fault of ours")], ids=["told", "ours"])
def test_a_set_that_cannot_be_built_is_told_and_the_others_are_whole(fault, tmp_path, monkeypatch):
    for stem in ("deck", "hull"):
        simple_set(tmp_path / "in", stem, seed=len(stem) if stem == "deck" else 9)
    library = Library.of_folder(tmp_path / "in")
    plan = plan_delivery(sort_files(library, "in").sets, library, target())
    last = [planned for planned in plan.files if planned.set == "hull" and planned.layout][-1]
    build = folder.build_map

    def failing(planned, library):
        if planned is last:
            raise fault
        return build(planned, library)

    monkeypatch.setattr(folder, "build_map", failing)
    kept, manifest = deliver_folder(plan, library, tmp_path / "out")
    assert {planned.set for planned in kept.files} == {"deck"} == {entry["set"] for entry in manifest["files"]}
    assert {path.name for path in (tmp_path / "out").iterdir()} == {"deck", *RESERVED}
    said = str(fault) if isinstance(fault, Unwritable) else f"IndexError: {fault}"
    assert kept.problems == (f"hull: {last.path} cannot be built: {said}",)


def test_a_signed_openexr_is_delivered_with_its_directions(tmp_path):
    """The fault: components below 0 were clipped on the way (50 to 77 degrees)."""
    simple_set(tmp_path / "in", "deck")
    (tmp_path / "in" / "deck_n.png").unlink()
    stored = normal_texels(n=64, strength=10, dtype=FLOAT).pixels
    alpha = random_texels("y", FLOAT, 64, 64).pixels
    signed = Texels(np.concatenate([stored * 2 - 1, alpha], axis=2), "rgba", Transfer.LINEAR)
    save(tmp_path / "in" / "deck_n.exr", signed)
    _, manifest = deliver(tmp_path / "in", tmp_path / "out", target("orm-y-plus"))
    path = next(entry["path"] for entry in manifest["files"] if entry["channels"]["r"]["role"] == "normal")
    made = unit(decode(read(tmp_path / "out" / path).as_role(Role.NORMAL)))
    cosine = (made * unit(stored * 2 - 1)).sum(axis=2)
    assert np.degrees(np.arccos(np.clip(cosine, -1, 1))).max() < 0.6


def test_a_faint_ramp_is_dithered_to_8_bits_where_the_target_asks_for_it(tmp_path):
    """The fault: 16 bits rounded to 8 left plateaus of 81 texels on such a ramp."""
    ramp = np.linspace(0.2, 0.2 + 3 / 255, 256, dtype=np.float32)
    height = narrow(np.tile(ramp, (64, 1))[:, :, None], SIXTEEN)
    save(tmp_path / "in" / "deck_height.png", Texels(height, "y", Transfer.LINEAR))
    output = {
        "output": "h",
        "channels": {"r": {"role": "height"}},
        "colour_space": "linear",
        "container": "png",
        "bits": 8,
    }
    library = Library.of_folder(tmp_path / "in")
    made = {}
    for dither in (False, True):
        wanted = target("orm-y-minus", outputs=[output | {"dither": dither}], material=None)
        plan = plan_delivery(sort_files(library, "in").sets, library, wanted)
        _, manifest = deliver_folder(plan, library, tmp_path / f"out{dither}")
        check_document(manifest, "manifest", "it")
        assert manifest["files"][0].get("dither", False) is dither
        made[dither] = to_unit(read(tmp_path / f"out{dither}" / manifest["files"][0]["path"]).pixels)[:, :, 0]
    apart = [
        float(np.abs(cv2.blur(made[d], (16, 16)) - cv2.blur(ramp[None].repeat(64, 0), (16, 16)))[8:-8, 8:-8].max())
        for d in (False, True)
    ]
    assert apart[1] < 0.1 / 255 < 0.4 / 255 < apart[0]
    assert len(np.unique(made[True])) == len(np.unique(made[False]))


def test_dithering_leaves_what_8_bits_hold_and_is_for_8_bits(tmp_path):
    eight = random_texels("rgb", width=40, height=40).pixels
    np.testing.assert_array_equal(dithered(widen(eight, SIXTEEN)), eight)
    document = builtin_targets()["orm-y-minus"]
    for change in ({"bits": 16, "dither": True}, {"container": "dds", "format": "bc7", "bits": 8, "dither": True}):
        outputs = [{**document["outputs"][0], **change}]
        with pytest.raises(BadDocument, match="dither is for"):
            parse_target(document | {"outputs": outputs})


def test_sets_documents_round_trip_with_recipes():
    ref = MapRef(Role.NORMAL, "a/b.png", None, 0.5, "said so", ({"step": "resize", "width": 8, "height": 8},))
    sets = [TextureSet("deck", (ref, MapRef(Role.METALLIC, "c.png", "b")))]
    assert parse_sets(sets_document(sets)) == sets


@pytest.mark.parametrize(
    ("change", "word"),
    [
        ({"green": "left"}, "green"),
        ({"names": {"pattern": "{output}"}}, "pattern"),
        ({"names": {"pattern": "../{set}_{output}"}}, "pattern"),
        ({"names": {"pattern": "{set}"}}, "needs"),
        ({"outputs": []}, "outputs"),
        ({"unknown": 1}, "unknown"),
    ],
)
def test_bad_targets_say_where(change, word):
    with pytest.raises(BadDocument, match=word):
        target(**change)


@pytest.mark.parametrize(
    ("change", "word"),
    [
        ({"container": "tga", "bits": 16}, "8 bits"),
        ({"container": "exr", "bits": 32}, "linear"),
        ({"channels": {"r": {"role": "x"}}}, "x"),
    ],
)
def test_bad_outputs_say_which(change, word):
    output = builtin_targets()["gltf"]["outputs"][0] | change
    with pytest.raises(BadDocument, match=f"baseColor.*{word}"):
        target("gltf", outputs=[output])


def test_targets_are_found_by_name_and_by_file(tmp_path):
    path = tmp_path / "mine.json"
    path.write_text(json.dumps(builtin_targets()["gltf"] | {"name": "mine"}))
    assert target_named(str(path)).name == "mine"
    with pytest.raises(BadDocument, match="there is no target 'engine'"):
        target_named("engine")


def test_sixteen_bits_narrow_to_nearest(tmp_path):
    simple_set(tmp_path / "in", "deck")
    wide = random_texels("y", SIXTEEN, 64, 64)
    save(tmp_path / "in/deck_r.png", wide)
    deliver(tmp_path / "in", tmp_path / "out")
    green = read(tmp_path / "out/deck/deck_orm.png").channel("g")
    np.testing.assert_array_equal(green, np.round(wide.pixels[:, :, 0] / 257).astype(np.uint8))


def _gpu_target(**more):
    channels = {c: {"role": "normal", "channel": c} for c in "rg"}
    return parse_target(
        {
            "format": "fair-texel/target", "version": 1, "name": "gpu", "green": "down", "material": None,
            "names": {"pattern": "{set}_{output}"}, "largest": 32,
            "outputs": [
                {"output": "bc", "channels": {c: {"role": "base_color", "channel": c} for c in "rgb"},
                 "colour_space": "srgb", "container": "ktx2", "format": "astc_4x4", "quality": "quick", "zstd": True},
                {"output": "n", "channels": channels, "colour_space": "linear", "container": "dds", "format": "bc5"},
                {"output": "orm", "channels": {"r": {"role": "occlusion", "power": 2}, "g": {"role": "roughness"},
                 "b": {"role": "metallic"}}, "colour_space": "linear", "container": "dds", "format": "bc7",
                 "quality": "quick", **more},
            ],
        }
    )  # fmt: skip


def test_a_target_of_block_formats_is_made_smaller_encoded_and_read_back(tmp_path):
    simple_set(tmp_path / "in", "deck")
    library = Library.of_folder(tmp_path / "in")
    sets = sort_files(library, "in").sets
    plan = plan_delivery(sets, library, _gpu_target())
    _, manifest = deliver_folder(plan, library, tmp_path / "out")
    entries = {entry["output"]: entry for entry in manifest["files"]}
    assert {(e["width"], e["height"], e["mips"]) for e in entries.values()} == {(32, 32, True)}
    assert [entries[o]["format"] for o in ("bc", "n", "orm")] == ["astc_4x4", "bc5", "bc7"]
    # 32 x 32 of 16 bytes a block of 4 x 4, and levels down to one block.
    assert entries["n"]["memory"] == 16 * (64 + 16 + 4 + 1 + 1 + 1)
    colour = read(tmp_path / "out" / entries["bc"]["path"])
    assert colour.tags.declared_transfer == "srgb"
    normal = read(tmp_path / "out" / entries["n"]["path"]).as_role(Role.NORMAL)
    assert (normal.channels, find_direction(normal).green) == ("rg", Green.DOWN)
    assert entries["orm"]["normals"]["role"] == "normal"
    orm = to_unit(read(tmp_path / "out" / entries["orm"]["path"]).pixels)
    occlusion = resize(library.map(sets[0].in_use()[Role.OCCLUSION]), 32, 32)
    assert np.abs(orm[:, :, 0] - to_unit(occlusion.pixels)[:, :, 0] ** 2).mean() < 0.03


def test_smaller_levels_of_a_pack_take_up_what_normals_lose(tmp_path):
    simple_set(tmp_path / "in", "deck")
    library = Library.of_folder(tmp_path / "in")
    plan = plan_delivery(sort_files(library, "in").sets, library, _gpu_target())
    planned = next(f for f in plan.files if f.output == "orm")
    chain = packed_chain(planned, library)
    without = packed_chain(replace(planned, normals=None), library)
    assert len(chain) == 6
    assert to_unit(chain[-2].pixels)[:, :, 1].mean() > to_unit(without[-2].pixels)[:, :, 1].mean()
    np.testing.assert_array_equal(chain[-2].pixels[:, :, [0, 2]], without[-2].pixels[:, :, [0, 2]])
    assert planned.digest() != replace(planned, normals=None).digest()


@pytest.mark.parametrize(
    ("more", "reason"),
    [
        ({"format": "bc4"}, "holds 1 channels, the output has 3"),
        ({"format": "bc9"}, "there is no format 'bc9'"),
        ({"format": "astc_4x4"}, "dds has no code"),
        ({"container": "png"}, "format is for dds and ktx2"),
        ({"colour_space": "srgb", "format": "bc6h"}, "linear light"),
        ({"colour_space": "srgb", "format": "rgba16"}, "no sRGB form"),
        ({"zstd": True}, "only ktx2"),
        ({"bits": 16}, "has 8 bits a channel, not 16"),
    ],
)
def test_what_a_format_cannot_hold_is_refused_by_name(more, reason):
    with pytest.raises(BadDocument, match=reason):
        _gpu_target(**more)
