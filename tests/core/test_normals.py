"""Normal maps: direction from pixels, flipping, length, third component, from height."""

import importlib.util
from pathlib import Path

import numpy as np
import pytest
import skimage.data
import skimage.filters
from scipy import ndimage

from demo.intake import _normal
from demo.surfaces import SURFACES
from tests.pictures import EIGHT, FLOAT, SIXTEEN, normal_texels, random_texels
from texel.errors import MismatchedMaps
from texel.files import read
from texel.image import Texels, narrow
from texel.normals.direction import find_direction
from texel.normals.flip import flip_green
from texel.normals.from_height import normals_from_height, slopes
from texel.normals.vectors import decode, lengths, renormalise, z_from_xy
from texel.roles import Green, Role, Transfer

OPPOSITE = {Green.UP: Green.DOWN, Green.DOWN: Green.UP}


@pytest.mark.parametrize("name", SURFACES)
@pytest.mark.parametrize("green", [Green.UP, Green.DOWN])
def test_direction_of_every_generated_map_and_its_flipped_twin(name, green):
    texels = _normal(SURFACES[name](256), green)
    for map_, wanted in ((texels, green), (flip_green(texels), OPPOSITE[green])):
        found = find_direction(map_)
        assert found.green is wanted
        assert 0.5 <= found.confidence <= 1


def real_normal_maps() -> list[Path]:
    """Normal maps in the sample data of the openly licensed (MIT) package materialxgltf; glTF's are Y+."""
    spec = importlib.util.find_spec("materialxgltf")
    assert spec is not None
    assert spec.origin is not None
    return sorted((Path(spec.origin).parent / "data").glob("*_normal.png"))


def test_direction_of_real_maps():
    maps = real_normal_maps()
    assert maps
    for path in maps:
        texels = read(path).as_role(Role.NORMAL)
        assert find_direction(texels).green is Green.UP  # glTF 2.0, 3.9.3: +Y up
        assert find_direction(flip_green(texels)).green is Green.DOWN


@pytest.mark.parametrize("name", ["brick", "grass", "gravel"])
@pytest.mark.parametrize("green", [Green.UP, Green.DOWN])
def test_direction_on_photographed_relief(name, green):
    """Real grey textures of scikit-image as height; strengths from faint to strong."""
    height = getattr(skimage.data, name)().astype(np.float32) / 255
    for strength in (1, 5, 20):
        vectors = normals_from_height(height, strength, green, wrap=False)
        assert find_direction(Texels(narrow((vectors + 1) / 2, EIGHT), "rgb", Transfer.LINEAR)).green is green


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN, FLOAT])
def test_direction_does_not_depend_on_depth(dtype):
    assert find_direction(normal_texels(Green.DOWN, dtype=dtype)).green is Green.DOWN


def test_flat_noisy_one_sided_and_colour_pictures_are_unknown():
    flat = np.full((256, 256, 3), (128, 128, 255), np.uint8)
    jitter = np.random.default_rng(0).integers(-3, 4, flat.shape)
    ramp = np.tile(np.sin(np.arange(256) / 10), (256, 1)).astype(np.float32)
    one_axis = narrow((normals_from_height(ramp, 8) + 1) / 2, EIGHT)
    for pixels in (flat, np.clip(flat + jitter, 0, 255).astype(np.uint8), one_axis, skimage.data.astronaut()):
        found = find_direction(Texels(pixels, "rgb", Transfer.LINEAR))
        assert (found.green, found.confidence) == (Green.UNKNOWN, 0.0)


def test_a_grey_picture_has_no_direction():
    with pytest.raises(MismatchedMaps, match="grey"):
        find_direction(random_texels("y"))


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN])
@pytest.mark.parametrize("channels", ["rgb", "rgba"])
def test_flipping_twice_gives_the_same_bytes_and_touches_green_alone(dtype, channels):
    texels = random_texels(channels, dtype)
    once = flip_green(texels)
    np.testing.assert_array_equal(flip_green(once).pixels, texels.pixels)
    others = [at for at, letter in enumerate(channels) if letter != "g"]
    np.testing.assert_array_equal(once.pixels[:, :, others], texels.pixels[:, :, others])
    np.testing.assert_array_equal(once.pixels[:, :, 1].astype(int) + texels.pixels[:, :, 1], np.iinfo(dtype).max)


def signed_texels(channels: str = "rgb", strength: float = 2.0) -> Texels:
    """A float map as some programs write it: components from -1 to 1, and what else is in the picture."""
    unit = normal_texels(dtype=FLOAT, strength=strength).pixels
    vectors = (unit * 2 - 1)[:, :, : min(3, len(channels.removesuffix("a")))]
    alpha = random_texels("y", FLOAT, width=unit.shape[1], height=unit.shape[0]).pixels
    parts = [vectors, alpha] if channels.endswith("a") else [vectors]
    return Texels(np.ascontiguousarray(np.concatenate(parts, axis=2)), channels, Transfer.LINEAR)


