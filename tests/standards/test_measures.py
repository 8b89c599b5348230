"""Error measures against reference code (scikit-image) and analytic cases."""

import numpy as np
import pytest
from skimage import color, data, metrics

from tests.pictures import EIGHT, normal_texels, random_texels
from texel.errors import MismatchedMaps
from texel.image import Texels, narrow, to_unit
from texel.measures import Kind, compare, difference, error_picture, kind_of, weight_of
from texel.measures.colour_difference import ciede2000, lab_of_linear
from texel.measures.similarity import psnr, ssim
from texel.roles import Role, Transfer


@pytest.fixture(scope="module")
def pair():
    """scikit-image's brick, and the same with noise."""
    brick = data.brick()[:200, :240].astype(np.float32) / 255
    noisy = np.clip(brick + np.random.default_rng(1).normal(0, 0.05, brick.shape), 0, 1).astype(np.float32)
    return brick, noisy


def test_psnr_and_ssim_are_those_of_scikit_image(pair):
    first, second = pair
    wanted = metrics.peak_signal_noise_ratio(first, second, data_range=1)
    assert psnr(first, second) == pytest.approx(wanted, abs=1e-4)
    wanted = metrics.structural_similarity(
        first, second, data_range=1, gaussian_weights=True, sigma=1.5, use_sample_covariance=False
    )
    assert ssim(first, second) == pytest.approx(wanted, abs=2e-4)
    assert psnr(first, first) == np.inf
    assert ssim(first, first) == pytest.approx(1)


# Sharma, Wu and Dalal 2005, table 1: pairs 1, 7, 10, 17, 25, 33 and 34 (L, a, b twice, difference); from memory, and
# held to scikit-image below.
_SHARMA = [
    (50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425),
    (50, 0, 0, 50, -1, 2, 2.3669),
    (50, -0.0010, 2.4900, 50, 0.0011, -2.4900, 4.7461),
    (50, 2.5, 0, 73, 25, -18, 27.1492),
    (60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644),
    (6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377),
    (2.0776, 0.0795, -1.1350, 0.9033, -0.0636, -0.5514, 0.9082),
]


def test_colour_differences_are_the_published_ones():
    rows = np.array(_SHARMA, np.float32)
    np.testing.assert_allclose(ciede2000(rows[:, :3], rows[:, 3:6]), rows[:, 6], atol=2e-4)
    np.testing.assert_allclose(color.deltaE_ciede2000(rows[:, :3], rows[:, 3:6]), rows[:, 6], atol=2e-4)


def test_colour_differences_are_those_of_scikit_image():
    first, second = (np.random.default_rng(n).random((40, 50, 3)).astype(np.float32) for n in (1, 2))
    labs = [color.rgb2lab(one).astype(np.float32) for one in (first, second)]
    np.testing.assert_allclose(ciede2000(*labs), color.deltaE_ciede2000(*labs), atol=2e-3)
    light = np.where(first <= 0.04045, first / 12.92, ((first + 0.055) / 1.055) ** 2.4).astype(np.float32)
    np.testing.assert_allclose(lab_of_linear(light), labs[0], atol=0.05)


@pytest.mark.parametrize("degrees", [0.0, 0.05, 3.0, 40.0])
def test_angles_between_normals_are_the_analytic_ones(degrees):
    turn = np.radians(20 + degrees)
    flat = np.array([np.sin(np.radians(20)), 0, np.cos(np.radians(20))], np.float32)
    turned = np.array([np.sin(turn), 0, np.cos(turn)], np.float32)
    maps = [
        Texels(np.tile((v + 1) / 2, (8, 8, 1)).astype(np.float32), "rgb", Transfer.LINEAR, Role.NORMAL)
        for v in (flat, turned)
    ]
    found = compare(*maps, Kind.NORMAL)
    assert found["degrees"] == pytest.approx(degrees, abs=2e-3)
    assert found["degrees_99"] == found["degrees_max"] == pytest.approx(degrees, abs=2e-3)


