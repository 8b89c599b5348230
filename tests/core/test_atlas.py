"""Atlases: cells placed without touching, copied to the bit, clean in smaller mips, and cut out again.

Packing is rectpack's; that nothing overlaps, and what mips hold, is checked by arithmetic here.
"""

import json

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as some

from tests.core.test_delivered_models import BOAT, delivered, folder, the_file, validated
from tests.meshes import glb, gltf_parts, quad
from tests.pictures import save
from texel.atlas.building import atlas_maps, atlas_roles, own_sizes
from texel.atlas.packing import clean_levels, plan_atlas, sides_of_density
from texel.atlas.regions import Region, crop_of, grid_regions, parse_regions, regions_document, regions_of
from texel.cli import main
from texel.errors import BadDocument
from texel.files import read
from texel.gltf_file import joined_glb
from texel.image import Texels
from texel.library import Library, list_files
from texel.meshes.facts import measure_mesh
from texel.meshes.judging import Worn, density_of, judge_mesh
from texel.meshes.reading import read_mesh
from texel.meshes.regions import place_of
from texel.meshes.rules import DEFAULT_MODELS, parse_models
from texel.recipes import apply_recipe
from texel.roles import Role, Transfer
from texel.sorting import sort_files

__all__ = ["folder"]

SIZES = some.dictionaries(
    some.sampled_from([f"set {n}" for n in range(12)]),
    some.tuples(some.integers(1, 300), some.integers(1, 300)), min_size=2, max_size=12,
)  # fmt: skip


def plain(path, value, side, channels="y"):
    save(path, Texels(np.full((side, side, len(channels)), value, np.uint8), channels, Transfer.LINEAR))


def sorted_sets(folder):
    library = Library(list_files(folder))
    return library, {one.name: one for one in sort_files(library, "in").sets}


def outer(plan, cell):
    """The cell with its room."""
    return (cell.x - plan.padding, cell.y - plan.padding, cell.x + cell.width + plan.padding,
            cell.y + cell.height + plan.padding)  # fmt: skip


def built(folder, **how):
    library, sets = sorted_sets(folder)
    plan = plan_atlas(own_sizes(sets, library), **how)
    return library, sets, plan, {one.role: one for one in atlas_maps(plan, sets, library)}


@settings(deadline=None, max_examples=60)
@given(sizes=SIZES, padding=some.sampled_from([0, 2, 4, 8, 16]))
def test_cells_keep_their_size_and_their_room_and_never_touch(sizes, padding):
    plan = plan_atlas(sizes, padding)
    assert {one.set: (one.width, one.height) for one in plan.cells} == sizes
    taken = np.zeros((plan.height, plan.width), np.uint8)
    for cell in plan.cells:
        left, top, right, bottom = outer(plan, cell)
        assert left % plan.block == top % plan.block == 0
        assert left >= 0
        assert right <= plan.width
        assert top >= 0
        assert bottom <= plan.height
        taken[top:bottom, left:right] += 1
    assert taken.max() == 1
    assert all(side & (side - 1) == 0 for side in (plan.width, plan.height))


def test_a_smaller_atlas_makes_all_cells_smaller_by_one_factor():
    plan = plan_atlas({"hull": (512, 512), "bolt": (256, 128)}, 8, (256, 256))
    hull, bolt = plan.cells
    assert (plan.width, plan.height) == (256, 256)
    assert hull.width == hull.height < 256
    assert hull.width / bolt.width == pytest.approx(2, rel=0.1)
    assert bolt.width / bolt.height == pytest.approx(2, rel=0.1)


@pytest.mark.parametrize(
    ("sizes", "how", "words"),
    [
        ({"a": (64, 64)}, {}, "2 to 512 sets"),
        ({"a": (64, 64), "b": (64, 64)}, {"padding": 7}, "room around"),
        ({"a": (64, 64), "b": (64, 64)}, {"side": (100, 100)}, "powers of two"),
        ({"a": (64, 64), "b": (64, 64)}, {"side": (16, 16), "padding": 16}, "do not fit"),
        ({"a": (9000, 9000), "b": (64, 64)}, {}, "give a size"),
        ({"a": (0, 64), "b": (64, 64)}, {}, "texels a side"),
    ],
)
def test_what_cannot_be_placed_is_refused_with_the_reason(sizes, how, words):
    with pytest.raises(BadDocument, match=words):
        plan_atlas(sizes, **how)


def test_cells_by_density_have_the_same_texels_a_metre_and_none_more_than_it_has():
    sides = sides_of_density({"hull": (1024, 512), "bolt": (1024, 1024), "rope": (64, 64)}, {"hull": 1, "bolt": 8})
    assert sides == {"hull": (1024, 512), "bolt": (128, 128), "rope": (64, 64)}
    assert sides_of_density({"hull": (512, 512)}, {"hull": 1.0}, 4096) == {"hull": (512, 512)}