@pytest.mark.parametrize("channels", ["rgb", "rgba", "rg"])
@pytest.mark.parametrize("strength", [0.05, 2, 20])
def test_the_sign_of_a_float_map_is_told_by_the_lengths_of_its_vectors(channels, strength):
    signed = signed_texels(channels, strength).as_role(Role.NORMAL)
    stored = Texels(signed.pixels, channels, Transfer.LINEAR).as_role(Role.NORMAL)
    assert (signed.signed, stored.signed) == (True, False)
    np.testing.assert_array_equal(stored.pixels, signed.pixels)
    np.testing.assert_allclose(decode(signed)[:, :, :2], signed_texels(channels, strength).pixels[:, :, :2], atol=1e-6)


def test_a_filter_that_shoots_over_does_not_make_a_map_signed():
    """Values a little below 0 beside steep places, as sharpening and enlarging leave them."""
    pixels = normal_texels(dtype=FLOAT, strength=20).pixels.copy()
    pixels[::7, ::5, :2] = -0.05
    assert not Texels(pixels, "rgb", Transfer.LINEAR).as_role(Role.NORMAL).signed


def test_two_signed_channels_beside_a_plain_blue_are_signed():
    pixels = signed_texels().pixels.copy()
    for plain in (0.0, 1.0):
        pixels[:, :, 2] = plain
        assert Texels(pixels, "rgb", Transfer.LINEAR).as_role(Role.NORMAL).signed


def test_a_signed_map_read_as_something_else_has_its_own_numbers_again():
    signed = signed_texels("rgba")
    again = signed.as_role(Role.NORMAL).as_role(Role.BASE_COLOR)
    np.testing.assert_allclose(again.pixels, signed.pixels, atol=1e-6)


def test_flipping_signed_floats_turns_green_alone():
    signed = signed_texels("rgba")
    flipped = flip_green(signed)
    np.testing.assert_allclose(decode(flipped), decode(signed) * np.float32([1, -1, 1]), atol=1e-6)
    np.testing.assert_array_equal(flipped.channel("a"), signed.channel("a"))


@pytest.mark.parametrize(("dtype", "tolerance"), [(EIGHT, 0.008), (SIXTEEN, 4e-5), (FLOAT, 1e-6)])
def test_renormalised_vectors_have_unit_length(dtype, tolerance):
    texels = normal_texels(dtype=dtype)
    short = texels.with_pixels(narrow((decode(texels) * 0.6 + 1) / 2, dtype))
    assert lengths(decode(short)).mean() < 0.7
    mended = decode(renormalise(short))
    assert np.abs(lengths(mended) - 1).max() < tolerance
    # Each vector keeps its direction, to the rounding of the stored numbers.
    assert np.abs(mended - decode(texels)).mean() < 0.01


def test_renormalise_survives_vectors_of_no_length():
    texels = Texels(np.full((4, 4, 3), 0.5, np.float32), "rgb", Transfer.LINEAR)
    np.testing.assert_allclose(decode(renormalise(texels)), np.broadcast_to([0, 0, 1], (4, 4, 3)), atol=1e-6)


def test_z_from_xy_gives_back_a_lost_blue():
    texels = normal_texels(dtype=FLOAT, strength=4)
    lost = texels.pixels.copy()
    lost[:, :, 2] = 1.0
    np.testing.assert_allclose(z_from_xy(texels.with_pixels(lost)).pixels, texels.pixels, atol=1e-4)
    two = texels.with_pixels(texels.pixels[:, :, :2].copy(), "rg")
    np.testing.assert_allclose(z_from_xy(two).pixels, texels.pixels, atol=1e-4)


def test_slopes_agree_with_scipy_and_scikit_image():
    """SciPy's Sobel (1-2-1, sum 8 against our unit ramp) and scikit-image's Scharr (3-10-3, which spans two texels)."""
    height = skimage.data.gravel().astype(np.float32) / 255
    dx, dy = slopes(height, "sobel", wrap=True)
    np.testing.assert_allclose(dx, ndimage.sobel(height, axis=1, mode="wrap") / 8, atol=1e-5)
    np.testing.assert_allclose(dy, -ndimage.sobel(height, axis=0, mode="wrap") / 8, atol=1e-5)
    dx, dy = slopes(height, "scharr", wrap=False)
    inner = (slice(2, -2), slice(2, -2))
    np.testing.assert_allclose(dx[inner], skimage.filters.scharr_v(height)[inner] / 2, atol=1e-5)
    np.testing.assert_allclose(dy[inner], -skimage.filters.scharr_h(height)[inner] / 2, atol=1e-5)


def test_normals_of_a_tilted_plane_are_analytic():
    """z = a x + b y (y up) has the normal (-a, -b, 1) normalised, everywhere."""
    a, b = 0.5, -0.25
    y, x = np.mgrid[0:16, 0:16].astype(np.float32)
    vectors = normals_from_height(a * x - b * y, wrap=False)[2:-2, 2:-2]
    wanted = np.array([-a, -b, 1]) / np.sqrt(a * a + b * b + 1)
    np.testing.assert_allclose(vectors, np.broadcast_to(wanted, vectors.shape), atol=1e-5)
