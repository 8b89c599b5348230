"""Judging maps as other people make them: unwrapped models, grey surfaces, packed files in one role, ICC profiles."""

import struct
import zlib
from dataclasses import replace

import imagecodecs
import numpy as np
import pytest

from demo.patterns import noise
from tests.pictures import EIGHT, normal_texels, save, simple_set
from tests.surfaces_small import map_of, pack_of
from texel.checks import Severity, Wanted, check_sets, undecided_by_set
from texel.checks.islands import padding_of
from texel.colour import decode_srgb
from texel.files import read
from texel.files.icc import inflate_profile, profile_primaries, profile_says
from texel.image import Texels, narrow, to_unit
from texel.library import Library
from texel.recipes import apply_recipe
from texel.roles import Green, Role, Transfer
from texel.sorting import Undecided, sort_files


def found(folder, wanted=None):
    library = Library.of_folder(folder)
    return {(f.check, f.role): f for f in check_sets(sort_files(library, "in").sets, library, wanted)}


def colour(values):
    return Texels(narrow(values.astype(np.float32), EIGHT), "rgb", Transfer.SRGB)


def islands(n=128):
    """Two painted pieces on black, whose borders do not meet anywhere."""
    values = np.zeros((n, n, 3), np.float32)
    values[10:70, 8:60] = 0.3 + 0.3 * noise(n, 1)[10:70, 8:60, None]
    values[80:, 70:] = 0.4 + 0.3 * noise(n, 2)[80:, 70:, None] * np.float32([1.0, 0.7, 0.4])
    return values


# Unwrapped models ----------------------------------------------------------------------------------------------------


def test_padding_is_one_flat_value_over_an_area():
    mask = padding_of(colour(islands()))
    assert mask is not None
    assert mask[0, 0]
    assert not mask[40, 30]
    assert padding_of(colour(np.repeat(noise(64, 3)[:, :, None], 3, axis=2))) is None


def test_padding_is_not_counted_as_a_colour_that_no_material_has(tmp_path):
    save(tmp_path / "crate_c.png", colour(islands()))
    save(tmp_path / "crate_n.png", normal_texels())
    assert ("implausible_colour", Role.BASE_COLOR) not in found(tmp_path)


def test_an_unwrapped_model_need_not_tile(tmp_path):
    save(tmp_path / "crate_c.png", colour(islands()))
    seams = [f for (check, _), f in found(tmp_path).items() if check == "seam"]
    assert all(f.severity is Severity.NOTE for f in seams)


def test_a_colour_that_breaks_beside_maps_that_meet_is_a_seam(tmp_path):
    simple_set(tmp_path, "deck")
    x = np.linspace(0.5, 1.0, 64, dtype=np.float32)[None, :, None]
    save(tmp_path / "deck_bc.png", colour(x * (0.6 + 0.2 * np.repeat(noise(64, 9)[:, :, None], 3, axis=2))))
    assert found(tmp_path)["seam", Role.BASE_COLOR].severity is Severity.WARNING


def test_bevels_that_meet_at_the_border_are_no_seam(tmp_path):
    """A panel whose edges lean outwards on both sides: the groove between two of them is what is meant."""
    n = 64
    x = np.linspace(-1, 1, n, dtype=np.float32)
    lean = np.repeat((np.abs(x) > 0.9) * np.sign(x) * 0.6, n).reshape(n, n).T
    vectors = np.stack([lean, np.zeros_like(lean), np.sqrt(1 - lean**2)], axis=2)
    save(tmp_path / "panel_n.png", Texels(narrow((vectors + 1) / 2, EIGHT), "rgb", Transfer.LINEAR))
    assert ("seam", Role.NORMAL) not in found(tmp_path)


# Colour --------------------------------------------------------------------------------------------------------------


def test_a_grey_surface_is_only_noted_and_a_scalar_map_in_its_place_is_not(tmp_path):
    simple_set(tmp_path, "slab")
    grey = np.repeat(0.5 + 0.2 * noise(64, 7)[:, :, None], 3, axis=2)
    save(tmp_path / "slab_bc.png", colour(grey))
    assert found(tmp_path)["grey_colour", Role.BASE_COLOR].severity is Severity.NOTE
    height = Library.of_folder(tmp_path).texels("slab_h.png").pixels / 65535
    save(tmp_path / "slab_bc.png", colour(np.repeat(0.2 + 0.6 * height, 3, axis=2)))
    again = found(tmp_path)["grey_colour", Role.BASE_COLOR]
    assert again.severity is Severity.WARNING
    assert "height" in again.message