def test_masks_are_measured_in_steps_and_cut_outs_in_coverage():
    values = np.linspace(0, 1, 256, dtype=np.float32).reshape(16, 16, 1)
    first = Texels(narrow(values, EIGHT), "y", Transfer.LINEAR, Role.OPACITY)
    second = first.with_pixels(np.minimum(first.pixels.astype(int) + 4, 255).astype(np.uint8))
    found = compare(first, second, Kind.MASK)
    assert found["step_max"] == pytest.approx(4 / 255, abs=1e-6)
    # Four of 256 texels come to lie at or above the cut-off.
    assert found["coverage"] == pytest.approx(4 / 256, abs=1e-6)
    assert compare(first, first, Kind.MASK)["psnr"] is None


def test_colour_is_compared_by_its_light():
    first = random_texels("rgb", width=64, height=48).as_role(Role.BASE_COLOR)
    light = Texels(
        np.where(to_unit(first.pixels) <= 0.04045, to_unit(first.pixels) / 12.92,
                 ((to_unit(first.pixels) + 0.055) / 1.055) ** 2.4).astype(np.float32),
        "rgb", Transfer.LINEAR, Role.BASE_COLOR,
    )  # fmt: skip
    assert compare(first, light, Kind.COLOUR)["delta_e_99"] < 0.01
    assert compare(first, first, Kind.COLOUR) == {
        "kind": "colour", "psnr": None, "ssim": 1.0, "delta_e": 0.0, "delta_e_99": 0.0,
    }  # fmt: skip


def test_the_error_picture_is_white_where_it_is_wrong():
    first = normal_texels(n=32)
    wrong = first.pixels.copy()
    wrong[4:8, 4:8] = (255, 128, 128)
    shown = error_picture(first, first.with_pixels(wrong), Kind.NORMAL).pixels[:, :, 0]
    assert shown[5, 5] == 255
    assert shown[20, 20] == 0


def test_two_sizes_cannot_be_compared_and_roles_have_their_kind():
    with pytest.raises(MismatchedMaps, match="only maps of one size"):
        compare(random_texels("rgb"), random_texels("rgb", width=8), Kind.MASK)
    assert [kind_of(r) for r in (Role.NORMAL, Role.EMISSIVE, Role.ROUGHNESS, None)] == [
        Kind.NORMAL, Kind.COLOUR, Kind.MASK, Kind.MASK,
    ]  # fmt: skip


def with_alpha(texels, alpha):
    plane = np.full((texels.height, texels.width, 1), alpha, texels.pixels.dtype)
    return texels.with_pixels(np.concatenate([texels.pixels[:, :, :3], plane], axis=2), "rgba")


@pytest.mark.parametrize("kind", list(Kind))
def test_pictures_that_differ_in_alpha_alone_are_apart(kind):
    """The fault: no difference at all."""
    texels = random_texels("rgb", width=64, height=48)
    opaque, seen_through = with_alpha(texels, 255), with_alpha(texels, 51)
    found = compare(opaque, seen_through, kind)
    assert found["alpha_step"] == found["alpha_step_max"] == pytest.approx(0.8)
    assert found["coverage"] == -1
    assert found.get("psnr", 0) is not None
    assert weight_of(found) == pytest.approx(80 if kind is not Kind.MASK else 0.8)
    assert float(difference(opaque, seen_through, kind).min()) == pytest.approx(weight_of(found), rel=1e-4)


def test_a_picture_without_alpha_counts_as_opaque():
    texels = random_texels("rgb", width=32, height=32)
    assert "alpha_step" not in compare(texels, with_alpha(texels, 255), Kind.COLOUR)
    assert compare(with_alpha(texels, 128), texels, Kind.COLOUR)["alpha_step"] == pytest.approx(127 / 255, abs=1e-6)


def test_a_channel_that_a_format_leaves_out_is_missed():
    pack = random_texels("rgb", width=32, height=32)
    two = pack.with_pixels(pack.pixels[:, :, :2], "rg")
    assert compare(pack, two, Kind.MASK)["step_max"] == pytest.approx(to_unit(pack.pixels)[:, :, 2].max(), abs=1e-6)


def test_ssim_of_a_smaller_picture_says_so():
    large = random_texels("y", width=1500, height=20).as_role(Role.BASE_COLOR)
    assert compare(large, large, Kind.COLOUR)["every"] == 3
    assert "every" not in compare(*[random_texels("y", width=500)] * 2, Kind.COLOUR)
