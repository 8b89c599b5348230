"""Checks: each on a faulty set and on a clean one. Thresholds without a source are common practice of the trade."""

import base64
import struct
from dataclasses import replace

import imagecodecs
import numpy as np
import pytest

from demo.intake import PROJECTS
from demo.patterns import noise
from tests.pictures import EIGHT, SIXTEEN, normal_texels, random_texels, save, simple_set
from texel.checks import Wanted, check_sets, check_undecided
from texel.delivery import target_named
from texel.files import read
from texel.files.png import pieces
from texel.image import Texels, narrow
from texel.library import Library
from texel.recipes import apply_recipe
from texel.roles import Green, Role, Transfer
from texel.sets import MapRef, TextureSet
from texel.sorting import sort_files


def findings(folder):
    library = Library.of_folder(folder)
    return check_sets(sort_files(library).sets, library)


def by_check(folder):
    return {found.check: found for found in findings(folder)}


def put_grey(path, values, dtype=EIGHT):
    save(path, Texels(narrow(np.asarray(values, np.float32)[:, :, None], dtype), "y", Transfer.LINEAR))


def test_a_clean_set_has_no_findings(tmp_path):
    simple_set(tmp_path, "deck", normal_word="nor_gl")
    assert findings(tmp_path) == []


@pytest.mark.parametrize(("word", "green"), [("nor_gl", Green.DOWN), ("nor_dx", Green.UP)])
def test_direction_against_the_name_and_its_remedy(tmp_path, word, green):
    simple_set(tmp_path, "deck", normal_word=word, green=green)
    library = Library.of_folder(tmp_path)
    sets = sort_files(library).sets
    (found,) = check_sets(sets, library)
    assert (found.check, found.severity, found.role) == ("direction_against_name", "error", Role.NORMAL)
    assert found.measure < found.threshold
    assert found.place is not None
    # The remedy, applied, cures it.
    maps = tuple(
        MapRef(ref.role, ref.file, ref.channel, recipe=(found.remedy,)) if ref.role is Role.NORMAL else ref
        for ref in sets[0].maps
    )
    assert check_sets([TextureSet("deck", maps)], library) == []


def test_vectors_not_of_unit_length(tmp_path):
    simple_set(tmp_path, "deck", n=128)
    path = tmp_path / "deck_n.png"
    texels = read(path).as_role(Role.NORMAL)
    shrunk = ((texels.pixels / 255 * 2 - 1) * 0.8 + 1) / 2
    save(path, texels.with_pixels(narrow(shrunk.astype(np.float32), EIGHT)))
    found = by_check(tmp_path)["not_unit_length"]
    assert found.measure > 0.9
    mended = apply_recipe(read(path).as_role(Role.NORMAL), [found.remedy])
    save(path, mended)
    assert "not_unit_length" not in by_check(tmp_path)


def test_plain_blue_gets_the_remedy_that_rebuilds_it(tmp_path):
    simple_set(tmp_path, "deck", n=128)
    texels = read(tmp_path / "deck_n.png").as_role(Role.NORMAL)
    texels.pixels[:, :, 2] = 255
    save(tmp_path / "deck_n.png", texels)
    assert by_check(tmp_path)["not_unit_length"].remedy == {"step": "z_from_xy"}


def test_a_colour_picture_is_no_normal_map(tmp_path):
    simple_set(tmp_path, "deck")
    save(tmp_path / "deck_n.png", random_texels("rgb", width=64, height=64))
    assert by_check(tmp_path)["not_a_normal_map"].severity == "error"
    put_grey(tmp_path / "deck_n.png", noise(64, 1))
    assert by_check(tmp_path)["not_a_normal_map"].severity == "error"


@pytest.mark.parametrize(("word", "role"), [("bc", "base_color"), ("n", "normal"), ("r", "roughness")])
def test_missing_maps(tmp_path, word, role):
    simple_set(tmp_path, "deck")
    (tmp_path / f"deck_{word}.png").unlink()
    assert [(f.check, f.role.value) for f in findings(tmp_path)] == [("missing_map", role)]


def test_gloss_stands_in_for_roughness(tmp_path):
    simple_set(tmp_path, "deck")
    (tmp_path / "deck_r.png").rename(tmp_path / "deck_gloss.png")
    assert list(by_check(tmp_path)) == ["gloss_for_roughness"]


def test_plain_occlusion_names_the_constant(tmp_path):
    simple_set(tmp_path, "deck")
    put_grey(tmp_path / "deck_ao.png", np.ones((64, 64)))
    found = by_check(tmp_path)["plain_channel"]
    assert found.role is Role.OCCLUSION
    assert "constant of 1" in found.message


def test_sizes(tmp_path):
    simple_set(tmp_path, "deck")
    put_grey(tmp_path / "deck_r.png", noise(32, 1))
    found = by_check(tmp_path)
    assert (found["sizes_differ"].measure, found["sizes_differ"].threshold) == (32, 64)
    assert found["sizes_differ"].remedy == {"step": "resize", "width": 64, "height": 64}