def test_black_beside_a_specular_map_is_a_metal(tmp_path):
    save(tmp_path / "pipe_d.png", colour(0.05 * np.repeat(noise(64, 1)[:, :, None], 3, axis=2)))
    save(tmp_path / "pipe_spec.png", map_of(Role.SPECULAR))
    save(tmp_path / "pipe_n.png", normal_texels())
    assert ("implausible_colour", Role.BASE_COLOR) not in found(tmp_path)


# One channel of three ------------------------------------------------------------------------------------------------


def test_three_unlike_channels_in_a_role_of_one_are_told_and_red_is_not_called_plain(tmp_path):
    simple_set(tmp_path, "deck")
    save(tmp_path / "deck_r.png", pack_of((None, Role.ROUGHNESS, Role.METALLIC)))
    findings = found(tmp_path)
    told = findings["unlike_channels", Role.ROUGHNESS]
    assert "R plain black, G grey around" in told.message
    assert ("plain_channel", Role.ROUGHNESS) not in findings


def test_plain_roughness_is_not_exchanged_with_a_grey_metallic_map(tmp_path):
    simple_set(tmp_path, "deck")
    save(tmp_path / "deck_r.png", Texels(np.full((64, 64, 1), 255, np.uint8), "y", Transfer.LINEAR))
    save(tmp_path / "deck_m.png", map_of(Role.ROUGHNESS))
    assert ("roughness_metallic_exchanged", Role.ROUGHNESS) not in found(tmp_path)


# Missing maps, directions --------------------------------------------------------------------------------------------


def test_a_missing_map_names_the_undecided_file_that_may_be_it(tmp_path):
    simple_set(tmp_path, "deck")
    (tmp_path / "deck_r.png").unlink()
    left = Undecided("in/deck_zub.png", "open", ({"role": "roughness", "set": "deck"},))
    told = found(tmp_path, Wanted(undecided=undecided_by_set([left])))["missing_map", Role.ROUGHNESS]
    assert told.severity is Severity.NOTE
    assert "deck_zub.png" in told.message


def test_a_specular_map_says_how_rough_a_surface_is(tmp_path):
    save(tmp_path / "pipe_d.png", map_of(Role.BASE_COLOR))
    save(tmp_path / "pipe_spec.png", map_of(Role.SPECULAR))
    save(tmp_path / "pipe_n.png", normal_texels())
    assert ("missing_map", Role.ROUGHNESS) not in found(tmp_path)


@pytest.mark.parametrize(("made", "wanted", "told"), [("down", "up", True), ("up", "up", False), ("up", "down", True)])
def test_a_direction_that_no_name_tells_and_the_target_does_not_want_is_noted(tmp_path, made, wanted, told):
    simple_set(tmp_path, "deck", green=Green(made))
    findings = found(tmp_path, Wanted("the target", green=Green(wanted)))
    assert (("direction_unlike_target", Role.NORMAL) in findings) is told


def test_a_worn_normal_map_of_an_old_program_is_still_one(tmp_path):
    """Vectors far off unit length, but level and towards the viewer."""
    rng = np.random.default_rng(4)
    values = np.stack(
        [rng.normal(0.5, 0.02, (64, 64)), rng.normal(0.5, 0.02, (64, 64)), np.full((64, 64), 0.85)], axis=2
    )
    save(tmp_path / "hull_normal.png", Texels(narrow(values.astype(np.float32), EIGHT), "rgb", Transfer.LINEAR))
    findings = found(tmp_path)
    assert ("not_a_normal_map", Role.NORMAL) not in findings
    assert ("not_unit_length", Role.NORMAL) in findings


def test_a_bright_picture_in_the_normal_role_leans_as_a_whole(tmp_path):
    simple_set(tmp_path, "snow")
    save(tmp_path / "snow_n.png", colour(0.92 + 0.06 * np.random.default_rng(1).random((64, 64, 3))))
    assert found(tmp_path)["not_a_normal_map", Role.NORMAL].severity is Severity.ERROR


# ICC profiles: made by Little CMS, judged by what they are -----------------------------------------------------------


def with_profile(path, profile: bytes, name: str):
    body = name.encode() + b"\0\0" + zlib.compress(profile)
    chunk = struct.pack(">I", len(body)) + b"iCCP" + body + struct.pack(">I", zlib.crc32(b"iCCP" + body))
    data = path.read_bytes()
    path.write_bytes(data[:33] + chunk + data[33:])