def test_every_map_of_every_set_comes_back_to_the_bit(folder):
    library, sets, plan, maps = built(folder, padding=4)
    regions = {one.name: one for one in plan.regions()}
    compared = 0
    for name, one in sets.items():
        for role, ref in one.in_use().items():
            source = library.map(ref)
            cut = apply_recipe(maps[role].texels, [crop_of(regions[name])], library.context(ref))
            assert np.array_equal(cut.pixels[..., : source.pixels.shape[2]], source.pixels[..., : cut.pixels.shape[2]])
            compared += 1
    assert compared >= 6


def test_smaller_mips_hold_no_neighbour_down_to_the_level_that_is_told(folder):
    """Two plain cells of 0 and 255; a box filter (OpenCV INTER_AREA) keeps each cell plain to the last clean mip."""
    for name, value in (("black", 0), ("white", 255)):
        plain(folder / f"{name}_roughness.png", value, 48)
    _, _, plan, maps = built(folder, padding=8)
    whole = maps[Role.ROUGHNESS].texels.pixels[:, :, 0]
    assert clean_levels(8) == 3
    for level in range(1, 4):
        step = 2**level
        small = cv2.resize(whole, (plan.width // step, plan.height // step), interpolation=cv2.INTER_AREA)
        for cell in plan.cells:
            if cell.set not in ("black", "white"):
                continue
            # With the texel beside each border, which reading between texels takes in.
            left, top = cell.x // step - 1, cell.y // step - 1
            right, bottom = -(-(cell.x + cell.width) // step) + 1, -(-(cell.y + cell.height) // step) + 1
            assert set(np.unique(small[top:bottom, left:right])) == {0 if cell.set == "black" else 255}


def test_a_set_without_a_map_gets_the_value_that_does_not_show(folder):
    plain(folder / "rope_emissive.png", 200, 32, "rgb")
    _, sets, plan, maps = built(folder)
    assert Role.EMISSIVE in atlas_roles(sets)
    assert maps[Role.EMISSIVE].missing == ("planks",)
    cell = next(one for one in plan.cells if one.set == "planks")
    glow = maps[Role.EMISSIVE].texels.pixels
    assert not glow[cell.y : cell.y + cell.height, cell.x : cell.x + cell.width].any()


def test_regions_are_checked_and_read_back():
    regions = (Region("plank", 0, 0.25, 1, 0.125, (2.0, 0.25)), Region("bolt", 0.5, 0.5, 0.25, 0.25))
    assert parse_regions(json.loads(json.dumps(regions_document(one.document() for one in regions)))) == regions
    assert [one.is_strip for one in regions] == [True, False]
    for bad in (
        {"name": "a", "left": 0.9, "top": 0, "width": 0.2, "height": 1}, {"name": " ", "left": 0, "top": 0, "width": 1,
        "height": 1}, {"name": "a", "left": 0, "top": 0, "width": 0, "height": 1},
    ):  # fmt: skip
        with pytest.raises(BadDocument):
            regions_of([bad])
    with pytest.raises(BadDocument, match="two regions are called bolt"):
        regions_of([regions[1].document(), {**regions[1].document(), "name": "Bolt"}])
    with pytest.raises(BadDocument, match="1 to 512"):
        grid_regions(0, 3)


def test_a_cell_moves_uvs_and_a_strip_keeps_its_size_in_metres():
    assert tuple(place_of(Region("bolt", 0.5, 0.25, 0.25, 0.5), None)) == (0.25, 0.5, 0.5, 0.25)
    # A surface whose U goes over 1 m, on a strip that is 4 m long: a quarter of it.
    assert tuple(place_of(Region("plank", 0, 0.5, 1, 0.1, (4.0, 0.2)), (1.0, 0.2))) == (0.25, 0.1, 0.0, 0.5)


def cell_facts(**how):
    return measure_mesh(read_mesh("a.glb", {"a.glb": glb(quad(**how))}))


def worn(region, side=1024, **more):
    return {0: Worn("Atlas", side, sets=frozenset(["atlas"]), region=region, **more)}


def checks(facts, worn):
    return {one.check for one in judge_mesh(facts, worn, parse_models(DEFAULT_MODELS))}


def test_density_is_that_of_the_cell():
    """One metre of a cell of a quarter of the side of 1024: 256 texels a metre."""
    facts = cell_facts()
    assert density_of(facts.slots[0], worn(Region("bolt", 0, 0, 0.25, 0.25))[0]) == pytest.approx(256)
    assert facts.slots[0].unit == pytest.approx((1, 1))


def test_uvs_that_leave_their_cell_are_an_error_and_along_a_strip_they_are_not():
    facts = cell_facts(uv_to=(3.0, 1.0))
    assert "uv_leaves_region" in checks(facts, worn(Region("bolt", 0, 0, 0.5, 0.5)))
    assert "uv_leaves_region" not in checks(facts, worn(Region("plank", 0, 0, 1, 0.5)))
    assert "uv_repeats" not in checks(facts, worn(Region("plank", 0, 0, 1, 0.5)))
    assert "uv_leaves_region" in checks(cell_facts(uv_to=(1.0, 3.0)), worn(Region("plank", 0, 0, 1, 0.5)))


def test_maps_that_repeat_and_strips_of_another_width_are_told():
    facts = cell_facts()
    assert "tiling_on_region" in checks(facts, worn(Region("bolt", 0, 0, 0.5, 0.5), tiling=2.0))
    assert "strip_stretched" in checks(facts, worn(Region("plank", 0, 0, 1, 0.5, (4.0, 0.5))))
    assert "strip_stretched" not in checks(facts, worn(Region("plank", 0, 0, 1, 0.5, (4.0, 1.0))))


REGION = Region("coil", 0.5, 0.25, 0.25, 0.5)


@pytest.mark.parametrize("form", ["gltf", "obj"])
def test_a_delivered_model_has_its_uvs_in_the_cell_and_others_where_they_were(folder, tmp_path, form):
    if form == "gltf":
        mesh, how = glb(*BOAT), {}
    else:
        text = b"v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n"
        text += b"o hull\nusemtl planks\nf 1/1 2/2 3/3 4/4\no coil\nusemtl rope\nf 1/1 2/2 3/3 4/4\n"
        mesh, how = None, {"main": "boat.obj", "files": {"boat.obj": text}}
    made = the_file(folder, mesh=mesh, regions={"rope": REGION}, **how)
    assert validated(made, tmp_path) == []
    read_back = read_mesh("b.glb", {"b.glb": made})
    of_part = {one.part: one.uvs[0] for one in read_back.pieces}
    assert of_part["hull"].min() == 0
    assert of_part["hull"].max() == 1
    assert (of_part["coil"].min(axis=0).tolist(), of_part["coil"].max(axis=0).tolist()) == ([0.5, 0.25], [0.75, 0.75])


def test_parts_that_share_their_uvs_in_the_file_part_where_one_is_moved(folder):
    document, data = gltf_parts([quad(part="hull", slot="planks"), quad(part="coil", slot="rope")])
    first, second = (one["primitives"][0] for one in document["meshes"])
    second["attributes"]["TEXCOORD_0"] = first["attributes"]["TEXCOORD_0"]
    made = the_file(folder, mesh=joined_glb(document, data), regions={"rope": REGION})
    of_part = {one.part: one.uvs[0].max() for one in read_mesh("b.glb", {"b.glb": made}).pieces}
    assert of_part == {"hull": 1.0, "coil": 0.75}


def test_another_region_is_another_file(folder):
    _, manifest, _, _ = delivered(folder, regions={"rope": REGION})
    again, *_ = delivered(folder, regions={"rope": REGION}, previous=manifest)
    assert again.files[0].status == "unchanged"
    other, *_ = delivered(folder, regions={"rope": Region("coil", 0, 0, 0.5, 0.5)}, previous=manifest)
    assert other.files[0].why == ("source",)


def test_the_command_line_makes_an_atlas_and_cuts_it(folder, tmp_path, capsys):
    out = tmp_path / "atlas"
    assert main(["atlas", str(folder), "--padding", "4", "-o", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert {one["set"] for one in told["cells"]} == {"planks", "rope"}
    (tmp_path / "cut").mkdir()
    table = out / "atlas_regions.json"
    words = ["cut", str(out), "--set", "atlas", "--regions", str(table), "-o", str(tmp_path / "cut")]
    assert main(words) == 0
    again = read(tmp_path / "cut" / "rope_roughness.png")
    assert np.array_equal(again.pixels, read(folder / "rope_r.png").pixels)


def test_the_command_line_says_what_is_missing(folder, tmp_path, capsys):
    assert main(["atlas", str(folder), "--sets", "planks", "sail", "-o", str(tmp_path / "o")]) == 2
    assert "there is no set 'sail'; there are" in capsys.readouterr().err
    assert main(["cut", str(folder), "--set", "planks", "-o", str(tmp_path / "o")]) == 2
    assert "--grid" in capsys.readouterr().err