@pytest.mark.parametrize(("side", "check"), [(1000, "not_power_of_two"), (1022, "not_multiple_of_four")])
def test_awkward_sides(tmp_path, side, check):
    simple_set(tmp_path, "deck")
    for path in tmp_path.iterdir():
        channels = "y" if path.stem[-1] in "rmoh" else "rgb"
        save(path, random_texels(channels, width=side, height=side))
    found = [f for f in findings(tmp_path) if f.check == check]
    assert {f.remedy["width"] for f in found} == {1024}
    assert len(found) == 6


@pytest.mark.parametrize(
    ("word", "chunk", "wrong"),
    [
        ("r", (b"sRGB", b"\0"), True),
        ("r", (b"gAMA", struct.pack(">I", 45455)), True),
        ("r", (b"gAMA", struct.pack(">I", 100000)), False),
        ("bc", (b"gAMA", struct.pack(">I", 100000)), True),
        ("bc", (b"sRGB", b"\0"), False),
    ],
)
def test_colour_tag_against_role(tmp_path, word, chunk, wrong):
    simple_set(tmp_path, "deck")
    path = tmp_path / f"deck_{word}.png"
    texels = Texels(read(path).pixels, read(path).channels, Transfer.LINEAR)
    path.write_bytes(b"".join(pieces(texels.pixels, [chunk])))
    found = by_check(tmp_path).get("tag_against_role")
    assert (found is not None) is wrong
    if found:
        # What a reader that obeys the tag gets wrong, by the sRGB curve (IEC 61966-2-1:1999).
        unit = texels.pixels / 255
        misread = np.where(unit <= 0.04045, unit / 12.92, ((unit + 0.055) / 1.055) ** 2.4)
        assert found.measure == pytest.approx(np.abs(unit - misread).mean(), abs=1e-4)
        (one,) = sort_files(Library.of_folder(tmp_path)).sets
        maps = tuple(replace(ref, recipe=(found.remedy,)) if ref.role is found.role else ref for ref in one.maps)
        library = Library.of_folder(tmp_path)
        assert check_sets([TextureSet(one.name, maps)], library) == []


def test_hidden_and_plain_alpha(tmp_path):
    simple_set(tmp_path, "leaf")
    pixels = random_texels("rgba", width=64, height=64).pixels
    pixels[:, :, 3] = np.where(noise(64, 1) > 0.5, 255, 0)
    save(tmp_path / "leaf_bc.png", Texels(pixels, "rgba", Transfer.SRGB))
    found = by_check(tmp_path)["hidden_alpha"]
    assert "cut-out" in found.message
    assert found.place.channel == "a"
    pixels[:, :, 3] = 255
    save(tmp_path / "leaf_bc.png", Texels(pixels, "rgba", Transfer.SRGB))
    assert "plain_alpha" in by_check(tmp_path)


def test_steps_in_height(tmp_path):
    simple_set(tmp_path, "mud", n=128)
    assert by_check(tmp_path) == {}
    put_grey(tmp_path / "mud_h.png", noise(128, 4), EIGHT)
    assert by_check(tmp_path)["height_steps"].measure <= 256
    put_grey(tmp_path / "mud_h.png", np.round(noise(128, 4) * 255) / 255, SIXTEEN)  # 16 bits that hold only 8
    assert by_check(tmp_path)["height_steps"].measure <= 256


def test_roughness_and_metallic_exchanged(tmp_path):
    simple_set(tmp_path, "bell")
    assert by_check(tmp_path) == {}
    (tmp_path / "bell_r.png").rename(tmp_path / "x")
    (tmp_path / "bell_m.png").rename(tmp_path / "bell_r.png")
    (tmp_path / "x").rename(tmp_path / "bell_m.png")
    assert by_check(tmp_path)["roughness_metallic_exchanged"].severity == "error"


def test_a_broken_map_does_not_hide_the_others(tmp_path):
    simple_set(tmp_path, "deck", normal_word="nor_gl", green=Green.DOWN)
    path = tmp_path / "deck_r.png"
    path.write_bytes(path.read_bytes()[:-40])
    found = by_check(tmp_path)
    assert set(found) == {"unreadable", "direction_against_name"}
    assert "deck_r.png" in found["unreadable"].message


def test_unreadable_files_are_errors_and_others_notes(tmp_path):
    (tmp_path / "bad.png").write_bytes(b"nothing")
    save(tmp_path / "some picture.png", random_texels("rgb"))
    library = Library.of_folder(tmp_path)
    severities = {f.file: f.severity.value for f in check_undecided(sort_files(library).undecided)}
    assert severities == {"bad.png": "error", "some picture.png": "note"}