LINEAR = {"whitepoint": [0.3127, 0.329, 1], "primaries": [0.64, 0.33, 1, 0.3, 0.6, 1, 0.15, 0.06, 1], "gamma": 1.0}


@pytest.mark.parametrize(
    ("profile", "says"),
    [
        (lambda: imagecodecs.cms_profile("srgb"), "srgb"),
        (lambda: imagecodecs.cms_profile("rgb", **LINEAR), "linear"),
        (lambda: imagecodecs.cms_profile("adobergb"), "other"),
        (lambda: imagecodecs.cms_profile("rgb", **{**LINEAR, "gamma": 1.4}), "other"),
        (lambda: b"\0" * 16 + b"RGB " + b"\0" * 200, "other"),
        (lambda: b"short", "other"),
    ],
)
def test_a_profile_is_judged_by_its_curve_and_primaries_not_by_its_name(tmp_path, profile, says):
    assert profile_says(profile()) == says
    path = save(tmp_path / "hull_bc.png", replace(map_of(Role.BASE_COLOR)))
    with_profile(path, profile(), "sRGB built-in, says its name")
    assert read(path).tags.declared_transfer == says


def test_a_damaged_profile_is_a_finding_about_its_file_and_nothing_on_standard_error(tmp_path, capfd):
    path = save(tmp_path / "hull_r.png", map_of(Role.ROUGHNESS))
    with_profile(path, b"\0" * 300, "ICC profile")
    told = found(tmp_path)["tag_against_role", Role.ROUGHNESS]
    assert told.file == "hull_r.png"
    assert capfd.readouterr().err == ""


def test_a_profile_that_never_ends_is_refused():
    assert inflate_profile(b"name\0\0" + zlib.compress(b"\0" * (5 * 1024 * 1024))) is None
    assert inflate_profile(b"name\0\0no zlib") is None


P3 = {"whitepoint": [0.3127, 0.329, 1], "primaries": [0.68, 0.32, 1, 0.265, 0.69, 1, 0.15, 0.06, 1], "gamma": 2.4}


@pytest.mark.parametrize("space", [P3, LINEAR], ids=["P3 with white D65", "BT.709"])
def test_primaries_of_a_profile_are_those_that_it_was_made_with(space):
    """Little CMS writes the columns for D50; undone, ITU-T H.273's numbers stand there again."""
    told = profile_primaries(imagecodecs.cms_profile("rgb", **space))
    wanted = [value for at in (0, 3, 6) for value in space["primaries"][at : at + 2]] + space["whitepoint"][:2]
    np.testing.assert_allclose(told, wanted, atol=0.0015)


@pytest.mark.parametrize("data", [b"short", b"\0" * 16 + b"RGB " + b"\xff" * 200, b"\0" * 16 + b"RGB " + b"\0" * 200])
def test_a_broken_profile_names_no_primaries(data):
    assert profile_primaries(data) is None


def test_colours_in_a_profiles_primaries_are_found_and_brought_over(tmp_path):
    """Against Little CMS, which turns the same profile into BT.709."""
    profile = imagecodecs.cms_profile("rgb", **P3)
    simple_set(tmp_path, "hull")
    # Marked as data, so that no tag of ours stands beside the profile.
    path = save(tmp_path / "hull_bc.png", replace(read(tmp_path / "hull_bc.png"), transfer=Transfer.LINEAR))
    with_profile(path, profile, "some profile")
    told = found(tmp_path)["primaries_against_role", Role.BASE_COLOR]
    assert told.remedy == {"step": "to_srgb_primaries", "source": "p3_d65"}
    stored = read(path)
    light = decode_srgb(to_unit(stored.pixels))
    floats = Texels(light, "rgb", Transfer.LINEAR, Role.BASE_COLOR, tags=stored.tags)
    made = apply_recipe(floats, [{"step": "to_srgb_primaries", "source": "file"}]).pixels
    linear = {**P3, "gamma": 1.0}
    by_cms = imagecodecs.cms_transform(
        narrow(light, np.dtype(np.uint16)), imagecodecs.cms_profile("rgb", **linear),
        imagecodecs.cms_profile("rgb", **LINEAR), colorspace="rgb", outcolorspace="rgb", outdtype="uint16",
    )  # fmt: skip
    np.testing.assert_allclose(np.clip(made, 0, 1), by_cms / 65535, atol=0.002)