def test_the_faults_of_the_demo_are_found(demo_folders):
    """Each listed fault of the scenario that a check of today can find, and no error where there is no fault."""
    found = {(f.set, f.check) for project in PROJECTS for f in findings(demo_folders / project)}
    wanted = {
        ("mooring_rope", "direction_against_name"),
        ("BrassBell", "roughness_metallic_exchanged"),
        ("glazed_wall_tile", "gloss_for_roughness"),
        ("lichen bark", "plain_channel"),
        ("pear_leaf_card", "hidden_alpha"),
        ("tidal-mud", "height_steps"),
        ("oyster_shell_gravel", "not_power_of_two"),
        ("oyster_shell_gravel", "sizes_differ"),
        ("reed_bed", "missing_map"),
        ("CorkFender", "baked_light"),
    }
    assert wanted <= found
    # What else is said: a plain metallic is a note; baked shadow makes cork too dark; 8-bit heights keep a rounding.
    # Two pots of one stem were made from one relief in two colours.
    pots = {(f"clay_pot_{place}", "twin_across_project") for place in ("garden", "shed")}
    assert found - wanted <= {("slate-pier", "plain_channel"), ("CorkFender", "implausible_colour"), *pots}
    left = sort_files(Library.of_folder(demo_folders / "saltmarsh_ferry"))
    assert [one.file for one in left.undecided] == ["IMG_2041.jpg"]
    names = [one.name for one in sort_files(Library.of_folder(demo_folders / "night_orchard")).sets]
    assert {"clay_pot_garden", "clay_pot_shed"} <= set(names)


def test_a_map_flipped_in_its_recipe_is_what_its_name_says(tmp_path):
    save(tmp_path / "a_nor_gl.png", normal_texels(Green.DOWN))
    library = Library.of_folder(tmp_path)
    ref = MapRef(Role.NORMAL, "a_nor_gl.png", recipe=({"step": "flip_green"},))
    checks = {f.check for f in check_sets([TextureSet("a", (ref,))], library)}
    assert "direction_against_name" not in checks


def test_a_finding_marks_where_it_lies(tmp_path):
    simple_set(tmp_path, "deck")
    normal = normal_texels(n=64)
    pixels = normal.pixels.copy()
    pixels[8:24, 40:56] = 255
    save(tmp_path / "deck_n.png", normal.with_pixels(pixels))
    found = by_check(tmp_path)["not_unit_length"]
    marks = imagecodecs.png_decode(base64.b64decode(found.marks))[:, :, 1]
    assert marks.shape == (64, 64)
    assert marks[8:24, 40:56].min() > 200
    assert marks[32:, :32].max() < 60
    assert found.document()["marks"] == found.marks


def test_what_turning_specular_into_metallic_loses_is_told(tmp_path):
    simple_set(tmp_path, "deck")
    (tmp_path / "deck_m.png").unlink()
    dielectric = np.full((64, 64, 3), 0.225, np.float32)  # 0.04 in sRGB, all but exactly
    save(tmp_path / "deck_specular.png", Texels(narrow(dielectric, EIGHT), "rgb", Transfer.SRGB))
    found = by_check(tmp_path)["specular_workflow"]
    assert (found.severity, found.remedy["role"]) == ("note", "metallic")
    dielectric[:32] = (0.9, 0.1, 0.1)
    save(tmp_path / "deck_specular.png", Texels(narrow(dielectric, EIGHT), "rgb", Transfer.SRGB))
    found = by_check(tmp_path)["specular_workflow"]
    assert found.severity == "warning"
    assert found.measure == pytest.approx(0.5, abs=0.05)
    assert found.place.y < 32


def test_twins_across_sets_are_told_on_both_sides(tmp_path):
    for stem, seed in (("deck", 1), ("hull", 20), ("quay", 40)):
        simple_set(tmp_path, stem, seed=seed)
    assert "twin_across_project" not in by_check(tmp_path)
    height = read(tmp_path / "deck_h.png")
    save(tmp_path / "hull_ao.png", height.with_pixels(65535 - height.pixels))
    found = [f for f in findings(tmp_path) if f.check == "twin_across_project"]
    assert {(f.set, f.role.value) for f in found} == {("deck", "height"), ("hull", "occlusion")}
    assert "The inverse of height of deck" in next(f.message for f in found if f.set == "hull")


def test_maps_larger_than_the_target_takes(tmp_path):
    simple_set(tmp_path, "deck")
    library = Library.of_folder(tmp_path)
    sets = sort_files(library, "in").sets
    wanted = Wanted("small things", {Role.NORMAL: 32, Role.HEIGHT: 64})
    found = [f for f in check_sets(sets, library, wanted) if f.check == "larger_than_target"]
    assert [(f.role, f.remedy) for f in found] == [(Role.NORMAL, {"step": "resize", "width": 32, "height": 32})]
    assert target_named("orm-y-minus").largest == {}
